/** Checks values: looks their names up, settles their widths, finds what cannot be meant. */
import { digitsIn, power, unitOf } from '../text/number';
import type { Span } from '../text/source';
import { habit } from './habits';
import { digitOf } from './parse';
import { printExpr } from './print';
import { nearest } from '../text/nearest';
import { add, LATCHES, lookUp, MOST_DIGITS, type Meaning, type Checking } from './scope';
import type { ExprSyntax } from './syntax';
import type { ElementPlace, Expr, Latch } from './tree';

export const COMPARISONS: ReadonlySet<string> = new Set(['=', '!=', '<', '<=', '>', '>=']);

/** `expected` is the width that a bare number takes when it has no partner. */
export function checkExpr(checking: Checking, syntax: ExprSyntax, expected?: number): Expr | undefined {
  switch (syntax.kind) {
    case 'number':
      return checkLiteral(checking, syntax, expected);
    case 'name':
      return checkName(checking, syntax);
    case 'index':
      return checkIndex(checking, syntax);
    case 'slice':
      return checkSlice(checking, syntax);
    case 'unary':
      return checkUnary(checking, syntax, expected);
    case 'binary':
      return checkBinary(checking, syntax, expected);
    case 'call':
      return checkCall(checking, syntax, expected);
    case 'logic':
      return checkLogic(checking, syntax);
    case 'not': {
      const operand = checkCondition(checking, syntax.operand, 'not');
      return (
        operand && { kind: 'binary', operator: '=', left: operand, right: { kind: 'literal', value: 0, width: 1 }, width: 1, signed: false }
      );
    }
    case 'holds':
      return checkHolds(checking, syntax);
    default:
      return syntax satisfies never;
  }
}

function checkLiteral(checking: Checking, { value, span }: ExprSyntax & { kind: 'number' }, expected?: number): Expr | undefined {
  const { radix } = checking.scope;
  const width = expected ?? digitsIn(value, radix);
  if (value < power(radix, width)) return { kind: 'literal', value, width };
  add(checking, { code: 'literal-too-wide', grade: 'error', span, value, width, unit: unitOf(radix), greatest: power(radix, width) - 1 });
  return undefined;
}

/** Conditions are 0 or 1: on decimal digits a value of one digit is none. */
function checkCondition(checking: Checking, syntax: ExprSyntax, operator: string): Expr | undefined {
  const value = checkExpr(checking, syntax);
  if (!value || isCondition(value, checking.scope.radix)) return value;
  const { start, end } = syntax.span;
  const text = printExpr(syntax);
  const mend = { title: `Write ${text} != 0`, edits: [{ span: { start: end, end }, text: ' != 0' }] };
  add(checking, { code: 'no-condition', grade: 'error', span: { start, end }, operator, text, mend });
  return undefined;
}

const isCondition = (value: Expr, radix: number): boolean =>
  value.width === 1 &&
  (radix === 2 ||
    ['flag', 'line', 'holds'].includes(value.kind) ||
    (value.kind === 'binary' && (COMPARISONS.has(value.operator) || BITWISE.has(value.operator))));

function checkLogic(checking: Checking, { operator, left, right }: ExprSyntax & { kind: 'logic' }): Expr | undefined {
  const [one, other] = [checkCondition(checking, left, operator), checkCondition(checking, right, operator)];
  if (!one || !other) return undefined;
  return { kind: 'binary', operator: operator === 'and' ? '&' : '|', left: one, right: other, width: 1, signed: false };
}

function checkHolds(checking: Checking, { name, span }: ExprSyntax & { kind: 'holds' }): Expr | undefined {
  const meaning = lookUp(checking, name, span);
  if (!meaning) return undefined;
  if (meaning.kind === 'value' && meaning.condition)
    return { kind: 'holds', operand: meaning.value, cases: checking.scope.conditions ?? [], width: 1 };
  add(checking, { code: 'not-a-condition-field', grade: 'error', span, name });
  return undefined;
}

const WITHOUT_VALUE: Readonly<Partial<Record<Meaning['kind'], string>>> = {
  space: 'a memory',
  ports: 'a row of ports',
  array: 'an array of registers',
  view: 'a list of registers',
  device: 'a device',
  stack: 'a stack',
};

