/** Formats nobody has written: fields of every kind, in pieces, over one to four cells, of bits and of decimal digits. */
import fc from 'fast-check';
import { assemble } from '../assembler/assemble';
import { Runner } from '../engine/control/runner';
import { decode, encode, rangeOf, written } from '../machine/model/encode';
import { fieldText } from '../engine/tell/names';
import type { Field, Form, Machine } from '../machine/model/machine';
import { digitsAt, power, signedReading } from '../text/number';
import { machineFrom } from './demo';

interface Drawn {
  readonly radix: 2 | 10;
  readonly cell: number;
  readonly cells: number;
  readonly widths: readonly number[];
  readonly kinds: readonly string[];
  readonly split: boolean;
  readonly order: string;
}

const KINDS = ['', 'unsigned', 'signed', 'either', 'bias 1', 'signed bias 3', 'register R', 'from next', 'from here+1', 'page'];

const drawn: fc.Arbitrary<Drawn> = fc
  .record({
    radix: fc.constantFrom(2 as const, 10 as const),
    cells: fc.integer({ min: 1, max: 4 }),
    split: fc.boolean(),
    order: fc.constantFrom('', ', low first', ', high first'),
  })
  .chain(({ radix, cells, ...rest }) =>
    fc.record({
      radix: fc.constant(radix),
      cells: fc.constant(cells),
      ...Object.fromEntries(Object.entries(rest).map(([key, value]) => [key, fc.constant(value)])),
      cell: radix === 2 ? fc.integer({ min: 6, max: 16 }) : fc.integer({ min: 4, max: 9 }),
      cuts: fc.array(fc.nat(1000), { minLength: 2, maxLength: 2 }),
      kinds: fc.array(fc.constantFrom(...KINDS), { minLength: 3, maxLength: 3 }),
    }),
  )
  .map((each) => {
    const { radix, cell, cells, cuts, kinds, split, order } = each as unknown as Drawn & { cuts: number[] };
    const room = cell * cells - 2;
    const most = radix === 2 ? 12 : 4;
    const widths: number[] = [];
    let left = room;
    for (const cut of cuts) {
      const width = Math.min(most, 1 + (cut % Math.max(1, left - 1)), left);
      if (width < 1) break;
      widths.push(width);
      left -= width;
    }
    return { radix, cell, cells, widths, kinds, split, order };
  });

/** A register field has to name registers that there are. */
const kindFor = (kind: string, width: number, radix: number): string =>
  kind === 'register R' && width > (radix === 2 ? 6 : 1) ? '' : kind === 'signed bias 3' && width < 2 ? 'signed' : kind;

function documentOf({ radix, cell, cells, widths, kinds, split, order }: Drawn): string {
  const unit = radix === 2 ? 'bits' : 'digits';
  const used = widths.reduce((sum, each) => sum + each, 2);
  const spare = cell * cells - used;
  const items = widths.map((width, at) => {
    const words = kindFor(kinds[at]!, width, radix);
    if (split && at === 0 && width > 1) {
      const high = Math.floor(width / 2);
      return [`f0[${width - 1}:${width - high}] ${high} ${words}`, `f0[${width - high - 1}:0] ${width - high}`];
    }
    return [`f${at} ${width} ${words}`];
  });
  const [first = [], ...others] = items;
  const fields = ['opcode 2', first[0], ...others.flat(), ...(spare > 0 ? [`zero ${spare}`] : []), ...first.slice(1)].filter(
    (each) => each !== undefined,
  );
  const holes = widths.map((_, at) => `{f${at}}`).join(', ');
  const registers = Array.from({ length: cells }, (_, at) => `  I${at}: {role: instruction, ${unit}: ${cell}}`).join('\n');
  return `machine: Drawn
word: {${unit}: ${cell}}
spaces:
  M: {cells: 1000, ${unit}: ${cell}}
registers:
  PC: {role: program counter, ${unit}: ${radix === 2 ? 10 : 3}}
${registers}
  R: {role: general, count: ${radix === 2 ? 64 : 10}, ${unit}: ${cell}}
${widths.map((_, at) => `  S${at}: {${unit}: ${radix === 2 ? 32 : 9}}`).join('\n')}
formats:
  it: ${fields.join(', ')}${order}
  stop: opcode 2, zero ${cell - 2}
cycle:
  phases: [Fetch, Execute]
  first: {phase: Fetch, ticks: 'I0.cell <- M[PC], PC <- PC + 1'}
  decode: {phase: Fetch}
  more: {phase: Fetch, ticks: 'I0.cell <- M[PC], PC <- PC + 1'}
  execute: {phase: Execute}
instructions:
  TRY:
    forms:
      - write: 'TRY${holes ? ` ${holes}` : ''}'
        code: it opcode=1
        execute: |
          ${widths.map((_, at) => `S${at} <- f${at}`).join(', ') || 'PC <- next'}
  STOP: {forms: [{write: STOP, code: stop opcode=0, execute: halt}]}
`;
}

