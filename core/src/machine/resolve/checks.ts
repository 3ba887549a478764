/** What can only be judged once the whole machine is known: overlaps, forms alike, parts nobody uses, ways to halt. */
import { flatActions, flatTargets, readsOf, someExpr, type Expr, type Radix } from '../../notation/tree';
import type { Mend } from '../../text/diagnostic';
import { nearest } from '../../text/nearest';
import { digitsAt, power, shownNumber } from '../../text/number';
import { claimsOf, commonCells, demandsOf, firstCellOf, type Demand } from '../model/encode';
import type { Cycle } from './instructions';
import type { FaultKind, Form, Machine, ScheduledTick } from '../model/machine';
import { programSpaceOf } from '../model/machine';
import { alongForm } from '../model/perMachine';
import { areAlike, outlineOf, shapeOf } from '../model/shapes';
import { checkRelative } from './relative';
import { addProblem, report, type DocumentReading } from './reading';
import { addRegisters, usesOf, type Uses } from './uses';
import type { Span } from '../../text/source';
import type { Path } from '../document/yaml';
import { itemAt } from '../../text/itemAt';

const MOST_OVERLAPS = 50;

/** Adds what is wrong or odd with a machine as a whole. */
export function checkMachine(reading: DocumentReading, machine: Machine, cycle: Cycle): void {
  checkOverlaps(reading, machine);
  checkShapes(reading, machine);
  checkFetch(reading, machine, cycle);
  const uses = usesOf(machine);
  checkHalts(reading, machine, uses);
  checkFlags(reading, machine, uses);
  checkRegisters(reading, machine, uses);
  checkEffects(reading, machine);
  checkWaits(reading, machine, uses);
  checkServices(reading, machine, uses);
  checkEntry(reading, machine);
  checkShortForms(reading, machine);
  for (const form of machine.forms)
    if (form.operands.some((each) => each.relative)) checkRelative(reading, machine, form, [...formPath(reading, form), 'execute']);
}

const FREE = -1;

/** The digits that a first cell must have, lowest first; FREE where any will do. */
function firstDigits(demands: readonly Demand[], width: number, radix: number): Int8Array {
  const digits = new Int8Array(width).fill(FREE);
  for (const each of demands) {
    if (each.cell !== 0) continue;
    for (let at = 0; at < each.width; at++) digits[each.low + at] = digitsAt(each.value, at, 1, radix);
  }
  return digits;
}

/** Whether some cell is both: no digit is fixed to one value here and to another there. */
const compatible = (a: Int8Array, b: Int8Array): boolean => {
  for (let at = 0; at < a.length; at++) if (a[at] !== FREE && b[at] !== FREE && a[at] !== b[at]) return false;
  return true;
};

/** The first 30 bits in which digits are fixed, and how: most pairs of forms differ in those already. Every digit of another base counts as free. */
function fixedBits(digits: Int8Array, radix: number): { readonly mask: number; readonly value: number } {
  let mask = 0;
  let value = 0;
  for (let at = 0; radix === 2 && at < Math.min(30, digits.length); at++) {
    if (digits[at] === FREE) continue;
    mask |= 1 << at;
    value |= digits[at]! << at;
  }
  return { mask, value };
}

/** What a form demands of its cells, by the width and the radix of those. */
const encodings = alongForm((form, { width, radix }: { readonly width: number; readonly radix: Radix }) => {
  const claims = claimsOf(form, width, radix);
  const first = firstDigits(claims.demands, width, radix);
  return { form, claims, first, ...fixedBits(first, radix) };
});

