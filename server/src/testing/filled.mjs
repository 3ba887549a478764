/** Before tests: a database with the demo course, its hand-ins checked, made once; tests begin with a copy of it. */
import { spawn } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';

const root = join(import.meta.dirname, '../../..');
export const FILLED = join(root, '.cache', 'filled.sqlite');

export default async function fill() {
  mkdirSync(join(root, '.cache'), { recursive: true });
  for (const ending of ['', '-wal', '-shm']) rmSync(FILLED + ending, { force: true });
  const env = { ...process.env, ZETTAK_ROOT: root, ZETTAK_DATABASE: FILLED, PORT: '0' };
  const server = spawn(process.execPath, [join(root, 'server/dist/main.js')], { env, stdio: ['ignore', 'pipe', 'inherit'] });
  const ended = new Promise((resolve) => server.once('exit', resolve));
  const address = await new Promise((resolve, reject) => {
    server.stdout.on('data', (chunk) => resolve(/http:\/\/\S+/.exec(String(chunk))?.[0]));
    server.once('exit', (code) => reject(new Error(`The server ended with ${code} before the tests.`)));
  });
  const ask = async (path) => (await fetch(`${address}/api${path}`)).json();
  for (const { assignments } of await ask('/courses'))
    for (const { id } of assignments)
      while ((await ask(`/assignments/${id}/matrix`)).progress.waiting > 0) await new Promise((resolve) => setTimeout(resolve, 100));
  server.kill('SIGTERM');
  await ended;
}
