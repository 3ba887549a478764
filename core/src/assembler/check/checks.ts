/** Warnings and remarks that can be switched off, each with the words on its switch. */
export const CHECKS = [
  { code: 'operation-as-label', says: 'a label is named like an operation' },
  { code: 'bare-target', says: 'a jump or call goes to a number instead of a name' },
  { code: 'jump-outside', says: 'a jump or call leaves the program' },
  { code: 'jump-into-middle', says: 'a jump or call lands inside an instruction' },
  { code: 'jump-into-data', says: 'a jump or call lands in data' },
  { code: 'runs-into-data', says: 'execution can run into data' },
  { code: 'runs-past-end', says: 'execution can run past the end' },
  { code: 'no-halt', says: 'no halt can be reached' },
  { code: 'never-reached', says: 'code can never be reached' },
  { code: 'never-used', says: 'a name is never used' },
  { code: 'two-bases', says: 'a number reads in two bases' },
  { code: 'text-runs-on', says: 'a text without its end mark runs on' },
  { code: 'writes-code', says: 'the program writes over its own code' },
  { code: 'service-not-asked', says: 'a service is prepared and not asked for' },
  { code: 'service-not-prepared', says: 'a service is asked for with no number prepared' },
  { code: 'link-lost', says: 'a link register is overwritten while it is needed' },
  { code: 'result-lost', says: 'a result is overwritten before it is used' },
  { code: 'falls-into-routine', says: 'a routine can fall into the next one' },
  { code: 'comment-of-another', says: 'a comment names another routine than its own' },
  { code: 'aligned', says: 'cells were passed over so that an instruction is aligned' },
] as const;

export type CheckCode = (typeof CHECKS)[number]['code'];