function checkOverlaps(reading: DocumentReading, machine: Machine): void {
  const { radix } = machine;
  const { width } = programSpaceOf(machine);
  const known = machine.forms.map((form) => encodings(form, { width, radix }));
  let found = 0;
  known.forEach((a, index) => {
    for (let before = 0; before < index && found < MOST_OVERLAPS; before++) {
      const b = itemAt(known, before);
      if (((a.value ^ b.value) & a.mask & b.mask) !== 0 || !compatible(a.first, b.first)) continue;
      const cells = commonCells(a.claims, b.claims, Math.max(a.form.format.cells, b.form.format.cells), radix);
      const path = [...formPath(reading, a.form), 'code'];
      const words = { one: b.form.written, other: a.form.written };
      if (a.form.format.cells === b.form.format.cells) {
        if (!cells) continue;
        const fixed = Math.max(...[...a.claims.demands, ...b.claims.demands].map((each) => each.cell)) + 1;
        const example = cells
          .slice(0, fixed)
          .map((each) => shownNumber(each, width, machine))
          .join(' ');
        report(
          reading,
          path,
          { code: 'encodings-overlap', ...words, example },
          { mend: otherOpcode(reading, a.form, { path, machine, known }) },
        );
      } else {
        const first = commonCells(firstCellOf(a.claims), firstCellOf(b.claims), 1, radix);
        if (!first) continue;
        const code = cells ? 'encodings-overlap' : 'lengths-differ';
        report(
          reading,
          path,
          { code, ...words, example: shownNumber(itemAt(first, 0), width, machine) },
          { mend: otherOpcode(reading, a.form, { path, machine, known }) },
        );
      }
      found++;
    }
  });
}

interface Opcodes {
  readonly path: Path;
  readonly machine: Machine;
  readonly known: readonly { readonly form: Form; readonly first: Int8Array }[];
}

/** Gives the form's one fixed field the next value that nothing has. */
function otherOpcode(reading: DocumentReading, form: Form, { path, machine, known }: Opcodes): Mend | undefined {
  const [only, more] = form.fixed;
  if (!only || more) return undefined;
  const { radix } = machine;
  const { width } = programSpaceOf(machine);
  const size = power(radix, only.field.width);
  const others = known.filter((each) => each.form !== form);
  const isTaken = (value: number): boolean => {
    const first = firstDigits(demandsOf({ ...form, fixed: [{ ...only, value }] }, width, radix), width, radix);
    return others.some((each) => compatible(each.first, first));
  };
  let free = only.value;
  for (let step = 1; step < Math.min(size, 4096) && isTaken(free); step++) free = (only.value + step) % size;
  const { start, end } = reading.yaml.spanOf(path);
  const written = /=\s*(\w+)/.exec(reading.source.text.slice(start, end));
  if (!written || isTaken(free)) return undefined;
  const at = start + written.index + written[0].length - itemAt(written, 1).length;
  const text = shownNumber(free, only.field.width, machine);
  return { title: `Give ${form.mnemonic} ${text}`, edits: [{ span: { start: at, end: at + itemAt(written, 1).length }, text }] };
}

function formPath(reading: DocumentReading, form: Form): Path {
  const at = reading.document.instructions[form.mnemonic]!.forms.findIndex((each) => each.write.trim() === form.written);
  return ['instructions', form.mnemonic, 'forms', at];
}

/** Forms that are written alike are allowed where a later one has more room: the assembler takes the first that fits. */
function checkShapes(reading: DocumentReading, machine: Machine): void {
  const known = new Map<string, Form[]>();
  const room = (form: Form): number => form.operands.reduce((sum, each) => sum + each.width + each.dropped, 0);
  const grows = (form: Form, earlier: Form): boolean => room(form) > room(earlier) && form.format.cells >= earlier.format.cells;
  for (const form of machine.forms) {
    const outline = outlineOf(form);
    const own = known.get(outline) ?? [];
    const earlier = own.findLast((each) => areAlike(each, form) && !grows(form, each));
    if (earlier)
      report(reading, [...formPath(reading, form), 'write'], { code: 'forms-alike', written: form.written, other: earlier.written });
    own.push(form);
    known.set(outline, own);
  }
  const short = new Map<string, string>();
  for (const { mnemonic, pieces, written } of machine.shortForms) {
    const shape = shapeOf(pieces, () => '');
    const other = short.get(shape) ?? known.get(shape)?.at(-1)?.written;
    if (other !== undefined) report(reading, ['short forms', mnemonic], { code: 'forms-alike', written, other });
    short.set(shape, written);
  }
}

