/** zettak worker: checks hand-ins for a server, on this computer or another. The server's own program does it. */
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { randomBytes } from 'node:crypto';
import type { Terminal } from './terminal';

export interface WorkerOptions {
  readonly server: string;
  readonly threads: string;
  readonly newToken?: boolean;
}

/** Goes on until it is stopped. */
export async function worker(terminal: Terminal, { server, threads, newToken }: WorkerOptions): Promise<void> {
  if (newToken) {
    terminal.write(randomBytes(24).toString('base64url'));
    return;
  }
  process.env.ZETTAK_SERVER = server;
  process.env.ZETTAK_THREADS = threads;
  await import(pathToFileURL(join(import.meta.dirname, '..', '..', 'server', 'dist', 'worker.js')).href);
}
