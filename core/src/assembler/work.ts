/** What assembling a text carries along: names, places, problems. */
import type { Row, Program } from '../image/program';
import type { Machine } from '../machine/machine';
import type { AssemblyProblem } from './problems';
import type { Expression, Statement, Word } from './syntax';
import type { Templates } from './templates';

export interface Definition {
  readonly word: Word;
  readonly line: number;
  /** machine: a trap, a device's place or a name of the system program. */
  readonly kind: 'label' | 'constant' | 'machine';
  readonly expression?: Expression;
  /** undefined: not worked out yet; null: wrong, and already reported. */
  value: number | null | undefined;
  /** Of a label outside the program space. */
  readonly space?: number;
  readonly at?: number;
  busy: boolean;
  used: boolean;
}

/** A line, or a part of one, whose cells are placed; `fill` works their values out once all names are known. */
export interface Placed {
  readonly statement: Statement;
  readonly kind: Row['kind'];
  readonly address: number;
  readonly space: number;
  readonly size: number;
  /** One of several instructions that the line stands for. */
  readonly expanded: boolean;
  readonly fill?: (address: number) => number[] | undefined;
}

/** An instruction that has longer forms still. */
export interface Growing {
  readonly key: string;
  readonly fits: () => boolean;
}

export interface Work {
  readonly machine: Machine;
  readonly templates: Templates;
  readonly problems: AssemblyProblem[];
  readonly names: Map<string, Definition>;
  readonly placed: Placed[];
  readonly growing: Growing[];
  /** How often the instruction at a key has grown already. */
  readonly grown: ReadonlyMap<string, number>;
  readonly system?: Program;
  /** It is the system program itself that is assembled. */
  readonly isSystem: boolean;
  /** Where cells go now: a space, its bank, and the next address in each space and bank. */
  space: number;
  bank: number;
  readonly next: Map<string, number>;
  /** Short forms inside short forms. */
  nesting: number;
  depth: number;
}

export const spaceOf = (work: Work) => work.machine.spaces[work.space]!;

const keyOf = (work: Work): string => `${work.space} ${work.bank}`;

export const addressNow = (work: Work): number => work.next.get(keyOf(work)) ?? 0;

export const setAddress = (work: Work, address: number): void => void work.next.set(keyOf(work), address);
