/** What crosses between the page and the engine's worker: plain data and nothing else. */
import type { Segment } from '../engine/tell/telling';
import type { FlagReason } from '../engine/tell/why';
import type { TickReport } from '../engine/meaning/report';
import type { DeclaredPlace, Facts, IncludedPart, ProgramSymbol, RoutineBorder, Row } from '../image/program';
import type { Machine } from '../machine/model/machine';
import type { Problem } from '../text/diagnostic';
import type { TextChange } from '../machine/document/edits';
import type { InHand } from './inHand';
import type { Path } from '../machine/document/yaml';
import type { Patch } from '../text/patch';
import type { OutlineSection } from '../machine/document/outline';
import type { Plain } from '../machine/document/tree';
import type { NewNames } from '../assembler/assist/followRename';
import type { Given } from '../engine/sample/bed';
import type { PinnedState } from '../engine/sample/pinned';
import type { Sampled } from '../engine/sample/sample';

export type Command =
  | 'tick'
  | 'phase'
  | 'instruction'
  | 'over'
  | 'out'
  | 'output'
  | 'finish'
  | 'back'
  | 'instructionBack'
  | 'overBack'
  | 'outBack'
  | 'start'
  | 'run'
  | 'pause';

/** A breakpoint as somebody set it: on a line, an address, a place or a condition. With `print` it writes and goes on. */
export interface BreakSpec {
  readonly id: number;
  readonly kind: 'line' | 'address' | 'write' | 'change' | 'read' | 'output' | 'condition';
  readonly line?: number;
  /** The place or the condition; of an address its number or label. */
  readonly text: string;
  readonly enabled: boolean;
  readonly ignore: number;
  readonly print: string;
}

/** How a breakpoint fares: how often it was hit, or why it means nothing on this machine or in this program. */
export interface BreakState {
  readonly id: number;
  readonly hits: number;
  readonly refused?: string;
}

/** An open call, innermost last. */
export interface OpenCall {
  readonly name: string;
  readonly kind: 'call' | 'trap';
  /** Where it was called, in words, and the line there. */
  readonly from: string;
  readonly line?: number;
  /** The line that it will come back to. */
  readonly returnLine?: number;
  readonly tick: number;
}

/** One value on a stack, or one that was taken off and still lies there. */
export interface StackItem {
  /** As the machine writes the address. */
  readonly place: string;
  readonly value: string;
  /** “return address of wait, to line 9”; empty where nothing is known. */
  readonly what: string;
  readonly line?: number;
}

export interface ShownStack {
  readonly name: string;
  readonly title: string;
  readonly pointer: string;
  /** The pointer stands at the top value; else at the next free place. */
  readonly full: boolean;
  /** Values on it, and how many more it takes. */
  readonly depth: number;
  readonly room: number;
  /** The top first; none where its values lie in no memory. */
  readonly items: readonly StackItem[];
  /** What was taken off last, and still lies there, nearest first. */
  readonly popped: readonly StackItem[];
}

/** A way of starting over, and what it costs. */
export type StartingOver = 'again' | 'data' | 'reload' | 'clear';
export interface StartOffer {
  readonly way: StartingOver;
  readonly loses: string;
}

/** What is asked of the past, or of the future that was seen already. */
export type Question =
  | { readonly kind: 'written'; readonly place: string }
  | { readonly kind: 'first' | 'next' | 'previous'; readonly condition: string };
export type Answer = { readonly tick: number; readonly sentence: string } | { readonly none: string } | { readonly refused: string };

/** Ticks a second, or as fast as the machine goes. */
export type Speed = number | 'full';

export const SPEEDS: readonly Speed[] = [1, 2, 4, 6, 12, 30, 60, 'full'];

/** Above this many ticks a second tokens give way to highlights. */
export const TOKENS_UP_TO = 6;

export type StatusKind =
  | 'empty'
  | 'ready'
  | 'paused'
  | 'running'
  | 'idle'
  | 'halted'
  | 'waiting'
  | 'fault'
  | 'breakpoint'
  | 'reached'
  | 'never halts'
  | 'budget';

/** A run is under way, be it only waiting for a person to change something. */
export const isRunning = (status: StatusKind | undefined): boolean => status === 'running' || status === 'idle';

/** Above this many ticks a second the ticks behind and before the present one are not written: nobody could read them. */
export const READ_UP_TO = 12;

export interface Where {
  readonly address: number;
  readonly length: number;
  /** The instruction there, as text. */
  readonly text?: string;
  /** Of the program's own text. */
  readonly line?: number;
}

