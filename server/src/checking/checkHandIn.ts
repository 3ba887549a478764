/** What a worker thread does with a hand-in: reads its assignment once, then checks one program after the other. */
import type { AssignmentTexts } from '@zettak/core/trials/handIns/assignment';
import { readAssignment } from '@zettak/core/trials/handIns/assignment';
import { HandInCheck, type CheckedHandIn } from '@zettak/core/trials/handIns/check';

export interface HandInTask {
  /** Of the texts. */
  readonly key: string;
  readonly texts: AssignmentTexts;
  readonly source: string;
  /** Look for reasons, too. */
  readonly reasons: boolean;
}

export type HandInVerdict = { readonly result: CheckedHandIn } | { readonly wrong: string };

/** Assignments that a thread keeps read. */
const MOST_KEPT = 4;
const kept = new Map<string, HandInCheck | { readonly wrong: string }>();

function checkOf({ key, texts }: HandInTask): HandInCheck | { readonly wrong: string } {
  const known = kept.get(key);
  if (known) return known;
  const assignment = readAssignment(texts);
  const made = 'wrong' in assignment ? assignment : new HandInCheck(assignment);
  if (kept.size >= MOST_KEPT) kept.delete(kept.keys().next().value!);
  kept.set(key, made);
  return made;
}

export default function checkHandIn(task: HandInTask): HandInVerdict {
  const check = checkOf(task);
  return 'wrong' in check ? check : { result: check.check(task.source, task) };
}
