/** Whom the pages are for: a teacher with a server's documents, or a student with a lesson. Chosen once, before the first screen. */

export interface Mode {
  /** Links of the bar, in their order. */
  readonly screens: readonly { readonly to: string; readonly says: string }[];
  /** Where a page without a path leads. */
  readonly first: string;
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
};

export const STUDENT: Mode = {
  screens: [
    { to: '/task', says: 'Task' },
    { to: '/bench', says: 'Bench' },
    { to: '/trials', says: 'Trials' },
  ],
  first: '/task',
};

const chosen: { mode: Mode } = { mode: TEACHER };

export const mode = (): Mode => chosen.mode;
export const chooseMode = (wanted: Mode): void => void (chosen.mode = wanted);
