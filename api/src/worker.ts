/** What workers on other computers ask and say: they take checks by their names, fetch the texts, and return what came of them. */
import { z } from 'zod';
import type { CheckedHandIn } from '@zettak/core/trials/handIns/check';

/** Names one check. */
export const ticket = z.strictObject({
  handIn: z.number().int().min(1),
  key: z.string().max(64),
  stage: z.enum(['verdicts', 'reasons']),
});
export type TicketEntry = z.infer<typeof ticket>;

/** Beginning a check: `entry` is its name in the queue. */
export const beginning = z.strictObject({ ticket, entry: z.string().max(200) });

/** What a worker is told first: the name of the queue, and which build of the checks the server has. */
export interface WorkerWelcome {
  readonly queue: string;
  readonly build: string;
}

const sentence = z.string().max(4_000);
const count = z.number().int().min(0);
const line = z.number().int().min(1);

const row = z.strictObject({
  ...{ set: z.string().max(1_000), hidden: z.boolean(), verdict: z.enum(['holds', 'differs', 'ran', 'unread']) },
  end: z.enum(['halted', 'waiting', 'fault', 'never halts', 'out of ticks']).optional(),
  ...{ ending: sentence, ticks: count, instructions: count, final: z.string().max(8_000).optional() },
  differing: z.array(z.strictObject({ column: z.string().max(1_000), expected: sentence, seen: sentence })).max(100),
});

const parts = z.strictObject({ sentence, line: line.optional(), tick: count, teacherTick: count });

export const checkedHandIn = z.strictObject({
  errors: z
    .array(z.strictObject({ line: count, sentence }))
    .max(100)
    .optional(),
  ...{ cells: count, frame: z.array(sentence).max(10_000), rows: z.array(row).max(10_000), holds: count, ticks: count },
  open: z.boolean().optional(),
  first: z.strictObject({ set: z.string().max(1_000), sentence, parts: parts.optional() }).optional(),
  mistake: z.strictObject({ key: z.string().max(4_000), sentence, here: sentence, line: line.optional() }).optional(),
  form: z.string().max(4_000_000).optional(),
}) satisfies z.ZodType<CheckedHandIn>;

/** One check that is done; one that ended its worker's thread may be tried again. */
export const verdict = z.strictObject({
  ticket,
  outcome: z.union([z.strictObject({ result: checkedHandIn }), z.strictObject({ sentence, again: z.boolean() })]),
});
