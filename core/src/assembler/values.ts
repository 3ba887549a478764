/** Works values out: names by way of their definitions, wherever they stand in the text. */
import { nearest } from '../text/nearest';
import type { Span } from '../text/source';
import type { Expression } from './syntax';
import type { Definition, Work } from './work';

const DEEPEST = 400;

export function evaluate(work: Work, expression: Expression): number | undefined {
  switch (expression.kind) {
    case 'number':
      return expression.value;
    case 'negate': {
      const value = evaluate(work, expression.operand);
      return value === undefined ? undefined : -value;
    }
    case 'sum': {
      const left = evaluate(work, expression.left);
      const right = evaluate(work, expression.right);
      if (left === undefined || right === undefined) return undefined;
      return expression.operator === '+' ? left + right : left - right;
    }
    case 'name':
      return evaluateName(work, expression.name, expression.span);
    default:
      return expression satisfies never;
  }
}

function evaluateName(work: Work, name: string, span: Span): number | undefined {
  const definition = work.names.get(name.toUpperCase());
  if (!definition && work.templates.mnemonics.has(name.toUpperCase())) {
    work.problems.push({ code: 'name-is-operation', grade: 'error', span, name });
    return undefined;
  }
  if (!definition) {
    const known = [...work.names.values()].map((each) => each.word.text);
    const near = work.problems.length < 50 ? nearest(name, known) : undefined;
    const mend = near && { title: `Write ${near}`, edits: [{ span, text: near }] };
    work.problems.push({ code: 'unknown-name', grade: 'error', span, name, ...(near && { nearest: near }), ...(mend && { mend }) });
    return undefined;
  }
  definition.used = true;
  return valueOf(work, definition) ?? undefined;
}

/** A circle, or a chain of names longer than DEEPEST, is reported once and is wrong from then on. */
export function valueOf(work: Work, definition: Definition): number | null {
  if (definition.value !== undefined) return definition.value;
  if (definition.busy || work.depth > DEEPEST) {
    definition.value = null;
    work.problems.push({ code: 'constant-circle', grade: 'error', span: definition.word.span, name: definition.word.text });
    return null;
  }
  definition.busy = true;
  work.depth++;
  const value = evaluate(work, definition.expression!) ?? null;
  work.depth--;
  definition.busy = false;
  definition.value ??= value;
  return definition.value;
}

export function namesIn(expression: Expression): string[] {
  if (expression.kind === 'name') return [expression.name];
  if (expression.kind === 'negate') return namesIn(expression.operand);
  return expression.kind === 'sum' ? [...namesIn(expression.left), ...namesIn(expression.right)] : [];
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