function checkName(checking: Checking, syntax: ExprSyntax & { kind: 'name' }): Expr | undefined {
  const { name, part, span } = syntax;
  const { scope } = checking;
  if (LATCHES.includes(name) && !scope.names.has(name)) return checkLatch(checking, name as Latch, span);
  if (name === 'flags' && part !== undefined) return checkFlagName(checking, part, span);
  const meaning = lookUp(checking, name, span);
  if (!meaning) return undefined;
  if (part !== undefined) return checkPart(checking, { name, part, meaning, span });
  switch (meaning.kind) {
    case 'register':
      return { kind: 'register', register: meaning.register, width: meaning.width };
    case 'flag':
      return flagValue(meaning);
    case 'value':
    case 'several':
      return meaning.value;
    case 'service':
      return { kind: 'literal', value: meaning.number, width: digitsIn(meaning.number, scope.radix) };
    case 'device':
      if (meaning.width !== undefined) return { kind: 'shown', device: meaning.device, width: meaning.width };
      add(checking, { code: 'not-a-value', grade: 'error', span, name, is: WITHOUT_VALUE.device! });
      return undefined;
    case 'space':
    case 'ports':
    case 'array':
    case 'view':
    case 'stack':
      add(checking, { code: 'not-a-value', grade: 'error', span, name, is: WITHOUT_VALUE[meaning.kind]! });
      return undefined;
    default:
      return meaning satisfies never;
  }
}

/** flags.C: the flag, where a register has its name too. */
export function flagNamed(checking: Checking, name: string, span: Span): (Meaning & { kind: 'flag' }) | undefined {
  const meaning = checking.scope.flags.get(name);
  if (meaning) return meaning;
  const flags = [...checking.scope.flags.keys()];
  const at = { start: span.end - name.length, end: span.end };
  // All in one word: ZNCV.
  if (name.length > 1 && [...name].every((each) => flags.includes(each))) {
    const apart = [...name].join(' ');
    add(checking, { code: 'habit', grade: 'error', ...habit(at, name, apart) });
    return undefined;
  }
  const near = name.length > 1 ? nearest(name, flags) : undefined;
  const mend = near && { title: `Write ${near}`, edits: [{ span: at, text: near }] };
  add(checking, { code: 'unknown-flag', grade: 'error', span: at, name, flags, ...(near && { nearest: near }), ...(mend && { mend }) });
  return undefined;
}

const flagValue = ({ flag, line }: Meaning & { kind: 'flag' }): Expr =>
  line ? { kind: 'line', ...line, width: 1 } : { kind: 'flag', flag, width: 1 };

function checkFlagName(checking: Checking, name: string, span: Span): Expr | undefined {
  const meaning = flagNamed(checking, name, span);
  return meaning && flagValue(meaning);
}

function checkLatch(checking: Checking, latch: Latch, span: Span): Expr | undefined {
  const { addressWidth, causeWidth } = checking.scope;
  if (latch !== 'cause') return { kind: 'latch', latch, width: addressWidth };
  if (causeWidth !== undefined) return { kind: 'latch', latch, width: causeWidth };
  add(checking, { code: 'cause-outside-enter', grade: 'error', span });
  return undefined;
}

function checkPart(
  checking: Checking,
  { name, part, meaning, span }: { name: string; part: string; meaning: Meaning; span: Span },
): Expr | undefined {
  if (meaning.kind === 'device') {
    const bit = meaning.lines.get(part);
    if (bit !== undefined) return { kind: 'line', device: meaning.device, bit, width: 1 };
    add(checking, { code: 'unknown-part', grade: 'error', span, register: name, part, parts: [...meaning.lines.keys()] });
    return undefined;
  }
  const parts = meaning.kind === 'register' ? meaning.parts : new Map<string, never>();
  const slice = parts.get(part);
  if (slice) return { kind: 'slice', ...slice, width: slice.high - slice.low + 1, name: part, field: false };
  add(checking, { code: 'unknown-part', grade: 'error', span, register: name, part, parts: [...parts.keys()] });
  return undefined;
}

/** The memory of a machine that has but one. */
function onlyMemory({ scope }: Checking): string | undefined {
  const memories = [...scope.names].flatMap(([name, { kind }]) => (kind === 'space' ? [name] : []));
  return memories.length === 1 ? memories[0] : undefined;
}

