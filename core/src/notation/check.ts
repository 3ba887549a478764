/** Turns a tick's syntax into its checked tree: looks names up, settles widths, finds what cannot be meant. */
import { nearest } from '../text/nearest';
import type { Span } from '../text/source';
import type { NotationProblem } from './problems';
import type { ActionSyntax, ExprSyntax, TickSyntax } from './syntax';
import type { Action, Expr, Flagged, FlagEffect, FlagRule, Latch, Operation, Target, Tick } from './tree';

export interface Slice {
  readonly register: number;
  readonly high: number;
  readonly low: number;
}

/** What a name means, as the machine tells it. */
export type Meaning =
  | { readonly kind: 'register'; readonly register: number; readonly width: number; readonly parts: ReadonlyMap<string, Slice> }
  | {
      readonly kind: 'flag';
      readonly flag: number;
      readonly rule?: FlagRule;
      readonly noBorrow: boolean;
      readonly into: number;
      readonly odd: boolean;
    }
  | { readonly kind: 'space'; readonly space: number; readonly width: number }
  | { readonly kind: 'field'; readonly slice: Slice };

export interface Scope {
  readonly names: ReadonlyMap<string, Meaning>;
  /** Width of an address of the program space, which `here`, `next` and `length` have. */
  readonly addressWidth: number;
}

interface Work {
  readonly scope: Scope;
  readonly problems: NotationProblem[];
}

const LATCHES: readonly string[] = ['here', 'next', 'length'] satisfies Latch[];
const COMPARISONS = new Set(['=', '!=', '<', '<=', '>', '>=']);

/** `tick` is undefined when `problems` holds an error. */
export function checkTick(syntax: TickSyntax, scope: Scope): { tick?: Tick; problems: NotationProblem[] } {
  const work: Work = { scope, problems: [] };
  const given = new Set(
    syntax.actions.flatMap((each) => (each.kind === 'transfer' && each.target.kind === 'name' ? [each.target.name] : [])),
  );
  const ruled = syntax.flags.filter(({ name }) => !given.has(name));
  const effects = ruled.flatMap((flag) => checkFlag(work, flag) ?? []);
  const candidates = syntax.actions.flatMap(flaggable).filter((each) => !isFlagTransfer(work, each));
  if (syntax.flags.length > 0 && candidates.length !== 1) {
    add(work, { code: 'flags-need-one-operation', grade: 'error', span: syntax.span, count: candidates.length });
  }
  const flagged = syntax.flags.length > 0 ? candidates[0] : undefined;
  const actions = syntax.actions.flatMap((each) => checkAction(work, each, flagged, effects) ?? []);
  checkAlone(work, syntax);
  checkWriters(work, syntax, actions);
  const broken = work.problems.some((each) => each.grade === 'error');
  return { ...(!broken && { tick: { text: syntax.text, span: syntax.span, actions } }), problems: work.problems };
}

const add = (work: Work, problem: NotationProblem): void => void work.problems.push(problem);

function flaggable(action: ActionSyntax): ActionSyntax[] {
  if (action.kind === 'transfer' || action.kind === 'compare') return [action];
  return action.kind === 'if' ? [...action.then, ...action.otherwise].flatMap(flaggable) : [];
}

function isFlagTransfer(work: Work, action: ActionSyntax): boolean {
  if (action.kind !== 'transfer' || action.target.kind !== 'name') return false;
  return work.scope.names.get(action.target.name)?.kind === 'flag';
}

function checkFlag(work: Work, { name, span }: { name: string; span: Span }): FlagEffect | undefined {
  const meaning = lookUp(work, name, span);
  if (!meaning) return undefined;
  if (meaning.kind !== 'flag') {
    add(work, { code: 'unknown-name', grade: 'error', span, name });
    return undefined;
  }
  if (meaning.rule) {
    const { flag, rule, noBorrow, into, odd } = meaning;
    return { flag, rule, noBorrow, into, odd };
  }
  add(work, { code: 'flag-without-rule', grade: 'error', span, flag: name });
  return undefined;
}

