/** Whom the pages are for: a teacher with a server's documents, or a student with a lesson. Chosen once, before the first screen. */

export interface Mode {
  /** Links of the bar, in their order. */
  readonly screens: readonly { readonly to: string; readonly says: string }[];
  /** Where a page without a path leads. */
  readonly first: string;
  /** The bench can be shared with a class. */
  readonly shares: boolean;
}

const TEACHER: Mode = {
  screens: [
    { to: '/machines', says: 'Machines' },
    { to: '/programs', says: 'Programs' },
    { to: '/bench', says: 'Bench' },
    { to: '/trials', says: 'Trials' },
    { to: '/class', says: 'Class' },
  ],
  first: '/bench',
  shares: true,
};

export const STUDENT: Mode = {
  screens: [
    { to: '/task', says: 'Task' },
    { to: '/bench', says: 'Bench' },
    { to: '/trials', says: 'Trials' },
  ],
  first: '/task',
  shares: false,
};

/** Whoever follows a shared bench has that bench alone. */
export const FOLLOWER: Mode = { screens: [{ to: '/bench', says: 'Bench' }], first: '/bench/followed', shares: false };

const chosen: { mode: Mode } = { mode: TEACHER };

export const mode = (): Mode => chosen.mode;
export const chooseMode = (wanted: Mode): void => void (chosen.mode = wanted);