function checkIndex(checking: Checking, syntax: ExprSyntax & { kind: 'index' }): Expr | undefined {
  const { name, span, bank, index } = syntax;
  const meaning = lookUp(checking, name, span, onlyMemory(checking));
  if (!meaning) return undefined;
  if (meaning.kind === 'space') return checkCell(checking, meaning, syntax);
  if (bank) return noIndex(checking, name, span, true);
  if (meaning.kind === 'array') return checkElement(checking, meaning, index);
  if (meaning.kind === 'view') return checkView(checking, meaning, index);
  if (meaning.kind === 'ports') {
    const port = checkExpr(checking, index, index.kind === 'number' ? undefined : digitsIn(meaning.count - 1, checking.scope.radix));
    if (port?.kind === 'literal' && port.value >= meaning.count) {
      add(checking, { code: 'port-outside', grade: 'error', span: index.span, name, port: port.value, count: meaning.count });
      return undefined;
    }
    return port && { kind: 'port', port, width: meaning.width };
  }
  if (index.kind !== 'number') return noIndex(checking, name, span, false);
  return checkSlice(checking, {
    kind: 'slice',
    operand: { kind: 'name', name, span: { start: span.start, end: span.start + name.length } },
    high: digitOf(index),
    low: digitOf(index),
    span,
  });
}

function noIndex(checking: Checking, name: string, span: Span, banks: boolean): undefined {
  add(checking, { code: 'not-indexed', grade: 'error', span, name, banks });
  return undefined;
}

function checkCell(checking: Checking, meaning: Meaning & { kind: 'space' }, syntax: ExprSyntax & { kind: 'index' }): Expr | undefined {
  const { radix } = checking.scope;
  if ((syntax.bank !== undefined) !== meaning.banks > 1) {
    add(checking, { code: 'banks-differ', grade: 'error', span: syntax.span, space: syntax.name, banks: meaning.banks });
    return undefined;
  }
  const bank = syntax.bank && checkExpr(checking, syntax.bank, digitsIn(meaning.banks - 1, radix));
  const address = checkExpr(checking, syntax.index, meaning.addressWidth);
  if (!address || (syntax.bank && !bank)) return undefined;
  return { kind: 'cell', space: meaning.space, ...(bank && { bank }), address, width: meaning.width };
}

/** R[expr]; of pairs, both halves joined. A number is looked up now, all else when the tick runs. */
function checkElement(
  checking: Checking,
  { first, count, scale, width }: Meaning & { kind: 'array' },
  syntax: ExprSyntax,
): Expr | undefined {
  const index = checkExpr(checking, syntax, syntax.kind === 'number' ? undefined : digitsIn(count - 1, checking.scope.radix));
  if (!index) return undefined;
  if (index.kind === 'literal' && index.value >= count) {
    add(checking, { code: 'element-outside', grade: 'error', span: syntax.span, index: index.value, count });
    return undefined;
  }
  const element = (offset: number): Expr =>
    index.kind === 'literal'
      ? { kind: 'register', register: first + scale * index.value + offset, width }
      : { kind: 'element', first, count, scale, offset, index, width };
  return scale === 1 ? element(0) : { kind: 'join', parts: [element(0), element(1)], width: 2 * width };
}

/** V[expr]: what stands in the list at that number. */
function checkView(checking: Checking, { options, width }: Meaning & { kind: 'view' }, syntax: ExprSyntax): Expr | undefined {
  const index = checkExpr(checking, syntax, syntax.kind === 'number' ? undefined : digitsIn(options.length - 1, checking.scope.radix));
  if (!index) return undefined;
  if (index.kind !== 'literal') return { kind: 'choose', index, options: options.map((each) => each?.value), width };
  const chosen = options[index.value];
  if (!chosen) add(checking, { code: 'element-outside', grade: 'error', span: syntax.span, index: index.value, count: options.length });
  return chosen?.value;
}

/** The place of an element, for targets. */
export const placeOfElement = ({ first, count, scale, offset, index }: ElementPlace): ElementPlace => ({
  first,
  count,
  scale,
  offset,
  index,
});

function checkSlice(checking: Checking, { operand: inner, high, low, span }: ExprSyntax & { kind: 'slice' }): Expr | undefined {
  const operand = checkExpr(checking, inner);
  if (!operand) return undefined;
  if (high < low || high >= operand.width) {
    const unit = unitOf(checking.scope.radix);
    add(checking, { code: 'slice-outside', grade: 'error', span, name: printExpr(inner), width: operand.width, unit });
    return undefined;
  }
  const width = high - low + 1;
  if (operand.kind === 'register') return { kind: 'slice', register: operand.register, high, low, width, field: false };
  if (operand.kind === 'slice') {
    return { kind: 'slice', register: operand.register, high: operand.low + high, low: operand.low + low, width, field: false };
  }
  return { kind: 'digits', operand, high, low, width };
}

const BITWISE: ReadonlySet<string> = new Set(['&', '|', '^', '~']);