function checkAction(
  work: Work,
  syntax: ActionSyntax,
  flagged: ActionSyntax | undefined,
  effects: readonly FlagEffect[],
): Action | undefined {
  switch (syntax.kind) {
    case 'halt':
      return { kind: 'halt' };
    case 'service': {
      const number = checkExpr(work, syntax.number, work.scope.addressWidth);
      return number && { kind: 'service', number };
    }
    case 'compare':
      return checkCompare(work, syntax, effects);
    case 'transfer':
      return checkTransfer(work, syntax, syntax === flagged ? effects : undefined);
    case 'if': {
      const condition = checkExpr(work, syntax.condition);
      const check = (each: ActionSyntax) => checkAction(work, each, flagged, effects) ?? [];
      const then = syntax.then.flatMap(check);
      const otherwise = syntax.otherwise.flatMap(check);
      return condition && { kind: 'if', condition, text: textOf(syntax.condition), then, otherwise };
    }
    default:
      return syntax satisfies never;
  }
}

function checkCompare(work: Work, syntax: ActionSyntax & { kind: 'compare' }, effects: readonly FlagEffect[]): Action | undefined {
  const value = checkExpr(work, syntax.value);
  if (!value) return undefined;
  if (effects.length === 0) {
    add(work, {
      code: 'tick-expected',
      grade: 'error',
      span: syntax.span,
      expected: '“; flags …” after a compare',
      found: 'the end of the line',
    });
    return undefined;
  }
  return { kind: 'compare', flagged: checkFlagged(work, value, effects, syntax.span) };
}

function checkTransfer(
  work: Work,
  syntax: ActionSyntax & { kind: 'transfer' },
  effects: readonly FlagEffect[] | undefined,
): Action | undefined {
  const target = checkTarget(work, syntax.target);
  const value = checkExpr(work, syntax.value, target?.width);
  if (!target || !value) return undefined;
  if (value.width > target.width) {
    add(work, { code: 'value-cut', grade: 'remark', span: syntax.value.span, width: value.width, into: target.width });
  }
  return { kind: 'transfer', target, value, ...(effects && { flagged: checkFlagged(work, value, effects, syntax.span) }) };
}

function checkFlagged(work: Work, value: Expr, effects: readonly FlagEffect[], span: Span): Flagged {
  const operation = operationOf(value);
  const named = [...work.scope.names];
  for (const { flag, rule } of effects) {
    if (hasMeaning(rule, operation)) continue;
    const name = named.find(([, meaning]) => meaning.kind === 'flag' && meaning.flag === flag)![0];
    add(work, { code: 'rule-without-meaning', grade: 'error', span, flag: name, rule, operator: wordOf(operation) });
  }
  return { operation, effects };
}

const SHIFTS: readonly string[] = ['<<', '>>', 'asr', 'rotl', 'rotr'];

function hasMeaning(rule: FlagRule, { operator }: Operation): boolean {
  if (rule === 'zero' || rule === 'negative' || rule === 'parity') return true;
  const sum = operator === '+' || operator === '-' || operator === 'negate';
  return sum || (rule !== 'half-carry' && SHIFTS.includes(operator));
}

const wordOf = ({ operator }: Operation): string => (operator === 'value' ? 'a plain value' : `“${operator}”`);

/** The operation as written: `a ± b`, `a ± b ± flag`, a shift, logic, a negation, or a plain value. */
export function operationOf(value: Expr): Operation {
  const { width } = value;
  if (value.kind === 'unary') {
    return { operator: value.operator === '-' ? 'negate' : '~', a: value.operand, width };
  }
  if (value.kind === 'shift')
    return { operator: value.operator, a: value.operand, b: value.places, ...(value.through && { carry: value.through }), width };
  if (value.kind !== 'binary' || COMPARISONS.has(value.operator)) return { operator: 'value', a: value, width };
  const operator = value.operator as '+' | '-' | '*' | '&' | '|' | '^' | '<<' | '>>';
  const { left, right } = value;
  const sameSign = left.kind === 'binary' && left.operator === operator && (operator === '+' || operator === '-');
  if (right.kind === 'flag' && sameSign) return { operator, a: left.left, b: left.right, carry: right, width };
  return { operator, a: left, b: right, width };
}

