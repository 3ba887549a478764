/** What came of the sets of a program, kept beside the state of program and machine that it came of. */
import { z } from 'zod';

/** Of the texts that were run. */
export const resultsKey = z.string().regex(/^[0-9a-f]{8,64}$/, { error: 'a key is made of hex digits' });

/** Longest rows of one run of all sets, as text. */
export const MOST_ROWS_TEXT = 3_500_000;

/** Rows as the core makes them, as JSON: the server keeps them and looks at none. */
export const keptResults = z.strictObject({ rows: z.string().max(MOST_ROWS_TEXT, { error: 'these results are too long to be kept' }) });

export interface Results {
  readonly key: string;
  readonly rows: string;
  readonly createdAt: string;
}