export interface PhaseTick {
  /** Position within the instruction, from 1. */
  readonly step: number;
  readonly phase: number;
  readonly part: TickReport['part'];
  readonly text: string;
  readonly state: 'done' | 'last' | 'coming' | 'later';
}

export interface WakeEntry {
  /** Tick before the instruction's first; where “travel to its beginning” goes. */
  readonly from: number;
  readonly address: number;
  readonly text: string;
  readonly ticks: readonly { readonly tick: number; readonly phase: number; readonly text: string }[];
  /** What it changed, in short. */
  readonly outcome: string;
  /** What print-points wrote behind it. */
  readonly printed: readonly string[];
}

export interface ShownDevice {
  readonly name: string;
  readonly title: string;
  readonly kind: string;
  readonly value: number;
  readonly width: number;
  /** Single lines: name, bit, and what a person calls it. */
  readonly lines: readonly (readonly [name: string, bit: number, title: string])[];
  readonly ready: boolean;
  readonly busyPolls: number;
  readonly readyPolls: number;
  readonly reads: number;
  /** What the script says of it, and whether a hand can end that now. */
  readonly plans: readonly string[];
  readonly byHand: boolean;
}

export interface Memory {
  readonly cells: Uint32Array;
  readonly marks: Uint8Array;
}

/** A value that is watched: how it reads now and how it read before the last command; or why it means nothing here. */
export interface ShownWatch {
  readonly text: string;
  readonly now: string;
  readonly before: string;
  readonly refused?: string;
}

export interface View {
  readonly status: StatusKind;
  readonly sentence: string;
  readonly ticks: number;
  readonly instructions: number;
  /** Since the last command. */
  readonly thisTime: { readonly ticks: number; readonly instructions: number };
  readonly furthest: number;
  readonly calls: readonly OpenCall[];
  readonly callsBroken: boolean;
  readonly stacks: readonly ShownStack[];
  readonly remarks: readonly { readonly tick: number; readonly sentence: string }[];
  readonly breaks: readonly BreakState[];
  /** A step over or out was stopped on its way, and can be finished. */
  readonly unfinished?: 'over' | 'out';
  readonly registers: readonly number[];
  /** Before the instruction that is shown, and when the run began. */
  readonly registersBefore: readonly number[];
  readonly registersAtStart: readonly number[];
  readonly flags: readonly number[];
  /** Every space with the marks of its cells, banks one after the other. */
  readonly spaces: readonly Memory[];
  /** Pairs and packed words, as they read now. */
  readonly composites: readonly number[];
  /** Every device with what it shows. */
  readonly devices: readonly ShownDevice[];
  readonly executing?: Where;
  readonly next: Where;
  readonly last?: TickReport;
  readonly lastSentence: readonly Segment[];
  readonly coming?: TickReport;
  readonly comingSentence: readonly Segment[];
  readonly phases: readonly PhaseTick[];
  /** The instruction under way, or the one just done, as its fields. */
  readonly inHand?: InHand;
  /** In the order in which they are watched. */
  readonly watches: readonly ShownWatch[];
  /** Operand fields as decoded, for the decode phase. */
  readonly decoded: readonly string[];
  readonly why?: { readonly flag: number; readonly reason: FlagReason };
  readonly wake: readonly WakeEntry[];
  readonly upcoming: readonly string[];
  readonly output: string;
  /** How many characters were written in all; the output is the end of them. */
  readonly written: number;
  readonly inputs: readonly number[];
  readonly inputsUsed: number;
  /** Those that another run begins with: inputs that the script gives later are left out. */
  readonly handed: readonly number[];
  /** In words: who wants what. */
  readonly waiting?: { readonly who: string; readonly what: string };
  /** This view came from one tick forward, so its transfers can be animated. */
  readonly moved: boolean;
  /** What does the long runs here; `tick` where WebAssembly is not allowed. */
  readonly longRuns: 'not yet' | 'compiled' | 'tick';
  /** Text the machine holds. */
  readonly loaded: string;
}

export interface CountedPart {
  readonly name: string;
  readonly family: string;
  readonly count: number;
}

/** What a run has been through from its start to now. */
export interface CountedRun {
  readonly ticks: number;
  readonly instructions: number;
  /** Executions by mnemonic, the most frequent first. */
  readonly mix: readonly CountedPart[];
  /** Ticks by phase, in the machine's order. */
  readonly phases: readonly { readonly name: string; readonly count: number }[];
  /** Fetches count as reads. */
  readonly memory: readonly { readonly name: string; readonly reads: number; readonly writes: number }[];
  /** Executions by line of the program's own text, in order of line. */
  readonly lines: readonly (readonly [line: number, count: number])[];
  /** Instructions that can go on or jump, in order of address. */
  readonly branches: readonly CountedBranch[];
  /** Most calls open at once. */
  readonly deepest: number;
}