function valueFor(machine: Machine, form: Form, field: Field, at: number, digits: number): number {
  const { radix } = machine;
  if (field.page) return Math.floor((at + form.format.cells) / power(radix, field.width)) * power(radix, field.width) + digits;
  const value = rangeOf({ ...field, kind: field.kind === 'either' ? 'unsigned' : field.kind }, radix).least + digits;
  if (!field.relative) return value;
  return ((((field.relative.from === 'next' ? at + form.format.cells : at) + field.relative.plus + value) % 1000) + 1000) % 1000;
}

/** What a tick should see of a field: its encoded digits, with the bias added. */
const seen = (field: Field, digits: number, radix: number): number => {
  const value = field.kind === 'signed' && field.bias > 0 ? signedReading(digits, field.width, radix) : digits;
  return value + field.bias;
};

test('encode, decode, text and back, and the fields that ticks see, agree on drawn formats', () => {
  fc.assert(
    fc.property(drawn, fc.array(fc.nat(), { minLength: 3, maxLength: 3 }), fc.integer({ min: 20, max: 900 }), (shape, picks, at) => {
      const machine = machineFrom(documentOf(shape));
      const form = machine.forms.find((each) => each.mnemonic === 'TRY')!;
      const digits = form.operands.map(
        (field, index) => picks[index]! % Math.min(power(machine.radix, field.width), field.relative ? 400 : Infinity),
      );
      const values = new Map(form.operands.map((field, index) => [field.name, valueFor(machine, form, field, at, digits[index]!)]));
      const relative = form.operands.some((each) => each.relative || each.page);
      const encoded = encode(machine, form, values, at);
      // A distance that no branch round the end can reach is refused, and so are registers that there are not.
      if ('refused' in encoded) return expect([relative, encoded.refused.reason]).toEqual([true, 'outside']);
      const decoded = decode(machine, (offset) => encoded.cells[offset], at);
      if ('refused' in decoded) throw new Error(JSON.stringify(decoded.refused));
      expect(new Map(decoded.operands.map((each) => [each.field.name, each.value]))).toEqual(values);
      const text = written(form, (field) => fieldText(machine, field, values.get(field.name)!));
      const { program, problems } = assemble(machine, `.origin ${at}\n${text}\nSTOP`);
      expect(problems.filter((each) => each.grade === 'error')).toEqual([]);
      expect(program!.cells.slice(0, form.format.cells).map((each) => each.value)).toEqual(encoded.cells);
      const runner = new Runner(machine, program!);
      expect(runner.run(200, { first: true })).toEqual({ kind: 'halted' });
      const shown = machine.registers.flatMap(({ name, width }, register) =>
        /^S\d$/.test(name) ? [[runner.state.registers[register]!, width]] : [],
      );
      form.operands
        .toSorted((a, b) => a.name.localeCompare(b.name))
        .forEach((field, index) => {
          const raw = encodedDigits(machine, form, field, encoded.cells);
          const [value, width] = shown[index] as [number, number];
          const expected = seen(field, raw, machine.radix);
          const wider = field.bias > 0 ? expected : raw;
          if (wider >= 0) expect([field.name, value]).toEqual([field.name, wider % power(machine.radix, width)]);
        });
      return undefined;
    }),
    { numRuns: Number(process.env.ZETTAK_RUNS ?? 40) },
  );
});

/** The digits of a field, put together again one by one. */
function encodedDigits(machine: Machine, form: Form, field: Field, cells: readonly number[]): number {
  const { radix } = machine;
  const { width } = machine.spaces[0]!;
  let sum = 0;
  for (const piece of field.pieces)
    for (let place = piece.low; place <= piece.high; place++)
      sum +=
        digitsAt(cells[form.format.cells - 1 - Math.floor(place / width)]!, place % width, 1, radix) *
        power(radix, piece.at + place - piece.low);
  return sum;
}
