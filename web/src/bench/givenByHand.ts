/** What was given to a program by hand on this page, the newest of each place, so that it can be given again. */
import { create } from 'zustand';
import type { Base } from '@zettak/core/text/number';

export interface GivenByHand {
  readonly place: string;
  /** As typed. */
  readonly text: string;
  /** In which unmarked numbers were read. */
  readonly base: Base;
}

/** Places that are remembered for one program. */
const MOST = 50;

export const useGivenByHand = create<{ readonly given: Readonly<Record<string, readonly GivenByHand[]>> }>()(() => ({ given: {} }));

const put = (program: string, change: (list: readonly GivenByHand[]) => readonly GivenByHand[]): void =>
  useGivenByHand.setState(({ given }) => ({ given: { ...given, [program]: change(given[program] ?? []) } }));

const same = (a: string, b: string): boolean => a.toUpperCase() === b.toUpperCase();

export const remember = (program: string, one: GivenByHand): void =>
  put(program, (list) => [...list.filter((each) => !same(each.place, one.place)), one].slice(-MOST));

export const forgetGiven = (program: string, place: string): void => put(program, (list) => list.filter((each) => each.place !== place));
