/** zettak passphrase: asks for the teacher's passphrase and keeps it, hashed, in the database. The server's own program does it. */
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';

/** Exit code 0 where it is set. */
export function passphrase(): number {
  const program = join(import.meta.dirname, '..', '..', 'server', 'dist', 'passphrase.js');
  return spawnSync(process.execPath, [program], { stdio: 'inherit' }).status ?? 1;
}
