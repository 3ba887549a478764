/** What moved in words: where a value came from or how it was worked out, where it went, and what of it was lost. */
import { indexOf, type Program } from '../../image/program';
import type { Machine } from '../../machine/model/machine';
import { itemAt } from '../../text/itemAt';
import { digitsIn, power, shownDigits, shownNumber, signedReading, unitOf } from '../../text/number';
import type { ReadValue, ToldTransfer, Worked } from '../meaning/report';
import { placeName } from './names';
import { capital, name, text, type Segment, type Telling, type Tense } from './telling';

function valueSegment({ machine }: Telling, { value, width, path }: Pick<ToldTransfer, 'value' | 'width' | 'path'>): Segment {
  return { kind: path, text: shownDigits(value, width, machine) };
}

export function transferSentence(telling: Telling, transfer: ToldTransfer, tense: Tense): Segment[] {
  const target = placeName(telling.machine, telling.program, transfer.target);
  const value = valueSegment(telling, transfer);
  if (transfer.lost) return [value, text(` ${tense === 'done' ? 'was' : 'will be'} thrown away: `), name(target), text(' is fixed at 0.')];
  if (transfer.route === 'straight' || !transfer.worked) return straightSentence(telling, transfer, target, value, tense);
  const work = transfer.worked;
  if (transfer.route === 'count') {
    const step = `${work.operator === '+' ? 'on' : 'back'} by ${work.b}`;
    return [
      name(capital(target)),
      text(` ${tense === 'done' ? 'has moved' : 'moves'} ${step}, to `),
      value,
      text('.'),
      ...wrapWords(telling, work),
    ];
  }
  const old = { kind: 'data' as const, text: shownDigits(transfer.before, transfer.width, telling.machine) };
  const becomes = transfer.before === transfer.value ? [text(' stays ')] : [text(' becomes ')];
  return [
    text('The ALU '),
    ...operationWords(telling, work, transfer.sources),
    text('. '),
    name(capital(target)),
    ...becomes,
    value,
    ...(transfer.before === transfer.value ? [] : [text(', it was '), old]),
    text('.'),
    ...wrapWords(telling, work),
    ...keptWords(telling, work, transfer),
  ];
}

function straightSentence(telling: Telling, transfer: ToldTransfer, target: string, value: Segment, tense: Tense): Segment[] {
  const [source] = transfer.sources;
  const stays = transfer.before === transfer.value;
  const from = originWords(telling, transfer, source);
  const verb = tense === 'done' ? (transfer.target.kind === 'cell' ? 'was written to' : 'went to') : 'goes to';
  const change = stays
    ? [text(', which held it already')]
    : [text(', replacing '), { kind: transfer.path, text: shownDigits(transfer.before, transfer.width, telling.machine) } as Segment];
  return [value, text(' '), ...from, text(` ${verb} `), name(target), ...change, text('.')];
}

export const fromInstruction = (machine: Machine, { place, name: named }: ReadValue): boolean =>
  place?.kind === 'register' && itemAt(machine.registers, place.register).role === 'instruction' && named !== undefined;

/** “from level”, “from PC”, “from the address field”. */
function readingWords({ machine, program }: Telling, reading: ReadValue, transfer: ToldTransfer): Segment[] {
  const { place, name: named } = reading;
  if (!place) return [text('as written in the tick')];
  if (fromInstruction(machine, reading)) {
    const label = transfer.path === 'address' ? labelOf(program, reading.value) : undefined;
    return [text(`from the ${named} field of the instruction`), ...(label ? [text(', where '), name(label), text(' lies,')] : [])];
  }
  const latch = LATCH_WORDS[named ?? ''];
  if (latch !== undefined) return [text(`(${latch})`)];
  if (named === 'cause') return [text('(the cause of the trap)')];
  return [text('from '), name(placeName(machine, program, place))];
}

