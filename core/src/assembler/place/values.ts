/** Works values out: names by way of their definitions, wherever they stand in the text. */
import { withLeadingZero } from '../../machine/model/numbers';
import { programSpaceOf } from '../../machine/model/machine';
import { nearest } from '../../text/nearest';
import { power } from '../../text/number';
import type { Span } from '../../text/source';
import type { Expression, Operator } from '../read/expressions';
import { find, type Definition, type Work } from './assembly';

const DEEPEST = 400;

/** The value, a safe integer; undefined where something in it is wrong, which is reported once. */
export function evaluate(work: Work, expression: Expression): number | undefined {
  switch (expression.kind) {
    case 'number':
      return expression.value;
    case 'name':
      return evaluateName(work, expression.name, expression.span);
    case 'unary': {
      const value = evaluate(work, expression.operand);
      if (value === undefined) return undefined;
      return expression.operator === '-' ? -value : -value - 1;
    }
    case 'part': {
      const value = evaluate(work, expression.operand);
      const size = power(work.machine.radix, work.cellWidth);
      if (value === undefined) return undefined;
      return expression.part === 'low' ? value - Math.floor(value / size) * size : Math.floor(value / size);
    }
    case 'binary': {
      const left = evaluate(work, expression.left);
      const right = evaluate(work, expression.right);
      if (left === undefined || right === undefined) return undefined;
      const result = operate(expression.operator, left, right);
      if (typeof result === 'number' && Number.isSafeInteger(result)) return result === 0 ? 0 : result;
      const code = result === 'division' ? 'division-by-zero' : 'value-too-large';
      work.problems.push({ code, grade: 'error', span: expression.span });
      return undefined;
    }
    default:
      return expression satisfies never;
  }
}

/** Division truncates towards zero, the remainder has the dividend's sign; bit operators see two's complement. */
function operate(operator: Operator, left: number, right: number): number | 'division' | 'size' {
  switch (operator) {
    case '+':
      return left + right;
    case '-':
      return left - right;
    case '*':
      return left * right;
    case '/':
      return right === 0 ? 'division' : Math.trunc(left / right);
    case '%':
      return right === 0 ? 'division' : left % right;
    case '<<':
      return right < 0 || right > 60 ? 'size' : left * 2 ** right;
    case '>>':
      return right < 0 || right > 60 ? 'size' : Math.floor(left / 2 ** right);
    case '&':
      return Number(BigInt(left) & BigInt(right));
    case '|':
      return Number(BigInt(left) | BigInt(right));
    case '^':
      return Number(BigInt(left) ^ BigInt(right));
    default:
      return operator satisfies never;
  }
}

function evaluateName(work: Work, name: string, span: Span): number | undefined {
  const definition = find(work, name, work.scope);
  if (definition) {
    if (work.user) noteUse(definition, work);
    return valueOf(work, definition) ?? undefined;
  }
  if (name.toLowerCase() === 'here') return work.here;
  if (work.templates.mnemonics.has(name.toUpperCase())) work.problems.push({ code: 'name-is-operation', grade: 'error', span, name });
  else unknownName(work, name, span);
  return undefined;
}

function noteUse(definition: Definition, { user }: Work): void {
  if (user!.unit.part !== undefined) definition.used = true;
  else if (definition.uses.at(-1) !== user!.line) definition.uses.push(user!.line);
}

function unknownName(work: Work, name: string, span: Span): void {
  const inside = work.scope && !name.includes('.') ? `${work.scope}.` : '';
  const known = [...work.names.values()].map(({ word: { text } }) =>
    inside && text.startsWith(inside) ? text.slice(inside.length) : text,
  );
  const near = work.problems.length < 50 ? nearest(name, known) : undefined;
  // FF in place of 0xFF is a number whose base mark is missing; D8h one that begins with a letter.
  const digits = !near && work.machine.radix === 2 && /^[a-f][0-9a-f]*h?$/i.test(name);
  const marked = digits ? `0x${name.replace(/h$/i, '').toUpperCase()}` : undefined;
  const hex = near ? undefined : (withLeadingZero(name, work.machine.assembly.suffixes) ?? marked);
  const written = near ?? hex;
  const mend = written && { title: `Write ${written}`, edits: [{ span, text: written }] };
  const shared = { code: 'unknown-name', grade: 'error', span, name } as const;
  work.problems.push({ ...shared, ...(near && { nearest: near }), ...(hex && { hex }), ...(mend && { mend }) });
}

/** A circle, or a chain of names longer than DEEPEST, is reported once and is wrong from then on. */
export function valueOf(work: Work, definition: Definition): number | null {
  if (definition.value !== undefined) return definition.value;
  if (definition.busy || work.depth > DEEPEST) {
    definition.value = null;
    work.problems.push({ code: 'constant-circle', grade: 'error', span: definition.word.span, name: definition.word.text });
    return null;
  }
  const { scope, here, cellWidth } = work;
  definition.busy = true;
  work.depth++;
  work.scope = definition.routine;
  work.here = definition.here;
  work.cellWidth = programSpaceOf(work.machine).width;
  const value = evaluate(work, definition.expression!) ?? null;
  Object.assign(work, { scope, here, cellWidth });
  work.depth--;
  definition.busy = false;
  definition.value ??= value;
  return definition.value;
}

/** The value where it fits, negative ones as complement; else a problem is told. */
export function inRange(
  work: Work,
  value: number,
  { least, greatest, what, span, size }: { least: number; greatest: number; what: string; span: Span; size: number },
): number | undefined {
  if (value >= least && value <= greatest) return value < 0 ? value + size : value;
  work.problems.push({ code: 'value-out-of-range', grade: 'error', span, value, least, greatest, what });
  return undefined;
}
