/** What the names in a tick mean, as the machine tells it; and the problems found while looking them up. */
import { nearest } from '../text/nearest';
import type { Span } from '../text/source';
import type { NotationProblem } from './problems';
import type { ExprSyntax } from './syntax';
import type { Expr, Latch, Radix, StockRule, Target } from './tree';

export interface Slice {
  readonly register: number;
  readonly high: number;
  readonly low: number;
}

export type Meaning =
  | { readonly kind: 'register'; readonly register: number; readonly width: number; readonly parts: ReadonlyMap<string, Slice> }
  /** Registers by number; of an array of pairs `scale` is 2. */
  | { readonly kind: 'array'; readonly first: number; readonly count: number; readonly scale: number; readonly width: number }
  /** A pair or a packed word: several places under one name. */
  | { readonly kind: 'several'; readonly value: Expr; readonly target: Target; readonly width: number }
  | {
      readonly kind: 'flag';
      readonly flag: number;
      readonly rule?: StockRule;
      readonly formula?: ExprSyntax;
      readonly line?: { readonly device: number; readonly bit: number };
      readonly noBorrow: boolean;
      readonly into: number;
      readonly odd: boolean;
    }
  | { readonly kind: 'space'; readonly space: number; readonly width: number; readonly addressWidth: number; readonly banks: number }
  | { readonly kind: 'ports'; readonly count: number; readonly width: number }
  /** `width` where its name alone stands for what it shows. */
  | { readonly kind: 'device'; readonly device: number; readonly lines: ReadonlyMap<string, number>; readonly width?: number }
  | { readonly kind: 'stack'; readonly stack: number }
  | { readonly kind: 'service'; readonly number: number }
  /** Registers and pairs by number, one of a list. */
  | { readonly kind: 'view'; readonly options: readonly (ViewOption | undefined)[]; readonly width: number }
  /** An operand field, or whatever else stands for one value. `condition`: its value is the code of one. */
  | { readonly kind: 'value'; readonly value: Expr; readonly condition?: boolean };

/** What a number of a view stands for; some may stand for nothing. */
export interface ViewOption {
  readonly value: Expr;
  readonly target: Target;
}

/** A condition as it is read: it holds where `when` is not 0. */
export interface ConditionCase {
  readonly name: string;
  readonly code: number;
  readonly when: Expr;
}

export interface Scope {
  readonly names: ReadonlyMap<string, Meaning>;
  /** Flags by their names, which registers may have too: `flags.C` is the flag. */
  readonly flags: ReadonlyMap<string, Meaning & { kind: 'flag' }>;
  /** The machine's conditions, for fields that name one. */
  readonly conditions?: readonly ConditionCase[];
  /** The language of the document, where it is not the newest. */
  readonly language?: number;
  readonly radix: Radix;
  /** Width of an address of the program space, which `here`, `next` and `length` have. */
  readonly addressWidth: number;
  /** Of `cause`, where ticks that enter a trap may name it. */
  readonly causeWidth?: number;
}

export interface Checking {
  readonly scope: Scope;
  readonly problems: NotationProblem[];
}

export const LATCHES: readonly string[] = ['here', 'next', 'length', 'cause'] satisfies Latch[];

/** The widest value in between: within unsigned 64 bits. */
export const MOST_DIGITS: Readonly<Record<Radix, number>> = { 2: 64, 10: 18 };

/** Takes a problem down. */
export const add = (checking: Checking, problem: NotationProblem): void => void checking.problems.push(problem);

/** What a name means in a tick; an unknown one is a problem with the nearest that is known, else the one that is usual there. */
export function lookUp(checking: Checking, name: string, span: Span, usual?: string): Meaning | undefined {
  const meaning = checking.scope.names.get(name);
  if (meaning) return meaning;
  if (checking.problems.some((each) => each.span.start === span.start && each.code === 'unknown-name')) return undefined;
  if (LATCHES.includes(name)) {
    add(checking, { code: 'one-value', grade: 'error', span: { start: span.start, end: span.start + name.length }, name });
    return undefined;
  }
  const near = nearest(name, [...checking.scope.names.keys(), ...LATCHES]) ?? usual;
  const at = { start: span.start, end: span.start + name.length };
  const mend = near && { title: `Write ${near}`, edits: [{ span: at, text: near }] };
  add(checking, { code: 'unknown-name', grade: 'error', span: at, name, ...(near && { nearest: near }), ...(mend && { mend }) });
  return undefined;
}
