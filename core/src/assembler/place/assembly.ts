/** What assembling a text carries along: names, places, problems. */
import type { Program, Row } from '../../image/program';
import type { Form, Machine, ShortForm } from '../../machine/model/machine';
import type { Span } from '../../text/source';
import type { Expression } from '../read/expressions';
import type { AssemblyProblem } from '../problems';
import type { Statement, Unit, Word } from '../read/syntax';
import type { Operand, Templates } from './templates';
import type { Spelling } from '../read/tokens';
import type { Item } from './data';

export interface Definition {
  readonly word: Word;
  readonly unit?: Unit | undefined;
  readonly line: number;
  /** machine: a constant, a trap, a device's place or a name of the system program. */
  readonly kind: 'label' | 'constant' | 'machine';
  readonly expression?: Expression | undefined;
  /** undefined: not worked out yet; null: wrong, and already reported. */
  value: number | null | undefined;
  /** Of a label outside the program space. */
  readonly space?: number | undefined;
  readonly at?: number | undefined;
  /** The routine that it belongs to, and the address where it stands. */
  readonly routine?: Routine | undefined;
  readonly here: number;
  busy: boolean;
  /** Lines of the program's own text that name it. */
  uses: readonly number[];
  /** A part, or the machine, names it. */
  used: boolean;
}

export interface Routine {
  readonly name: string;
  /** What it is looked up by. */
  readonly key: string;
  /** Names of its own, by what they are looked up by. */
  readonly names: Map<string, Definition>;
  readonly unit: Unit;
  readonly line: number;
  readonly span: Span;
  readonly from: number;
  to: number;
  end: number;
}

/** What the cells of a line are made of; of room, of nothing. */
export class Content {
  constructor(
    readonly form?: Form,
    readonly operands?: readonly Operand[],
    /** Data, behind an instruction or of its own. */
    readonly items?: readonly Item[],
  ) {}
}

/** A line, or a part of one, whose cells are placed. A class, so that the many of a long program are alike. */
export class Placed {
  /** What its cells hold, once all names are known; undefined where something in it is wrong. */
  words: readonly number[] | undefined = undefined;

  constructor(
    readonly statement: Statement,
    readonly kind: Row['kind'],
    readonly address: number,
    readonly space: number,
    readonly size: number,
    readonly routine: Routine | undefined,
    /** One of several instructions that the line stands for. */
    readonly expanded: Statement | undefined,
    private readonly content: Content,
  ) {}

  get form(): Form | undefined {
    return this.content.form;
  }

  get operands(): readonly Operand[] | undefined {
    return this.content.operands;
  }

  get items(): readonly Item[] | undefined {
    return this.content.items;
  }
}

/** An instruction that has longer forms still. */
export interface Growing {
  readonly key: string;
  readonly most: number;
  readonly fits: () => boolean;
}

export interface Declared {
  readonly way: 'input' | 'output';
  readonly word: Word;
  readonly statement: Statement;
  readonly place?: Expression | undefined;
  readonly base: string;
  readonly unit: string;
}

/** What stays the same from pass to pass. */
export interface Ground {
  readonly machine: Machine;
  readonly templates: Templates;
  readonly statements: readonly Statement[];
  readonly system?: Program | undefined;
  /** It is the system program itself that is assembled. */
  readonly isSystem: boolean;
  /** Capital and small letters are different in names. */
  readonly exact: boolean;
}

export interface Placement extends Ground {
  readonly problems: AssemblyProblem[];
  readonly names: Map<string, Definition>;
  readonly placed: Placed[];
  readonly growing: Growing[];
  /** How often the instruction at a key has grown already. */
  readonly grown: ReadonlyMap<string, number>;
  readonly routines: Routine[];
  /** Names of their own, by what the routine is looked up by. */
  readonly routineNames: Map<string, Routine['names']>;
  readonly declared: Declared[];
  /** Addresses where a line should have given cells, and has not. */
  readonly gaps: number[];
  begin?: { readonly expression: Expression; readonly statement: Statement };
  /** Where the next cell goes: a space, its bank, and an address within that. */
  space: number;
  bank: number;
  address: number;
  /** It has no room left there, which is told. */
  full: boolean;
  /** The next addresses of the spaces and banks that were left. */
  readonly left: Map<number, number>;
  /** The routine that is open; while values are worked out, the one of their line. */
  routine: Routine | undefined;
  scope: Routine | undefined;
  /** The line whose values are worked out, its address, and the digits of a cell there. */
  user: Statement | undefined;
  here: number;
  cellWidth: number;
  /** Cells placed so far, and how many may be: texts that fill memory over and over end in a sentence. */
  total: number;
  readonly mostCells: number;
  /** Short forms inside short forms; and the one that stands in the program's text. */
  nesting: number;
  within: ShortForm | undefined;
  depth: number;
}

/** A name as it is looked up: in capitals, unless the program tells cases apart. */
export const keyOf = ({ exact }: Pick<Ground, 'exact'>, { text, key }: Spelling): string => (exact ? text.normalize('NFC') : key);

/** A name as seen from a routine: its own first, then the program's. */
export function find(placement: Placement, name: Spelling, routine: Routine | undefined): Definition | undefined {
  const key = keyOf(placement, name);
  return routine?.names.get(key) ?? placement.names.get(key);
}

/** The memory that cells go to now. */
export const spaceOf = (placement: Placement) => placement.machine.spaces[placement.space]!;
const spotOf = (placement: Placement): number => placement.space * 1024 + placement.bank;
/** The next cells go to a bank of a space, from where it was left. */
export function setSpot(placement: Placement, space: number, bank: number): void {
  placement.left.set(spotOf(placement), placement.address);
  placement.space = space;
  placement.bank = bank;
  placement.full = false;
  placement.address = placement.left.get(spotOf(placement)) ?? 0;
}