function checkTarget(work: Work, syntax: ExprSyntax): Target | undefined {
  if (syntax.kind === 'index' && work.scope.names.get(syntax.name)?.kind === 'space') {
    const cell = checkExpr(work, syntax);
    return cell?.kind === 'cell' ? cell : undefined;
  }
  if (syntax.kind !== 'name' && syntax.kind !== 'slice' && syntax.kind !== 'index') return noTarget(work, syntax);
  const meaning = lookUp(work, syntax.name, syntax.span);
  if (!meaning) return undefined;
  if (meaning.kind === 'flag' && syntax.kind === 'name' && !syntax.part) return { kind: 'flag', flag: meaning.flag, width: 1 };
  if (meaning.kind !== 'register') return noTarget(work, syntax);
  const value = checkExpr(work, syntax);
  if (value?.kind === 'register') {
    return { kind: 'register', register: value.register, high: value.width - 1, low: 0, width: value.width, whole: true };
  }
  if (value?.kind !== 'slice') return undefined;
  const { register, high, low, width } = value;
  return { kind: 'register', register, high, low, width, whole: false };
}

function noTarget(work: Work, syntax: ExprSyntax): undefined {
  add(work, { code: 'not-a-target', grade: 'error', span: syntax.span, text: textOf(syntax) });
  return undefined;
}

/** `expected` is the width that a bare number takes when it has no partner. */
function checkExpr(work: Work, syntax: ExprSyntax, expected?: number): Expr | undefined {
  switch (syntax.kind) {
    case 'number':
      return checkLiteral(work, syntax, expected);
    case 'name':
      return checkName(work, syntax);
    case 'index':
      return checkIndex(work, syntax);
    case 'slice':
      return checkSlice(work, syntax.name, syntax);
    case 'unary': {
      const operand = checkExpr(work, syntax.operand, expected);
      return operand && { kind: 'unary', operator: syntax.operator, operand, width: operand.width };
    }
    case 'binary':
      return checkBinary(work, syntax, expected);
    case 'call':
      return checkCall(work, syntax, expected);
    default:
      return syntax satisfies never;
  }
}

function checkLiteral(work: Work, { value, span }: ExprSyntax & { kind: 'number' }, expected?: number): Expr | undefined {
  const width = expected ?? Math.max(1, Math.ceil(Math.log2(value + 1)));
  if (value < 2 ** width) return { kind: 'literal', value, width };
  add(work, { code: 'literal-too-wide', grade: 'error', span, value, width });
  return undefined;
}

function checkName(work: Work, syntax: ExprSyntax & { kind: 'name' }): Expr | undefined {
  const { name, part, span } = syntax;
  const { scope } = work;
  if (LATCHES.includes(name) && !scope.names.has(name)) {
    return { kind: 'latch', latch: name as Latch, width: scope.addressWidth };
  }
  const meaning = lookUp(work, name, span);
  if (!meaning) return undefined;
  if (part !== undefined) return checkPart(work, name, part, meaning, span);
  switch (meaning.kind) {
    case 'register':
      return { kind: 'register', register: meaning.register, width: meaning.width };
    case 'flag':
      return { kind: 'flag', flag: meaning.flag, width: 1 };
    case 'field':
      return { kind: 'slice', ...meaning.slice, width: meaning.slice.high - meaning.slice.low + 1, name, field: true };
    case 'space':
      add(work, { code: 'not-a-value', grade: 'error', span, name, is: 'a memory' });
      return undefined;
    default:
      return meaning satisfies never;
  }
}

function checkPart(work: Work, name: string, part: string, meaning: Meaning, span: Span): Expr | undefined {
  const parts = meaning.kind === 'register' ? meaning.parts : new Map<string, Slice>();
  const slice = parts.get(part);
  if (slice) return { kind: 'slice', ...slice, width: slice.high - slice.low + 1, name: part, field: false };
  add(work, { code: 'unknown-part', grade: 'error', span, register: name, part, parts: [...parts.keys()] });
  return undefined;
}