/** Further cells have to come from somewhere: the cycle's `more`, or a `first` that brings them all. */
function checkFetch(reading: DocumentReading, machine: Machine, cycle: Cycle): void {
  if (cycle.hasMore || reading.document.cycle.more) return;
  const whole = (register: number): boolean =>
    cycle.first.some(({ tick }) =>
      flatActions(tick.actions).some(
        (each) => each.kind === 'transfer' && each.target.kind === 'register' && each.target.register === register && each.target.whole,
      ),
    );
  const long = machine.formats.find(
    (format) => format.cells > 1 && machine.slots.slice(0, format.cells).some((slot) => !whole(slot.register)),
  );
  if (long) report(reading, ['cycle'], { code: 'more-without-ticks', format: long.name });
}

function checkHalts(reading: DocumentReading, machine: Machine, uses: readonly Uses[]): void {
  const halts = uses.some((each) => each.halts);
  const ends = uses.some((each) => each.serves) && machine.traps.some((each) => each.service === 'end');
  if (!halts && !ends) report(reading, ['instructions'], { code: 'no-way-to-halt' }, { grade: 'warning' });
}

function checkFlags(reading: DocumentReading, machine: Machine, uses: readonly Uses[]): void {
  machine.flags.forEach(({ name, line }, flag) => {
    if (line || uses.some((each) => each.flags.has(flag))) return;
    report(reading, ['flags', name], { code: 'flag-never-set', flag: name }, { grade: 'warning' });
  });
}

/** Registers that no tick, trap or stack reads or writes. Elements of an array are used together. */
function checkRegisters(reading: DocumentReading, machine: Machine, uses: readonly Uses[]): void {
  const outside = new Set(machine.stacks.map((each) => each.pointer));
  for (const { argument, result, length } of machine.traps)
    for (const each of [argument, result, length]) if (each) addRegisters(outside, each.value);
  const isUsed = (register: number): boolean => outside.has(register) || uses.some((each) => each.registers.has(register));
  const told = new Set<string>();
  machine.registers.forEach(({ name, array }, register) => {
    const own = array ?? name;
    if (told.has(own) || isUsed(register)) return;
    if (array !== undefined && machine.registers.some((each, at) => each.array === array && isUsed(at))) return;
    told.add(own);
    report(reading, ['registers', own], { code: 'register-unused', register: own }, { grade: 'remark' });
  });
}

/** All that tells what a form does; empty where it does nothing. */
const effectOf = alongForm(({ schedule, format, guard }) => {
  const ticks = schedule.filter((each) => each.part === 'execute').map(({ tick }) => tick.text.replace(/\s+/g, ' '));
  return ticks.length === 0 ? '' : [format.name, guard?.text ?? '', ...ticks].join('\n');
});

/** Two instructions of one format whose ticks are the same to the letter. */
function checkEffects(reading: DocumentReading, machine: Machine): void {
  const seen = new Map<string, Form>();
  for (const form of machine.forms) {
    const effect = effectOf(form);
    const earlier = seen.get(effect);
    if (earlier && effect !== '') {
      const path = [...formPath(reading, form), 'write'];
      report(reading, path, { code: 'same-effect', one: earlier.written, other: form.written }, { grade: 'remark' });
    } else seen.set(effect, form);
  }
}

/** A service by a plain number that no trap has. */
function checkServices(reading: DocumentReading, machine: Machine, uses: readonly Uses[]): void {
  const numbers = machine.traps.map((each) => each.number);
  uses.forEach(({ services }, at) => {
    for (const { number, tick } of services) {
      if (numbers.includes(number)) continue;
      const span = placeOfTick(reading, tick, machine.forms[at - 1]);
      addProblem(reading, { code: 'service-unknown', grade: 'error', span, number, numbers });
    }
  });
}

