/** What crosses HTTP for a bench that a class follows. */
import { z } from 'zod';

/** Longest definition of a run: machine, program, what it was given. */
const MOST_RUN = 3_500_000;

/** `run`: a run file, where it is another than before. `paused`: nothing of what is on the bench may be seen now. */
export const shareChange = z.strictObject({
  run: z.string().max(MOST_RUN, { error: 'this run is too large to be shared' }).optional(),
  tick: z.number().int().min(0).max(Number.MAX_SAFE_INTEGER),
  paused: z.boolean().default(false),
});
export type ShareChange = z.infer<typeof shareChange>;

/** Where the shared bench stands. `run` counts definitions; 0 while there is none. */
export interface Shared {
  readonly run: number;
  readonly tick: number;
  readonly paused: boolean;
  readonly ended: boolean;
}
