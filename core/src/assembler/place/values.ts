/** Works values out: names by way of their definitions, wherever they stand in the text. */
import { withLeadingZero } from '../../machine/model/numbers';
import { programSpaceOf } from '../../machine/model/machine';
import { nearest } from '../../text/nearest';
import { power } from '../../text/number';
import type { Span } from '../../text/source';
import type { Expression, Name, Operator } from '../read/expressions';
import { addUse } from './names';
import { find, type Definition, type Placement } from './assembly';

const DEEPEST = 400;

/** The value, a safe integer; undefined where something in it is wrong, which is reported once. */
export function evaluate(placement: Placement, expression: Expression): number | undefined {
  switch (expression.kind) {
    case 'number':
      return expression.value;
    case 'name':
      return evaluateName(placement, expression);
    case 'unary': {
      const value = evaluate(placement, expression.operand);
      if (value === undefined) return undefined;
      return expression.operator === '-' ? -value : -value - 1;
    }
    case 'part': {
      const value = evaluate(placement, expression.operand);
      const size = power(placement.machine.radix, placement.cellWidth);
      if (value === undefined) return undefined;
      return expression.part === 'low' ? value - Math.floor(value / size) * size : Math.floor(value / size);
    }
    case 'binary': {
      const left = evaluate(placement, expression.left);
      const right = evaluate(placement, expression.right);
      if (left === undefined || right === undefined) return undefined;
      const result = operate(expression.operator, left, right);
      if (typeof result === 'number' && Number.isSafeInteger(result)) return result === 0 ? 0 : result;
      const code = result === 'division' ? 'division-by-zero' : 'value-too-large';
      placement.problems.push({ code, grade: 'error', span: expression.span });
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

function evaluateName(placement: Placement, name: Name): number | undefined {
  const definition = find(placement, name, placement.scope);
  if (definition) {
    if (placement.user) noteUse(definition, placement);
    return valueOf(placement, definition) ?? undefined;
  }
  if (name.key === 'HERE') return placement.here;
  const { text, key, span } = name;
  const { mnemonics, registers } = placement.templates;
  if (mnemonics.has(key)) placement.problems.push({ code: 'name-is-operation', grade: 'error', span, name: text });
  else if (registers.has(key)) placement.problems.push({ code: 'register-as-value', grade: 'error', span, name: text });
  else unknownName(placement, text, span);
  return undefined;
}

function noteUse(definition: Definition, { user }: Placement): void {
  if (user!.unit.part !== undefined) definition.used = true;
  else addUse(definition, user!.line);
}

function unknownName(placement: Placement, name: string, span: Span): void {
  const inside = placement.scope && !name.includes('.') ? `${placement.scope.name}.` : '';
  const known = [...placement.names.values()].map(({ word: { text } }) =>
    inside && text.startsWith(inside) ? text.slice(inside.length) : text,
  );
  const near = placement.problems.length < 50 ? nearest(name, known) : undefined;
  // FF in place of 0xFF is a number whose base mark is missing; D8h one that begins with a letter.
  const digits = !near && placement.machine.radix === 2 && /^[a-f][0-9a-f]*h?$/i.test(name);
  const marked = digits ? `0x${name.replace(/h$/i, '').toUpperCase()}` : undefined;
  const hex = near ? undefined : (withLeadingZero(name, placement.machine.assembly.suffixes) ?? marked);
  const written = near ?? hex;
  const mend = written && { title: `Write ${written}`, edits: [{ span, text: written }] };
  const shared = { code: 'unknown-name', grade: 'error', span, name } as const;
  placement.problems.push({ ...shared, ...(near && { nearest: near }), ...(hex && { hex }), ...(mend && { mend }) });
}

/** A circle, or a chain of names longer than DEEPEST, is reported once and is wrong from then on. */
export function valueOf(placement: Placement, definition: Definition): number | null {
  if (definition.value !== undefined) return definition.value;
  if (definition.busy || placement.depth > DEEPEST) {
    definition.value = null;
    placement.problems.push({
      code: definition.busy ? 'constant-circle' : 'constant-chain',
      grade: 'error',
      span: definition.word.span,
      name: definition.word.text,
    });
    return null;
  }
  const { scope, here, cellWidth } = placement;
  definition.busy = true;
  placement.depth++;
  placement.scope = definition.routine;
  placement.here = definition.here;
  placement.cellWidth = programSpaceOf(placement.machine).width;
  const value = evaluate(placement, definition.expression!) ?? null;
  Object.assign(placement, { scope, here, cellWidth });
  placement.depth--;
  definition.busy = false;
  definition.value ??= value;
  return definition.value;
}

/** The value where it fits, negative ones as complement; else a problem is told. */
export function inRange(
  placement: Placement,
  value: number,
  { least, greatest, what, span, size }: { least: number; greatest: number; what: string; span: Span; size: number },
): number | undefined {
  if (value >= least && value <= greatest) return value < 0 ? value + size : value;
  placement.problems.push({ code: 'value-out-of-range', grade: 'error', span, value, least, greatest, what });
  return undefined;
}