/** Where a value that was moved comes from; of one that was worked out and cannot be told as an operation, what it was worked out from. */
function originWords(telling: Telling, transfer: ToldTransfer, source: ReadValue | undefined): Segment[] {
  const { route, parts, sources, width } = transfer;
  if (route === 'alu' || (!parts && sources.length > 1)) {
    if (sources.length === 0) return [text('(worked out in the tick)')];
    const told = sources.map((each) => operandWords(telling, each, { value: each.value, width: each.width, extended: false }));
    return [text('(worked out from '), ...told.flatMap((each, at) => (at === 0 ? each : [text(' and '), ...each])), text(')')];
  }
  const [part, more] = parts ?? [];
  if (part && !more && part.width >= width) return fromWords(telling, part);
  const row = parts && rowWords(telling, parts);
  if (row) return row;
  if (parts) {
    const told = parts.map((each): Segment[] => [
      { kind: 'data', text: shownDigits(each.value, each.width, telling.machine) },
      ...(each.place ? [text(' '), ...fromWords(telling, each)] : []),
    ]);
    const joined = told.flatMap((each, at) => (at === 0 ? each : [text(', then '), ...each]));
    return [text('('), ...joined, text(`${more ? '' : ', its sign repeated'})`)];
  }
  return source ? readingWords(telling, source, transfer) : [text('the instruction')];
}

/** “from cell 0x0008 to cell 0x000B”, where cells behind each other are read as one, either way round. */
function rowWords({ machine, program }: Telling, parts: readonly ReadValue[]): Segment[] | undefined {
  const cells = parts.flatMap(({ place, name: named }) => (place?.kind === 'cell' && named === undefined ? [place] : []));
  const [first, second] = cells;
  if (!first || !second || cells.length < parts.length) return undefined;
  const step = second.address - first.address;
  if (Math.abs(step) !== 1) return undefined;
  if (cells.some((each, at) => each.space !== first.space || each.address !== first.address + step * at)) return undefined;
  const [from, to] = [first, itemAt(cells, cells.length - 1)].map((each) => name(placeName(machine, program, each))) as [Segment, Segment];
  return [text('from '), from, text(step > 0 ? ' to ' : ' down to '), to];
}

/** “from next[15:12]”, “from the target field”. */
function fromWords({ machine, program }: Telling, part: ReadValue): Segment[] {
  const { place, name: named = '' } = part;
  if (!place) return [text('as written in the tick')];
  if (fromInstruction(machine, part)) return [text(`from the ${named} field`)];
  // What stands in no register of the document is called as it is written.
  const [called] = named.split('[');
  return [text('from '), name(LATCHES.has(called ?? '') ? named : `${placeName(machine, program, place)}${called === '' ? named : ''}`)];
}

const LATCHES: ReadonlySet<string> = new Set(['here', 'next', 'cause']);

export const labelOf = (program: Program | undefined, address: number | bigint): string | undefined =>
  program && indexOf(program).labelAt.get(Number(address));

const VERBS: Readonly<Record<Worked['operator'], string>> = {
  '+': 'adds',
  '-': 'takes',
  '*': 'multiplies',
  '/': 'divides',
  '%': 'keeps the remainder of',
  asr: 'shifts right, keeping the sign,',
  rotl: 'rotates left',
  rotr: 'rotates right',
  '&': 'joins by AND',
  '|': 'joins by OR',
  '^': 'joins by exclusive OR',
  '<<': 'shifts left',
  '>>': 'shifts right',
  '~': 'turns over every bit of',
  negate: 'negates',
  value: 'passes on',
};

export function operationWords(telling: Telling, work: Worked, sources: readonly ReadValue[]): Segment[] {
  const [extendsA, extendsB] = work.extended ?? [false, false];
  const a = operandWords(telling, sources[0], { value: work.a, width: work.widths[0], extended: extendsA });
  const b = work.b === undefined ? [] : operandWords(telling, sources[1], { value: work.b, width: work.widths[1], extended: extendsB });
  const { carry } = work;
  switch (work.operator) {
    case '*':
    case '/':
    case '%':
      return [
        text(`${VERBS[work.operator]} `),
        ...a,
        text(work.operator === '%' ? ' divided by ' : ' by '),
        ...b,
        ...(work.signed ? [text(', both read as signed')] : []),
      ];
    case '+':
      return [text('adds '), ...b, text(' to '), ...a, ...carryWords(work)];
    case '-':
      return [text('takes '), ...b, text(' from '), ...a, ...carryWords(work)];
    case 'asr':
    case 'rotl':
    case 'rotr':
    case '<<':
    case '>>':
      return [
        text(`${VERBS[work.operator]} `),
        ...a,
        text(` by ${work.b} ${work.b === 1 ? 'place' : 'places'}${carry === undefined ? '' : ', through the flag'}`),
      ];
    case '&':
    case '|':
    case '^':
      return [text(`${VERBS[work.operator]} `), ...a, text(' and '), ...b];
    case '~':
    case 'negate':
    case 'value':
      return [text(`${VERBS[work.operator]} `), ...a];
    default:
      return work.operator satisfies never;
  }
}

