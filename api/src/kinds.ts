/** Kinds of documents, as they stand in paths. Names alone, so that a page has them without the schemas. */

/** What the course keeps for a machine beside programs: routines to take in, beginnings with frozen lines, lines to insert. */
export const courseKinds = ['part', 'frame', 'snippet'] as const;
export type CourseKind = (typeof courseKinds)[number];

/** `trial`: the data sets of a program, which names it. */
export const kinds = ['machine', 'program', 'trial', ...courseKinds] as const;
export type Kind = (typeof kinds)[number];
