/** What can only be judged once the whole machine is known: overlaps, parts nobody uses, ways to halt. */
import type { Action, Expr, Target } from '../notation/tree';
import type { Mend } from '../text/diagnostic';
import { withHexPrefix } from '../text/number';
import { firstCellPattern } from './encode';
import type { Form, Machine } from './machine';
import { report, type Work } from './work';
import type { Path } from './yaml';

const MOST_OVERLAPS = 50;

export function checkMachine(work: Work, machine: Machine): void {
  checkOverlaps(work, machine);
  checkHalts(work, machine);
  checkFlags(work, machine);
  checkRegisters(work, machine);
  checkEffects(work, machine);
}

/** Two forms overlap where some first cell has the fixed digits of both. There is no priority. */
function checkOverlaps(work: Work, machine: Machine): void {
  const { width } = machine.spaces[0]!;
  const patterns = machine.forms.map((form) => ({ form, ...firstCellPattern(form, width) }));
  const taken = (cell: number): boolean => patterns.some(({ mask, match }) => (cell & mask) >>> 0 === match);
  let found = 0;
  patterns.forEach((a, index) => {
    for (const b of patterns.slice(0, index)) {
      if (found >= MOST_OVERLAPS || ((a.match ^ b.match) & a.mask & b.mask) !== 0) continue;
      found++;
      const example = withHexPrefix((a.match | b.match) >>> 0, width);
      const path = codePath(work, a.form);
      report(
        work,
        path,
        { code: 'encodings-overlap', one: b.form.written, other: a.form.written, example },
        { mend: otherOpcode(work, a.form, { path, width, taken }) },
      );
    }
  });
}

/** Gives the form the next opcode that nothing has, where its first cell is one fixed field. */
function otherOpcode(
  work: Work,
  form: Form,
  { path, width, taken }: { path: Path; width: number; taken: (cell: number) => boolean },
): Mend | undefined {
  const [only, more] = form.fixed;
  if (!only || more || only.field.high - only.field.low + 1 !== width) return undefined;
  const size = 2 ** width;
  let free = only.value;
  for (let step = 1; step < Math.min(size, 4096) && taken(free); step++) free = (only.value + step) % size;
  const { start, end } = work.yaml.spanOf(path);
  const written = /=\s*(\w+)/.exec(work.source.text.slice(start, end));
  if (taken(free) || !written) return undefined;
  const at = start + written.index + written[0].length - written[1]!.length;
  const text = withHexPrefix(free, width);
  return { title: `Give ${form.mnemonic} ${text}`, edits: [{ span: { start: at, end: at + written[1]!.length }, text }] };
}

function formPath(work: Work, form: Form): Path {
  const at = work.document.instructions[form.mnemonic]!.forms.findIndex((each) => each.write.trim() === form.written);
  return ['instructions', form.mnemonic, 'forms', at];
}

const codePath = (work: Work, form: Form): Path => [...formPath(work, form), 'code'];

const allActions = (machine: Machine): Action[] =>
  machine.forms.flatMap((form) => form.schedule.flatMap(({ tick }) => flatten(tick.actions)));

const flatten = (actions: readonly Action[]): Action[] =>
  actions.flatMap((each) => (each.kind === 'if' ? [each, ...flatten(each.then), ...flatten(each.otherwise)] : [each]));

function checkHalts(work: Work, machine: Machine): void {
  const all = allActions(machine);
  const halts = all.some((each) => each.kind === 'halt');
  const ends = all.some((each) => each.kind === 'service') && machine.traps.some((each) => each.service === 'end');
  if (!halts && !ends) report(work, ['instructions'], { code: 'no-way-to-halt' }, { grade: 'warning' });
}

function checkFlags(work: Work, machine: Machine): void {
  const set = new Set<number>();
  for (const action of allActions(machine)) {
    if (action.kind === 'transfer' && action.target.kind === 'flag') set.add(action.target.flag);
    if (action.kind === 'transfer' || action.kind === 'compare') action.flagged?.effects.forEach(({ flag }) => set.add(flag));
  }
  machine.flags.forEach(({ name }, flag) => {
    if (!set.has(flag)) report(work, ['flags', name], { code: 'flag-never-set', flag: name }, { grade: 'warning' });
  });
}

/** Registers that no tick and no trap reads or writes. */
function checkRegisters(work: Work, machine: Machine): void {
  const used = new Set(machine.traps.flatMap((each) => [each.argument, each.result]));
  const inTarget = (target: Target): void => {
    if (target.kind === 'register') used.add(target.register);
    if (target.kind === 'cell') inExpr(target.address);
  };
  const inExpr = (expr: Expr): void => {
    if (expr.kind === 'register' || expr.kind === 'slice') used.add(expr.register);
    for (const each of partsOf(expr)) inExpr(each);
  };
  for (const action of allActions(machine)) {
    if (action.kind === 'transfer') {
      inTarget(action.target);
      inExpr(action.value);
    }
    if (action.kind === 'compare') [action.flagged.operation.a, action.flagged.operation.b].forEach((each) => each && inExpr(each));
    if (action.kind === 'if') inExpr(action.condition);
    if (action.kind === 'service') inExpr(action.number);
  }
  machine.registers.forEach(({ name }, register) => {
    if (!used.has(register)) report(work, ['registers', name], { code: 'register-unused', register: name }, { grade: 'remark' });
  });
}

function partsOf(expr: Expr): readonly Expr[] {
  switch (expr.kind) {
    case 'cell':
      return [expr.address];
    case 'unary':
    case 'resize':
      return [expr.operand];
    case 'binary':
      return [expr.left, expr.right];
    case 'shift':
      return [expr.operand, expr.places];
    case 'join':
      return expr.parts;
    case 'literal':
    case 'register':
    case 'slice':
    case 'flag':
    case 'latch':
      return [];
    default:
      return expr satisfies never;
  }
}

/** Two instructions of one format whose ticks are the same to the letter. */
function checkEffects(work: Work, machine: Machine): void {
  const seen = new Map<string, Form>();
  for (const form of machine.forms) {
    const ticks = form.schedule.filter((each) => each.part === 'execute').map(({ tick }) => tick.text.replace(/\s+/g, ' '));
    const key = [form.format.name, ...ticks].join('\n');
    const earlier = seen.get(key);
    if (earlier && ticks.length > 0)
      report(
        work,
        [...formPath(work, form), 'write'],
        { code: 'same-effect', one: earlier.written, other: form.written },
        { grade: 'remark' },
      );
    else seen.set(key, form);
  }
}
