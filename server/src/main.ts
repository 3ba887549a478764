/** Starts the server on one loopback port: database, migrations, demo course, pages. */
import { join } from 'node:path';
import { pino } from 'pino';
import { createApp } from './app';
import { openDatabase } from './database';
import { createDocumentStore } from './documents/store';
import { seed } from './seed';

const root = process.env.ZETTAK_ROOT ?? process.cwd();
const port = Number(process.env.PORT ?? 4870);
const host = process.env.ZETTAK_HOST ?? '127.0.0.1';
const file = process.env.ZETTAK_DATABASE ?? join(root, 'data', 'zettak.sqlite');

function stop(sentence: string): never {
  process.stderr.write(`${sentence}\n`);
  process.exit(1);
}

if (!Number.isInteger(port) || port < 0 || port > 65_535) stop(`PORT is “${process.env.PORT}”; a port is a whole number from 0 to 65535.`);

const log = pino({ level: process.env.LOG_LEVEL ?? 'warn' });
const database = openDatabase(file, join(root, 'server', 'drizzle'));
const store = createDocumentStore(database, () => new Date());
seed(store, join(root, 'demo'));

const hosts = [...new Set(['localhost', '127.0.0.1', '[::1]', host])];
const server = createApp({ store, log, pages: join(root, 'web', 'dist'), hosts }).listen(port, host);

server.on('listening', () => {
  const address = server.address();
  const actual = typeof address === 'object' && address ? address.port : port;
  process.stdout.write(`Zettak is ready: http://${host === '127.0.0.1' ? 'localhost' : host}:${actual}\n`);
});
server.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EADDRINUSE') stop(`Port ${port} is taken, perhaps by another Zettak. Choose another: PORT=${port + 1} npm start`);
  if (error.code === 'EACCES') stop(`Port ${port} may not be used by you. Choose one above 1023: PORT=4870 npm start`);
  stop(`The server cannot listen on ${host}:${port}: ${error.message}`);
});

for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.on(signal, () => {
    server.close(() => {
      database.$client.close();
      process.exit(0);
    });
    server.closeAllConnections();
  });
}