export interface CountedBranch {
  readonly address: string;
  /** “line 4”. */
  readonly where?: string;
  readonly line?: number;
  readonly text: string;
  readonly taken: number;
  readonly notTaken: number;
}

export interface Listing {
  readonly rows: readonly Row[];
  readonly problems: readonly Problem[];
  readonly facts?: Facts;
  readonly symbols?: readonly ProgramSymbol[];
  readonly routines?: readonly RoutineBorder[];
  readonly parts?: readonly IncludedPart[];
  readonly declared?: readonly DeclaredPlace[];
  /** How unmarked numbers are read at the end of the text. */
  readonly base: number;
}

export interface Loaded extends Listing {
  readonly loaded: boolean;
  /** With errors: a finished part could be loaded. */
  readonly partial: boolean;
}

/** Cells of a program that were entered by hand, and how far the memory agrees with the program. */
export interface HandRow {
  readonly address: number;
  readonly value: number;
  readonly never: boolean;
  readonly byHand: boolean;
  /** What the program on the bench has assembled to there. */
  readonly should?: number;
  /** The instruction that begins here, and how many cells it takes. */
  readonly meaning?: string;
  readonly cells?: number;
}

export interface HandView {
  readonly rows: readonly HandRow[];
  readonly cells: number;
  readonly agree: number;
  readonly differ: readonly number[];
}

export type CodeFormat = 'listing' | 'cells' | 'symbols' | 'hex' | 'bin' | 'csv' | 'words';
export type CodeOrder = 'high first' | 'low first';

export interface CodeOut {
  readonly format: CodeFormat;
  readonly space: number;
  readonly order: CodeOrder;
}

export interface CodeIn {
  readonly format: 'hex' | 'bin' | 'csv' | 'words';
  readonly space: number;
  readonly order: CodeOrder;
  /** Where the first cell lies, which raw binary and words do not tell. */
  readonly from: number;
}

export type CodeWritten = { readonly content: string | Uint8Array } | { readonly refused: string };

export interface CodeRead {
  readonly text?: string;
  readonly cells: number;
  readonly problems: readonly { readonly line: number; readonly sentence: string }[];
}

export interface MachineCheck {
  readonly problems: readonly Problem[];
  readonly machine?: Machine;
  /** In place of it: a machine that is whole but for encodings that mean two things. */
  readonly clashing?: Machine;
}

export type Entry = { readonly values: readonly number[] } | { readonly refused: string };

/** Changes of a machine's document, and where the part that they are about is then; or why there are none. */
export type DocumentChange = { readonly changes: readonly TextChange[]; readonly path: Path } | { readonly refused: string };

/** The same for another name: with the number of places, besides its own, that name it, and what programs call otherwise then. */
export type PartRenamed =
  | { readonly changes: readonly TextChange[]; readonly path: Path; readonly places: number; readonly programs: NewNames }
  | { readonly refused: string };

/** A problem of a document with the part that it stands in; within a text, how many of its characters are before it. */
export type PlacedProblem = Problem & { readonly path: Path; readonly inside?: number };

/** What a document amounts to. */
export interface Look {
  readonly text: string;
  readonly problems: readonly PlacedProblem[];
  /** Undefined exactly when there are errors. */
  readonly machine?: Machine;
  /** In place of it: a machine that is whole but for encodings that mean two things. */
  readonly clashing?: Machine;
  /** Undefined while the text is no YAML. */
  readonly outline?: readonly OutlineSection[];
  /** All that is said, what is inherited included; undefined while the text is no YAML. */
  readonly document?: Plain;
  /** Where it is based on another: what it says itself. */
  readonly own?: Plain;
  /** The instruction that is looked at, one entry a form; undefined where a form cannot be tried. */
  readonly tried?: readonly (Sampled | undefined)[];
  /** Examples that are pinned to instructions, of a machine without errors. */
  readonly pinned: readonly Pinned[];
}

/** A look as what has changed since another. */
export interface LookChange {
  readonly number: number;
  readonly patch: Patch;
}

/** An example with its place: the how-manieth of which form. */
export interface Pinned extends PinnedState {
  readonly mnemonic: string;
  readonly form: number;
  readonly at: number;
}

/** An instruction that is tried at every change, and what is given to each of its forms. */
export interface Trying {
  readonly mnemonic: string;
  readonly given: readonly Given[];
}
