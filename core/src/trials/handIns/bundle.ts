/** A hand-in as a file: what a student gives in, with what the page says of the work; and a sum over it all. */
import { sha256 } from '@noble/hashes/sha2';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils';
import { z } from 'zod';
import { issueWords } from '../../text/issues';
import { MOST_LABEL } from './labels';

const MOST_SOURCE = 1_000_000;
const MOST_JOURNAL = 5_000;
const MOST_CLAIMS = 5_000;

const time = z.string().max(40);

/** One thing that was done. */
const entry = z.strictObject({
  at: time,
  what: z.enum(['opened', 'edited', 'assembled', 'ran', 'tried', 'handed in']),
  /** “3 errors”, “2 of 3 hold”. */
  says: z.string().max(200).default(''),
});
export type JournalEntry = z.infer<typeof entry>;

const claim = z.strictObject({
  set: z.string().max(200),
  verdict: z.enum(['holds', 'differs', 'ran', 'unread']),
  ticks: z.number().int().min(0),
  instructions: z.number().int().min(0),
  end: z.string().max(40),
  /** How the run stood at its end: what the set looks at, and the flags. Hand-ins of earlier pages do not say it. */
  final: z.string().max(8_000).optional(),
});

export const bundle = z.strictObject({
  zettak: z.literal('hand-in', { error: 'this is no hand-in of Zettak' }),
  version: z.literal(1, { error: 'this hand-in was made by a later version of Zettak' }),
  assignment: z.string().max(80),
  /** Of the texts that the page had of the assignment. */
  state: z.string().max(64),
  machine: z.strictObject({ name: z.string().max(80), version: z.number().int().min(1) }),
  label: z.string().trim().min(1).max(MOST_LABEL),
  handedInAt: time,
  source: z.string().max(MOST_SOURCE),
  /** Sets of the student's own, as YAML. */
  sets: z.string().max(MOST_SOURCE).default(''),
  /** What the page said of the shown sets. */
  results: z.array(claim).max(MOST_CLAIMS).default([]),
  journal: z.array(entry).max(MOST_JOURNAL).default([]),
  /** SHA-256 in hex over everything else, see hashOfBundle. */
  hash: z.string().regex(/^[0-9a-f]{64}$/),
});
export type Bundle = z.infer<typeof bundle>;

/** SHA-256 of a text in UTF-8, in hex. */
export const sha256Of = (text: string): string => bytesToHex(sha256(utf8ToBytes(text)));

/** Over the bundle without its hash, as JSON with the fields in the order of the schema and no blanks. */
export function hashOfBundle(content: Omit<Bundle, 'hash'>): string {
  const { hash: _, ...ordered } = bundle.parse({ ...content, hash: '0'.repeat(64) });
  return sha256Of(JSON.stringify(ordered));
}

/** The bundle with its sum. */
export const sealed = (content: Omit<Bundle, 'hash'>): Bundle => bundle.parse({ ...content, hash: hashOfBundle(content) });

/** Whether a text looks like a bundle: JSON that says so. */
export const looksLikeBundle = (text: string): boolean => /^\s*\{\s*"zettak"\s*:\s*"hand-in"/.test(text);

export type ReadBundle =
  | { readonly bundle: Bundle; /** The sum is the one over its contents. */ readonly whole: boolean }
  | { readonly wrong: string };

/** Never throws. */
export function readBundle(text: string): ReadBundle {
  let found: unknown;
  try {
    found = JSON.parse(text);
  } catch {
    return { wrong: 'This hand-in is no JSON.' };
  }
  const parsed = bundle.safeParse(found);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    return {
      wrong: `This hand-in cannot be read: ${issue!.path.map(String).join('.')}${issue!.path.length > 0 ? ': ' : ''}${issueWords(issue!)}.`,
    };
  }
  return { bundle: parsed.data, whole: hashOfBundle(parsed.data) === parsed.data.hash };
}

/** The JSON schema of hand-ins, for whoever makes or reads them elsewhere. */
export const bundleSchema = (): object => z.toJSONSchema(bundle, { io: 'input' });