/** Where a tick stands now: one that was read with an earlier text may have stood elsewhere. */
function placeOfTick(reading: DocumentReading, { part, tick }: ScheduledTick, form: Form | undefined): Span {
  const ofForm: Path | undefined = form && [...formPath(reading, form), 'execute'];
  const path = part === 'execute' && ofForm ? ofForm : part === 'enter' ? ['traps', 'enter', 'ticks'] : ['cycle', part, 'ticks'];
  const line = reading.yaml.linesOf(path).find((each) => each.text === tick.text);
  return line ? { start: line.offset, end: line.offset + line.text.length } : reading.yaml.spanOf(path);
}

function checkWaits(reading: DocumentReading, machine: Machine, uses: readonly Uses[]): void {
  for (const device of new Set(uses.flatMap((each) => [...each.waits]))) {
    const { name, kind, busy } = itemAt(machine.devices, device);
    const ready = kind === 'lamps' || kind === 'digits' || kind === 'switches' || (kind === 'display' && busy === 0);
    if (ready) report(reading, ['devices', name], { code: 'wait-without-status', device: name }, { grade: 'warning' });
  }
}

/** A fault that is a trap, where entering the trap can cause it again. */
function checkEntry(reading: DocumentReading, machine: Machine): void {
  if (machine.entry.length === 0) return;
  const actions = machine.entry.flatMap(({ tick }) => flatActions(tick.actions));
  const reads = actions.flatMap(readsOf);
  const targets = actions.flatMap((each) => (each.kind === 'transfer' ? flatTargets(each.target) : []));
  const some = (found: (expr: Expr) => boolean): boolean => reads.some((each) => someExpr(each, found));
  const divides = (expr: Expr): boolean => expr.kind === 'binary' && (expr.operator === '/' || expr.operator === '%');
  const reasons: Partial<Record<FaultKind, string | false>> = {
    'stack limit': actions.some((each) => each.kind === 'stack') && 'it pushes',
    'read-only': targets.some((each) => each.kind === 'cell' && itemAt(machine.spaces, each.space).readOnly) && 'it writes there',
    division: some(divides) && 'it divides',
    'empty port': (some((each) => each.kind === 'port') || targets.some((each) => each.kind === 'port')) && 'it uses a port',
  };
  for (const [kind, why] of Object.entries(reasons)) {
    if (why && machine.faults[kind as FaultKind]?.kind === 'trap')
      report(reading, ['faults', kind], { code: 'fault-faults-again', kind, why }, { grade: 'warning' });
  }
}

const firstWord = (line: string): string => /^\s*(?:[A-Za-z_]\w*:)?\s*([A-Za-z]\w*)/.exec(line)?.[1]?.toUpperCase() ?? '';

function checkShortForms(reading: DocumentReading, machine: Machine): void {
  const real = new Set(machine.forms.map((each) => each.mnemonic.toUpperCase()));
  const short = new Map(machine.shortForms.map((each) => [each.mnemonic.toUpperCase(), each]));
  for (const form of machine.shortForms) {
    const path = ['short forms', form.mnemonic];
    const at = reading.document['short forms']![form.mnemonic]!.forms.findIndex((each) => each.write.trim() === form.written);
    for (const { text, offset } of reading.yaml.linesOf([...path, 'forms', at, 'for'])) {
      const operation = firstWord(text);
      if (real.has(operation) || short.has(operation)) continue;
      const near = nearest(operation, [...real, ...short.keys()]);
      const span = { start: offset, end: offset + text.length };
      addProblem(reading, { code: 'short-form-unknown', grade: 'error', span, operation, ...(near && { nearest: near }) });
    }
    const way: string[] = [];
    const loops = (mnemonic: string): boolean => {
      const next = short.get(mnemonic);
      if (!next || real.has(mnemonic) || way.length > 40) return false;
      way.push(mnemonic);
      if (next.lines.some((line) => firstWord(line) === form.mnemonic.toUpperCase() || loops(firstWord(line)))) return true;
      way.pop();
      return false;
    };
    if (loops(form.mnemonic.toUpperCase()))
      report(reading, path, { code: 'short-form-loops', mnemonic: form.mnemonic, way: [...way, form.mnemonic.toUpperCase()] });
  }
}
