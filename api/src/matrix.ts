/** What a teacher sees of a course: types alone, so that a page has them without the schemas. */
import type { CheckedHandIn } from '@zettak/core/trials/handIns/check';
import type { Alike, Group } from '@zettak/core/trials/handIns/groups';
import type { LessonBench } from '@zettak/core/trials/handIns/lessonBench';
import type { MarkRule } from '@zettak/core/trials/handIns/marks';

export interface AssignmentSummary {
  readonly id: string;
  readonly course: string;
  readonly name: string;
  readonly machineName: string;
  readonly machineVersion: number;
  readonly opensAt: string | null;
  readonly closesAt: string | null;
  /** Labels that have handed in. */
  readonly handIns: number;
}

export interface CourseSummary {
  readonly id: string;
  readonly name: string;
  readonly assignments: readonly AssignmentSummary[];
}

export interface AssignmentDetail extends Omit<AssignmentSummary, 'handIns'> {
  readonly revision: number;
  readonly problem: string;
  /** The program that it was made of; null where that is gone. */
  readonly program: string | null;
  readonly machine: string;
  readonly frame: string;
  readonly solution: string;
  readonly sets: string;
  readonly mostTicks: number | null;
  readonly mostCells: number | null;
  readonly marks: MarkRule;
  /** Notes and layout that students get with it. */
  readonly bench: LessonBench | null;
  /** Of all that decides what comes of a hand-in. */
  readonly key: string;
  /** A link for students has been made. */
  readonly linked: boolean;
}

/** waiting, running: not checked yet; failed: could not be checked, `sentence` says why. */
export type CheckState = 'waiting' | 'running' | 'done' | 'failed' | 'called off';

export interface HandInRow {
  readonly id: number;
  readonly label: string;
  /** Brought by the teacher, or handed in through the link. */
  readonly origin: 'teacher' | 'link';
  /** Another origin of this label counts, and this one stands beside it. */
  readonly beside: boolean;
  /** Which hand-in of this label and origin it is, from 1; the newest is shown. */
  readonly number: number;
  readonly file: string;
  readonly arrivedAt: string;
  readonly late: boolean;
  readonly state: CheckState;
  readonly sentence: string;
  /** Undefined until it is checked. */
  readonly checked?: CheckedHandIn;
  /** What the hand-in said of itself and is not so. */
  readonly broken: readonly string[];
}

export interface Remark {
  readonly of: 'group' | 'label';
  readonly about: string;
  readonly text: string;
}

export interface Progress {
  readonly waiting: number;
  readonly done: number;
  readonly total: number;
  /** Why nothing of it goes on, and what helps. */
  readonly hindrance?: string;
}

export interface Matrix {
  readonly assignment: AssignmentDetail;
  readonly sets: readonly { readonly name: string; readonly hidden: boolean; readonly purpose: string }[];
  readonly teacher: { readonly holds: number; readonly ticks: number; readonly cells: number } | undefined;
  /** Of what is wrong with the assignment itself. */
  readonly wrong: string | undefined;
  readonly rows: readonly HandInRow[];
  readonly groups: readonly Group[];
  readonly alike: readonly Alike[];
  readonly remarks: readonly Remark[];
  readonly progress: Progress;
}

/** One hand-in, whole. */
export interface HandInDetail {
  readonly id: number;
  readonly label: string;
  readonly source: string;
  readonly bundle: string | null;
  readonly history: readonly {
    readonly id: number;
    readonly arrivedAt: string;
    readonly file: string;
    readonly late: boolean;
    readonly holds: number | undefined;
    readonly sets: number;
  }[];
}
