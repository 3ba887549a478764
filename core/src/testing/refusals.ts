/** Sentences of what was refused, for tests. */
import { explainEntry, type RefusedEntry } from '../engine/meaning/entryProblems';

/** The sentence of a refusal; throws where nothing was refused. */
export function refusalOf(result: object | RefusedEntry): string {
  if ('refused' in result) return explainEntry(result.refused);
  throw new Error(`not refused: ${JSON.stringify(result)}`);
}
