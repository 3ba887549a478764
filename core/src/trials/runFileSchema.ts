/** The file of a kept run: machine version, program and script, which together make the same run anywhere. */
import { z } from 'zod';

const text = z.string().max(2_000_000);
const number = z
  .number()
  .int()
  .min(0)
  .max(2 ** 53 - 1);

export const runFileSchema = z.object({
  zettak: z.literal('run'),
  version: z.literal(1),
  /** Files from before languages had numbers hold documents of the first. */
  machine: z.object({ name: z.string().max(200), text, language: z.number().int().min(1).default(1) }),
  program: z.object({ text, parts: z.record(z.string(), text) }),
  /** Cells that were there before the program was loaded: space, address, value. */
  kept: z.array(z.tuple([number, number, number])).max(200_000),
  script: text,
  tick: number,
  note: z.string().max(2000),
});

export type RunFile = z.infer<typeof runFileSchema>;
