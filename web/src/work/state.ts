/** The assignment that a student works at, and what was handed in. */
import { create } from 'zustand';
import type { PublicAssignment, Receipt } from '@zettak/api/work';
import type { TrialRow } from '@zettak/core/trials/judge/row';
import type { Tokens } from '../documents/workClient';

export interface WorkState {
  readonly assignment?: PublicAssignment | undefined;
  /** Without them there is no server to hand in to. */
  readonly tokens?: Tokens | undefined;
  /** Of a lesson in a folder: its name and its tasks. */
  readonly lesson?: string | undefined;
  readonly choices: readonly PublicAssignment[];
  /** The server was asked in vain; what this browser keeps of the assignment stands there. */
  readonly away: boolean;
  /** The program's text as it was when it was looked at last. */
  readonly source: string;
  readonly label: string;
  /** Of the shown sets, of this text. */
  readonly rows?: readonly TrialRow[] | undefined;
  /** Why the program does not assemble. */
  readonly wrong?: string | undefined;
  readonly busy: boolean;
  readonly receipts: readonly Receipt[];
  readonly said?: string | undefined;
  readonly failure?: string | undefined;
}

export const useWork = create<WorkState>()(() => ({ away: false, source: '', label: '', busy: false, receipts: [], choices: [] }));

export const programOf = (assignment: string): string => `work-${assignment}`;
export const machineOf = (assignment: string): string => `machine-${assignment}`;
