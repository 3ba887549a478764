/** A server of its own for a test: a database in a folder that goes away, the demo course, a clock that the test moves. */
import { copyFileSync, mkdtempSync, rmSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import { createApp, KEPT_ALIVE, LIMITS, type Limits } from '../http/app';
import { openDatabase, type Database } from '../database/database';
import { startServices, type Services } from '../services';

const root = join(__dirname, '../../..');

export interface Answer {
  readonly status: number;
  // oxlint-disable-next-line typescript/no-explicit-any
  readonly body: any;
  readonly text: string;
  readonly headers: Headers;
}

export interface TestServer {
  readonly base: string;
  readonly database: Database;
  readonly services: Services;
  /** What the log was told. */
  readonly logged: string[];
  time: Date;
  call(method: string, path: string, body?: unknown, headers?: Readonly<Record<string, string>>): Promise<Answer>;
  /** Until nothing of an assignment waits to be checked. */
  checked(assignment: string): Promise<void>;
  close(): Promise<void>;
}

interface Wanted {
  readonly limits?: Limits;
  readonly level?: string;
  /** Begins as at a first start. */
  readonly first?: boolean;
}

export async function testServer({ limits = LIMITS, level = 'silent', first = false }: Wanted = {}): Promise<TestServer> {
  const folder = mkdtempSync(join(tmpdir(), 'zettak-class-'));
  if (!first) copyFileSync(join(root, '.cache/filled.sqlite'), join(folder, 'test.sqlite'));
  const database = openDatabase(join(folder, 'test.sqlite'), join(root, 'server/drizzle'));
  const held = { time: new Date('2026-11-26T10:00:00Z') };
  const logged: string[] = [];
  const log = pino({ level }, { write: (line: string) => void logged.push(line) });
  const services = startServices({ database, now: () => held.time, log, demo: join(root, 'demo'), threads: join(root, 'server/dist') });
  const server: Server = createApp({ ...services, pages: join(folder, 'pages'), hosts: ['127.0.0.1'], limits }).listen(0, '127.0.0.1');
  server.keepAliveTimeout = KEPT_ALIVE;
  await new Promise((resolve) => server.once('listening', resolve));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const call: TestServer['call'] = async (method, path, body, headers = {}) => {
    const type: Record<string, string> = body === undefined ? {} : { 'content-type': 'application/json' };
    const response = await fetch(base + path, {
      method,
      headers: { ...type, ...headers },
      ...(body !== undefined && { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    const text = await response.text();
    const json = (response.headers.get('content-type') ?? '').includes('json');
    return { status: response.status, text, body: json ? (JSON.parse(text) as unknown) : text, headers: response.headers };
  };
  return Object.assign(held, {
    ...{ base, database, services, logged, call },
    checked: async (assignment: string) => {
      for (let turn = 0; services.handIns.progress(assignment).waiting > 0; turn++) {
        if (turn > 600) throw new Error('The checks do not end.');
        await new Promise((resolve) => setTimeout(resolve, 50));
      }
    },
    close: async () => {
      server.closeAllConnections();
      server.close();
      await services.close();
      database.close();
      rmSync(folder, { recursive: true });
    },
  });
}
