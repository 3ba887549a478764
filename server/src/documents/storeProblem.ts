/** Why a store refuses: there is no such document, it was changed meanwhile, or the change makes no sense. */
export class StoreProblem extends Error {
  constructor(
    readonly kind: 'missing' | 'changed' | 'refused',
    sentence: string,
    /** What the caller needs to go on. */
    readonly more: Readonly<Record<string, unknown>> = {},
  ) {
    super(sentence);
  }
}
