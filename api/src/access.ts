/** What crosses HTTP for the teacher's session. */
import { z } from 'zod';

export const passphraseEntry = z.strictObject({ passphrase: z.string().min(1, { error: 'the passphrase is empty' }).max(1000) });

export interface SessionState {
  /** There is a passphrase. */
  readonly guarded: boolean;
  /** Everything may be asked. */
  readonly open: boolean;
}