function checkIndex(work: Work, syntax: ExprSyntax & { kind: 'index' }): Expr | undefined {
  const meaning = lookUp(work, syntax.name, syntax.span);
  if (!meaning) return undefined;
  if (meaning.kind === 'register' && syntax.index.kind === 'number') {
    return checkSlice(work, syntax.name, { span: syntax.span, high: syntax.index.value, low: syntax.index.value });
  }
  if (meaning.kind !== 'space') {
    add(work, { code: 'not-a-value', grade: 'error', span: syntax.span, name: syntax.name, is: `no memory, so ${syntax.name}[…]` });
    return undefined;
  }
  const address = checkExpr(work, syntax.index, work.scope.addressWidth);
  return address && { kind: 'cell', space: meaning.space, address, width: meaning.width };
}

function checkSlice(work: Work, name: string, { span, high, low }: { span: Span; high: number; low: number }): Expr | undefined {
  const meaning = lookUp(work, name, span);
  if (!meaning) return undefined;
  if (meaning.kind !== 'register') {
    add(work, { code: 'not-a-value', grade: 'error', span, name, is: 'no register, so a slice of it' });
    return undefined;
  }
  if (high < low || high >= meaning.width) {
    add(work, { code: 'slice-outside', grade: 'error', span, name, width: meaning.width });
    return undefined;
  }
  return { kind: 'slice', register: meaning.register, high, low, width: high - low + 1, field: false };
}

/** A literal takes its partner's width; comparisons have width 1; a shift keeps the width of what is shifted. */
function checkBinary(work: Work, syntax: ExprSyntax & { kind: 'binary' }, expected?: number): Expr | undefined {
  const { operator } = syntax;
  const comparison = COMPARISONS.has(operator);
  const shift = operator === '<<' || operator === '>>';
  const outer = comparison ? undefined : expected;
  const leftFirst = syntax.left.kind !== 'number' || shift;
  const first = checkExpr(work, leftFirst ? syntax.left : syntax.right, outer);
  const second = checkExpr(work, leftFirst ? syntax.right : syntax.left, shift ? undefined : first?.width);
  if (!first || !second) return undefined;
  const [left, right] = leftFirst ? [first, second] : [second, first];
  const signed = comparison && isSigned(syntax.left) && isSigned(syntax.right);
  const product = operator === '*';
  const width = comparison ? 1 : shift ? left.width : product ? left.width + right.width : Math.max(left.width, right.width);
  if (width <= 32) return { kind: 'binary', operator, left, right, width, signed };
  add(work, { code: 'too-wide', grade: 'error', span: syntax.span, width });
  return undefined;
}

const isSigned = (syntax: ExprSyntax): boolean => syntax.kind === 'call' && syntax.name === 'signed';

/** How each function is written; `signed` only to both sides of a comparison. */
const FUNCTIONS: Readonly<Record<string, string>> = {
  rotl: 'rotl(value, places)',
  rotr: 'rotr(value, places, flag)',
  asr: 'asr(value, places)',
  join: 'join(high, low)',
  extend: 'extend(value, bits)',
  low: 'low(value)',
  signed: 'signed(a) < signed(b)',
};

function checkCall(work: Work, syntax: ExprSyntax & { kind: 'call' }, expected?: number): Expr | undefined {
  const { name, parts, span } = syntax;
  const wrong = (): undefined => void add(work, { code: 'wrong-function', grade: 'error', span, name, written: Object.values(FUNCTIONS) });
  const [first, second, third] = parts as [ExprSyntax, ExprSyntax | undefined, ExprSyntax | undefined];
  if (parts.length > 3 || !(name in FUNCTIONS)) return wrong();
  if (name === 'join') return checkJoin(work, parts, span);
  const operand = checkExpr(work, first, name === 'low' ? undefined : expected);
  if (!operand) return undefined;
  if (name === 'signed' && parts.length === 1) return operand;
  if (name === 'low' && parts.length === 1)
    return { kind: 'resize', operand, signed: false, width: Math.min(expected ?? operand.width, operand.width) };
  if (name === 'extend' && second?.kind === 'number' && !third && second.value >= operand.width && second.value <= 32) {
    return { kind: 'resize', operand, signed: true, width: second.value };
  }
  if (!second || !(name === 'rotl' || name === 'rotr' || name === 'asr') || (name === 'asr' && third)) return wrong();
  const places = checkExpr(work, second);
  const through = third && checkExpr(work, third);
  if (!places || (third && !through)) return undefined;
  if (through && through.kind !== 'flag') return wrong();
  return { kind: 'shift', operator: name, operand, places, ...(through && { through }), width: operand.width };
}

