/** Starts the server on one loopback port: database, migrations, demo course, pages. */
import { existsSync, readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { createServer as createTlsServer } from 'node:https';
import { hostname, networkInterfaces } from 'node:os';
import { join } from 'node:path';
import { pino, type Logger } from 'pino';
import { createSettings } from './access/settings';
import { askPassphrase } from './access/terminal';
import { hasPassphrase } from './access/passphrase';
import { isToken } from './access/tokens';
import { queueAddress } from './checking/queueAddress';
import { createApp, KEPT_ALIVE } from './http/app';
import { LogOutput } from './logOutput';
import { startServices, type QueueParts } from './services';
import { DatabaseProblem, openDatabase, type Database } from './database/database';

const root = process.env.ZETTAK_ROOT ?? process.cwd();
const host = process.env.ZETTAK_HOST ?? '127.0.0.1';
const file = process.env.ZETTAK_DATABASE ?? join(root, 'data', 'zettak.sqlite');
const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|::1)$/;

function stop(sentence: string): never {
  process.stderr.write(`${sentence}\n`);
  process.exit(1);
}

function portFrom(text: string): number {
  const port = /^\d{1,5}$/.test(text) ? Number(text) : Infinity;
  return port <= 65_535 ? port : stop(`PORT is “${text}”; a port is a whole number from 0 to 65535.`);
}

function logFrom(level: string): Logger {
  const levels = [...Object.keys(pino.levels.values), 'silent'];
  return levels.includes(level) ? pino({ level }, new LogOutput(1)) : stop(`LOG_LEVEL is “${level}”; it is one of: ${levels.join(', ')}.`);
}

function opened(): Database {
  try {
    return openDatabase(file, join(root, 'server', 'drizzle'));
  } catch (error) {
    return stop(error instanceof DatabaseProblem ? error.message : String(error));
  }
}

// The server goes on when what it prints cannot be written, as on a full disk.
for (const output of [process.stdout, process.stderr]) output.on('error', () => undefined);

const port = portFrom(process.env.PORT ?? '4870');
const log = logFrom(process.env.LOG_LEVEL ?? 'warn');
const missing = ['server/drizzle', 'demo'].find((each) => !existsSync(join(root, each)));
if (missing) stop(`ZETTAK_ROOT is “${root}”, and there is no ${missing} in it: name the folder of Zettak.`);
const database = opened();
const settings = createSettings(database);
if (!LOOPBACK.test(host) && !hasPassphrase(settings)) await firstPassphrase();
const services = startServices({
  ...{ database, now: () => new Date(), log, demo: join(root, 'demo'), threads: import.meta.dirname },
  queue: await queueFrom(process.env.ZETTAK_QUEUE, process.env.ZETTAK_WORKER_TOKEN),
});

async function queueFrom(text: string | undefined, token: string | undefined): Promise<QueueParts | undefined> {
  if (!text) return undefined;
  const address = queueAddress(text);
  if ('wrong' in address) return stop(address.wrong);
  if (isToken(token)) return { address, token, start: (await import('./checking/queued')).startQueuedJobs };
  return stop(
    'With ZETTAK_QUEUE workers need a token: set ZETTAK_WORKER_TOKEN here and with every worker. “npx zettak worker --new-token” makes one.',
  );
}

/** At the first start beyond this computer: from the terminal, where there is one. */
async function firstPassphrase(): Promise<void> {
  if (!process.stdin.isTTY)
    stop(
      `ZETTAK_HOST is “${host}”, which other computers reach, and there is no passphrase for the teacher. Set one with “npx zettak passphrase”, or start on a terminal; without it Zettak listens on this computer only.`,
    );
  await askPassphrase(settings);
}

const tls = tlsFrom(process.env.ZETTAK_TLS_CERT, process.env.ZETTAK_TLS_KEY);

function tlsFrom(cert: string | undefined, key: string | undefined): { cert: Buffer; key: Buffer } | undefined {
  if (!cert && !key) return undefined;
  if (!cert || !key) return stop('For TLS both ZETTAK_TLS_CERT and ZETTAK_TLS_KEY name a file in PEM.');
  try {
    return { cert: readFileSync(cert), key: readFileSync(key) };
  } catch (error) {
    return stop(`The certificate or its key cannot be read: ${(error as Error).message}`);
  }
}

/** Names that requests may be addressed to: of this computer; beyond loopback also its addresses, its name and those that were given. */
function namesOfHost(): string[] {
  const own = ['localhost', '127.0.0.1', '[::1]', host];
  if (LOOPBACK.test(host)) return [...new Set(own)];
  const addresses = Object.values(networkInterfaces()).flatMap(
    (each) => each?.map(({ address, family }) => (family === 'IPv6' ? `[${address}]` : address)) ?? [],
  );
  const given = (process.env.ZETTAK_NAMES ?? '').split(/[\s,]+/).filter((each) => each !== '');
  return [...new Set([...own, ...addresses, hostname(), `${hostname()}.local`, ...given].map((each) => each.toLowerCase()))];
}

const app = createApp({ ...services, pages: join(root, 'web', 'dist'), hosts: namesOfHost(), secure: tls !== undefined });
const server = (tls ? createTlsServer(tls, app) : createServer(app)).listen(port, host);

server.keepAliveTimeout = KEPT_ALIVE;
server.on('listening', () => {
  const address = server.address();
  const actual = typeof address === 'object' && address ? address.port : port;
  process.stdout.write(`Zettak is ready: ${tls ? 'https' : 'http'}://${host === '127.0.0.1' ? 'localhost' : host}:${actual}\n`);
});
server.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EADDRINUSE') stop(`Port ${port} is taken, perhaps by another Zettak. Choose another: PORT=${port + 1} npm start`);
  if (error.code === 'EACCES') stop(`Port ${port} may not be used by you. Choose one above 1023: PORT=4870 npm start`);
  stop(`The server cannot listen on ${host}:${port}: ${error.message}`);
});

for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.on(signal, () => {
    server.close(() => {
      void services.close().finally(() => {
        database.close();
        process.exit(0);
      });
    });
    server.closeAllConnections();
  });
}