const carryWords = ({ carry }: Worked): Segment[] => (carry === undefined ? [] : [text(` with the carry ${carry}`)]);

/** What the exact result was, where it does not fit; whether or not a flag tells. */
function wrapWords({ machine }: Telling, work: Worked): Segment[] {
  const { operator, result, width, signed, radix, wide } = work;
  if (wide !== undefined || (operator !== '+' && operator !== '-' && operator !== '*')) return [];
  const size = power(radix, width);
  const exact = exactOf(work);
  const fits = signed ? exact >= -size / 2 && exact < size / 2 : exact >= 0 && exact < size;
  if (fits || !Number.isSafeInteger(exact)) return [];
  const shown = exact < 0 ? `−${String(-exact)}` : shownNumber(exact, digitsIn(exact, radix), machine);
  const room = `${width} ${width === 1 ? unitOf(radix).slice(0, -1) : unitOf(radix)} ${signed ? 'with' : 'without'} a sign`;
  const told = ` Exactly it is ${shown}, too ${exact < 0 ? 'little' : 'much'} for ${room}: it wrapped to `;
  return [text(told), { kind: 'data', text: shownDigits(result, width, machine) }, text('.')];
}

/** Which digits of a result were kept, where others are lost by that. */
function keptWords({ machine }: Telling, { wide, result, width: of }: Worked, { value, width, lowest = 0 }: ToldTransfer): Segment[] {
  const whole = wide ?? result;
  if (width > of && whole !== value) return [text(' Its sign was repeated.')];
  if (width >= of || BigInt(whole) === BigInt(value)) return [];
  const unit = unitOf(machine.radix);
  const high = lowest + width - 1;
  const kept = lowest === 0 ? `the low ${width} ${unit}` : `${unit} ${high} to ${lowest}`;
  return [text(' Of '), { kind: 'data', text: shownDigits(whole, of, machine) }, text(` it keeps ${kept}.`)];
}

/** The exact result; what has had its sign repeated counts with it, as the distance of a branch does. */
function exactOf({ operator, a, b = 0, carry = 0, exact, widths, radix, extended }: Worked): number {
  if (!extended || operator === '*') return exact;
  const [x, y] = [a, b].map((each, at) => (extended[at] ? signedReading(each, itemAt(widths, at), radix) : each)) as [number, number];
  return operator === '+' ? x + y + carry : x - y - carry;
}

/** Which of two compared values is less, read without a sign and with one. */
export function verdictOf({ operator, a, b, widths, radix, carry }: Worked): Segment[] {
  if (operator !== '-' || b === undefined || carry !== undefined) return [];
  if (a === b && widths[0] === widths[1]) return [text('They are equal.')];
  const sign = (x: number, y: number): string =>
    `${spelled(x)} ${x < y ? 'is less than' : x > y ? 'is greater than' : 'equals'} ${spelled(y)}`;
  const [x, y] = [signedReading(a, widths[0], radix), signedReading(b, widths[1], radix)];
  if (x === a && y === b) return [text(`With a sign and without, ${sign(a, b)}.`)];
  return [text(`Without a sign, ${sign(a, b)}; with a sign, ${sign(x, y)}.`)];
}

const spelled = (value: number): string => String(value).replace('-', '−');

interface ToldOperand {
  readonly value: number | bigint;
  readonly width: number;
  /** It counts with its sign. */
  readonly extended: boolean;
}

function operandWords(telling: Telling, reading: ReadValue | undefined, { value, width, extended }: ToldOperand): Segment[] {
  const { machine, program } = telling;
  const digits: Segment = { kind: 'data', text: shownDigits(value, width, machine) };
  const signed = extended ? signedReading(Number(value), width, machine.radix) : value;
  if (signed !== value) return [text(`${spelled(Number(signed))} (`), digits, text(')')];
  if (!reading?.place || reading.value !== value) return [digits];
  if (fromInstruction(machine, reading)) return [digits, text(` in the ${reading.name} field`)];
  const named = placeName(machine, program, reading.place);
  // Of a counter that is wider than an address nobody needs to know which of its digits are meant.
  const latch = named.includes('[') ? LATCH_WORDS[reading.name ?? ''] : undefined;
  return latch === undefined ? [digits, text(' in '), name(named)] : [digits, text(`, ${latch}`)];
}

const LATCH_WORDS: Readonly<Record<string, string>> = {
  next: 'the address after this instruction',
  here: 'the address of this instruction',
};
