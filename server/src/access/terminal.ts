/** Asks for the teacher's passphrase on the terminal, twice, without showing it. */
import { createInterface } from 'node:readline';
import { Writable } from 'node:stream';
import { refusedPassphrase, setPassphrase } from './passphrase';
import type { Settings } from './settings';

/** Asks until there is one. On a pipe the first line is taken as it is. */
export async function askPassphrase(settings: Settings): Promise<void> {
  const terminal = process.stdin.isTTY === true;
  const quiet = new Writable({ write: (_chunk, _encoding, done) => done() });
  const lines = createInterface({ input: process.stdin, output: quiet, terminal });
  const iterator = lines[Symbol.asyncIterator]();
  const ask = async (question: string): Promise<string | undefined> => {
    if (terminal) process.stdout.write(question);
    const { value, done } = await iterator.next();
    if (terminal) process.stdout.write('\n');
    return done ? undefined : (value as string);
  };
  try {
    for (;;) {
      const text = await ask('A passphrase for the teacher: ');
      if (text === undefined) throw new Error('No passphrase came.');
      const refused = refusedPassphrase(text);
      const again = !refused && terminal ? await ask('Once more: ') : text;
      if (!refused && again === text) {
        await setPassphrase(settings, text);
        return;
      }
      process.stdout.write(`${refused ?? 'The two are not the same.'}\n`);
      if (!terminal) throw new Error(refused);
    }
  } finally {
    lines.close();
  }
}