function checkJoin(work: Work, parts: readonly ExprSyntax[], span: Span): Expr | undefined {
  const checked = parts.map((each) => checkExpr(work, each));
  if (checked.some((each) => each === undefined)) return undefined;
  const width = checked.reduce((sum, each) => sum + each!.width, 0);
  if (width <= 32) return { kind: 'join', parts: checked as Expr[], width };
  add(work, { code: 'too-wide', grade: 'error', span, width });
  return undefined;
}

function lookUp(work: Work, name: string, span: Span): Meaning | undefined {
  const meaning = work.scope.names.get(name);
  if (meaning) return meaning;
  if (work.problems.some((each) => each.span.start === span.start && each.code === 'unknown-name')) return undefined;
  const near = nearest(name, [...work.scope.names.keys(), ...LATCHES]);
  const at = { start: span.start, end: span.start + name.length };
  const mend = near && { title: `Write ${near}`, edits: [{ span: at, text: near }] };
  add(work, { code: 'unknown-name', grade: 'error', span: at, name, ...(near && { nearest: near }), ...(mend && { mend }) });
  return undefined;
}

function checkAlone(work: Work, { actions, span }: TickSyntax): void {
  const service = actions.some((each) => each.kind === 'service');
  const nested = actions.flatMap((each) => (each.kind === 'if' ? [...each.then, ...each.otherwise] : []));
  if ((service && actions.length > 1) || nested.some((each) => each.kind === 'service')) {
    add(work, { code: 'must-stand-alone', grade: 'error', span, word: 'service' });
  }
}

/** Two writers of one place are an error where both surely act: the two branches of one `if` never do. */
function checkWriters(work: Work, { span }: TickSyntax, actions: readonly Action[]): void {
  const written: Target[] = [];
  const visit = (list: readonly Action[], seen: Target[]): void => {
    for (const action of list) {
      if (action.kind === 'if') {
        visit(action.then, [...seen]);
        visit(action.otherwise, [...seen]);
      }
      if (action.kind !== 'transfer') continue;
      const clash = seen.find((each) => overlaps(each, action.target));
      if (clash) add(work, { code: 'two-writers', grade: 'error', span, place: placeName(work, clash) });
      seen.push(action.target);
    }
  };
  visit(actions, written);
}

function overlaps(a: Target, b: Target): boolean {
  if (a.kind === 'register' && b.kind === 'register') return a.register === b.register && a.low <= b.high && b.low <= a.high;
  if (a.kind === 'flag' && b.kind === 'flag') return a.flag === b.flag;
  return a.kind === 'cell' && b.kind === 'cell' && a.space === b.space && JSON.stringify(a.address) === JSON.stringify(b.address);
}

function placeName(work: Work, target: Target): string {
  for (const [name, meaning] of work.scope.names) {
    if (target.kind === 'register' && meaning.kind === 'register' && meaning.register === target.register) return name;
    if (target.kind === 'flag' && meaning.kind === 'flag' && meaning.flag === target.flag) return name;
    if (target.kind === 'cell' && meaning.kind === 'space' && meaning.space === target.space) return `One cell of ${name}`;
  }
  throw new Error(`A target without a name: ${JSON.stringify(target)}`);
}

/** The expression as text, for sentences. */
export function textOf(syntax: ExprSyntax): string {
  switch (syntax.kind) {
    case 'number':
      return String(syntax.value);
    case 'name':
      return syntax.part ? `${syntax.name}.${syntax.part}` : syntax.name;
    case 'index':
      return `${syntax.name}[${textOf(syntax.index)}]`;
    case 'slice':
      return `${syntax.name}[${syntax.high}:${syntax.low}]`;
    case 'call':
      return `${syntax.name}(${syntax.parts.map(textOf).join(', ')})`;
    case 'unary':
      return `${syntax.operator}${textOf(syntax.operand)}`;
    case 'binary':
      return `${textOf(syntax.left)} ${syntax.operator} ${textOf(syntax.right)}`;
    default:
      return syntax satisfies never;
  }
}