function bitwiseRefused(checking: Checking, operator: string, span: Span): boolean {
  if (checking.scope.radix === 2 || !BITWISE.has(operator)) return false;
  add(checking, { code: 'bits-on-decimal', grade: 'error', span, operator });
  return true;
}

function checkUnary(
  checking: Checking,
  { operator, operand: inner, span }: ExprSyntax & { kind: 'unary' },
  expected?: number,
): Expr | undefined {
  const operand = checkExpr(checking, inner, expected);
  if (!operand || bitwiseRefused(checking, operator, span)) return undefined;
  return { kind: 'unary', operator, operand, width: operand.width };
}

/** A literal takes its partner's width; comparisons have width 1; a shift keeps the width of what is shifted. */
function checkBinary(checking: Checking, syntax: ExprSyntax & { kind: 'binary' }, expected?: number): Expr | undefined {
  const { operator, span } = syntax;
  const comparison = COMPARISONS.has(operator);
  const shift = operator === '<<' || operator === '>>';
  const outer = comparison || operator === '*' ? undefined : expected;
  const leftFirst = syntax.left.kind !== 'number' || shift;
  const first = checkExpr(checking, leftFirst ? syntax.left : syntax.right, outer);
  const second = checkExpr(checking, leftFirst ? syntax.right : syntax.left, shift ? undefined : first?.width);
  if (!first && !second) brokenName(checking, syntax);
  if (!first || !second || bitwiseRefused(checking, operator, span)) return undefined;
  const [left, right] = leftFirst ? [first, second] : [second, first];
  const width = widthOf(operator, left.width, right.width);
  const most = MOST_DIGITS[checking.scope.radix];
  if (width > most) return tooWide(checking, span, width);
  const signed = isSigned(syntax.left) && isSigned(syntax.right);
  return { kind: 'binary', operator, left, right, width, signed };
}

/** Two unknown names with a sign and no blank between them are most likely one name with a slip in it: D<T for DAT. */
function brokenName({ scope, problems }: Checking, { operator, left, right }: ExprSyntax & { kind: 'binary' }): void {
  if (left.kind !== 'name' || right.kind !== 'name' || right.span.start - left.span.end !== operator.length) return;
  const halves = [left, right].map((each) =>
    problems.findIndex((problem) => problem.code === 'unknown-name' && problem.span.start === each.span.start),
  );
  const name = left.name + operator + right.name;
  const near = nearest(name, scope.names.keys(), 1);
  if (halves.includes(-1) || near === undefined) return;
  const span = { start: left.span.start, end: right.span.end };
  const mend = { title: `Write ${near}`, edits: [{ span, text: near }] };
  problems.splice(Math.max(...halves), 1);
  problems.splice(Math.min(...halves), 1, { code: 'unknown-name', grade: 'error', span, name, nearest: near, mend });
}

function widthOf(operator: string, left: number, right: number): number {
  if (COMPARISONS.has(operator)) return 1;
  if (operator === '<<' || operator === '>>' || operator === '/') return left;
  if (operator === '*') return left + right;
  return operator === '%' ? right : Math.max(left, right);
}

function tooWide(checking: Checking, span: Span, width: number): undefined {
  const { radix } = checking.scope;
  add(checking, { code: 'too-wide', grade: 'error', span, width, most: MOST_DIGITS[radix], unit: unitOf(radix) });
  return undefined;
}

const isSigned = (syntax: ExprSyntax): boolean =>
  (syntax.kind === 'call' && syntax.name === 'signed') || (syntax.kind === 'number' && syntax.value === 0);

/** How each function is written; `signed` only to both sides of a comparison, product or division. */
const FUNCTIONS: Readonly<Record<string, string>> = {
  rotl: 'rotl(value, places)',
  rotr: 'rotr(value, places, flag)',
  asr: 'asr(value, places)',
  join: 'join(high, low)',
  extend: 'extend(value, digits)',
  low: 'low(value)',
  signed: 'signed(a) < signed(b)',
};

/** The widest value that is shifted arithmetically or rotated. */
const MOST_TURNED = { 2: 32, 10: 15 } as const;

const INDEXED: ReadonlySet<Meaning['kind']> = new Set(['space', 'ports', 'array', 'view']);

/** Whether something that has its places in square brackets stands with round ones; told. */
export function asIndexed(checking: Checking, { name, parts, span }: ExprSyntax & { kind: 'call' }): boolean {
  const meaning = checking.scope.names.get(name);
  if (!meaning || !INDEXED.has(meaning.kind)) return false;
  const [first, last] = [parts[0]!.span, parts.at(-1)!.span];
  const open = { span: { start: span.start + name.length, end: first.start }, text: '[' };
  const close = { span: { start: last.end, end: span.end }, text: ']' };
  const mend = { title: `Write ${name}[…]`, edits: [open, close] };
  add(checking, { code: 'habit', grade: 'error', span, written: `${name}(…)`, here: `${name}[…]`, mend });
  return true;
}

function checkCall(checking: Checking, syntax: ExprSyntax & { kind: 'call' }, expected?: number): Expr | undefined {
  const { name, parts, span } = syntax;
  const wrong = (): undefined =>
    asIndexed(checking, syntax)
      ? undefined
      : void add(checking, { code: 'wrong-function', grade: 'error', span, name, written: Object.values(FUNCTIONS) });
  const [first, second, third] = parts as [ExprSyntax, ExprSyntax | undefined, ExprSyntax | undefined];
  if (!Object.hasOwn(FUNCTIONS, name) || (name !== 'join' && parts.length > 3)) return wrong();
  if (name === 'join') return checkJoin(checking, parts, span);
  const operand = checkExpr(checking, first, name === 'low' ? undefined : expected);
  if (!operand) return undefined;
  if (name === 'signed' && parts.length === 1) return operand;
  if (name === 'low' && parts.length === 1)
    return { kind: 'resize', operand, signed: false, width: Math.min(expected ?? operand.width, operand.width) };
  const widest = MOST_DIGITS[checking.scope.radix];
  if (name === 'extend' && second?.kind === 'number' && !third && second.value >= operand.width && second.value <= widest) {
    return { kind: 'resize', operand, signed: true, width: second.value };
  }
  if (!second || !(name === 'rotl' || name === 'rotr' || name === 'asr') || (name === 'asr' && third)) return wrong();
  const places = checkExpr(checking, second);
  const through = third && checkExpr(checking, third);
  if (!places || (third && !through)) return undefined;
  const most = MOST_TURNED[checking.scope.radix];
  if (operand.width > most) {
    add(checking, { code: 'too-wide-to-turn', grade: 'error', span, name, width: operand.width, most, unit: unitOf(checking.scope.radix) });
    return undefined;
  }
  if (through && through.kind !== 'flag') return wrong();
  return { kind: 'shift', operator: name, operand, places, ...(through && { through }), width: operand.width };
}

/** A number in a join is as wide as it is written: 0b00 has two bits, 0xF four; decimal digits count on decimal machines. */
function writtenWidth({ text = '' }: ExprSyntax & { kind: 'number' }, radix: number): number | undefined {
  const [, mark, digits] = /^0([xbo])(\w+)$/i.exec(text) ?? [];
  const count = (digits ?? text).replaceAll('_', '').length;
  if (radix === 10) return mark ? undefined : count;
  return mark === undefined ? undefined : count * { x: 4, o: 3, b: 1 }[mark.toLowerCase() as 'x' | 'o' | 'b'];
}

function checkJoined(checking: Checking, syntax: ExprSyntax): Expr | undefined {
  const { radix, language = 2 } = checking.scope;
  if (syntax.kind !== 'number' || syntax.text === undefined) return checkExpr(checking, syntax);
  const { text, span, value } = syntax;
  const before = digitsIn(value, radix);
  const width = writtenWidth(syntax, radix);
  const mend = { title: `Write 0b${value.toString(2)}`, edits: [{ span, text: `0b${value.toString(2)}` }] };
  const offered = radix === 2 ? { mend } : {};
  if (language >= 2 && width !== undefined) return checkExpr(checking, syntax, width);
  if (language >= 2 && radix === 2) {
    add(checking, { code: 'literal-without-width', grade: 'error', span, text, ...offered });
    return undefined;
  }
  if (language < 2 && width === undefined && radix === 2)
    add(checking, { code: 'literal-without-width', grade: 'remark', span, text, ...offered });
  else if (language < 2 && width !== undefined && width !== before)
    add(checking, { code: 'literal-width', grade: 'remark', span, text, width, before, ...offered });
  return checkExpr(checking, syntax);
}

function checkJoin(checking: Checking, parts: readonly ExprSyntax[], span: Span): Expr | undefined {
  const checked = parts.map((each) => checkJoined(checking, each));
  if (checked.some((each) => each === undefined)) return undefined;
  const width = checked.reduce((sum, each) => sum + each!.width, 0);
  return width <= MOST_DIGITS[checking.scope.radix] ? { kind: 'join', parts: checked as Expr[], width } : tooWide(checking, span, width);
}
