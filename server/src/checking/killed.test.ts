import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Matrix } from '@zettak/api/matrix';

const root = join(__dirname, '../../..');
const folder = mkdtempSync(join(tmpdir(), 'zettak-killed-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

interface Running {
  readonly child: ChildProcess;
  readonly address: string;
}

function started(): Promise<Running> {
  const env = { ...process.env, ZETTAK_ROOT: root, ZETTAK_DATABASE: join(folder, 'killed.sqlite'), PORT: '0' };
  const child = spawn(process.execPath, [join(root, 'server/dist/main.js')], { env, stdio: ['ignore', 'pipe', 'inherit'] });
  return new Promise((resolve, reject) => {
    child.stdout!.on('data', (chunk: Buffer) => {
      const address = /http:\/\/\S+/.exec(chunk.toString())?.[0];
      if (address) resolve({ child, address });
    });
    child.once('exit', (code) => reject(new Error(`The server ended with ${code} before it was ready`)));
  });
}

const killed = ({ child }: Running): Promise<void> =>
  new Promise((resolve) => {
    child.removeAllListeners('exit');
    child.once('exit', () => resolve());
    child.kill('SIGKILL');
  });

const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** Endless without a proof of it: takes its time, so that it is often under way when the server is killed. */
const slow = (label: string): string =>
  `; ${label}\nstart LOAD a\n INC\n STORE a\n LOAD b\n ADDC #0\n STORE b\n JUMP start\na .cells 0\nb .cells 0\ncount .cells 0\n`;

/** More by hand: ZETTAK_KILLS=100. */
const ROUNDS = Number(process.env.ZETTAK_KILLS ?? 3);
const MOST_OF_ROUND = 8;

/** Hands in one after the other until the server is gone; what was acknowledged is noted. */
async function handInUntilGone({ address }: Running, round: number, acknowledged: Map<string, string>): Promise<void> {
  for (let at = 0; at < MOST_OF_ROUND; at++) {
    const label = `round ${round} no ${at}`;
    const text = slow(label);
    try {
      const response = await fetch(`${address}/api/assignments/quay-count/hand-ins`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ entries: [{ label, text }] }),
      });
      if (response.status === 201) acknowledged.set(label, text);
      await response.arrayBuffer();
    } catch {
      return;
    }
  }
}

test(
  'a server that is killed again and again in the middle of hand-ins and checks loses none, and every check ends',
  async () => {
    const acknowledged = new Map<string, string>();
    for (let round = 0; round < ROUNDS; round++) {
      const server = await started();
      const before = acknowledged.size;
      const handing = handInUntilGone(server, round, acknowledged);
      while (acknowledged.size < before + 3 + (round % 4)) await pause(5);
      await killed(server);
      await handing;
    }
    expect(acknowledged.size).toBeGreaterThanOrEqual(3 * ROUNDS);
    const server = await started();
    const matrix = async (): Promise<Matrix> =>
      (await (await fetch(`${server.address}/api/assignments/quay-count/matrix`)).json()) as Matrix;
    let found = await matrix();
    for (let turn = 0; found.progress.waiting > 0 && turn < 400; turn++) {
      await pause(200);
      found = await matrix();
    }
    const rows = new Map(found.rows.map((each) => [each.label, each]));
    expect([...acknowledged.keys()].filter((label) => !rows.has(label))).toEqual([]);
    expect(found.rows.filter((each) => each.state !== 'done').map((each) => `${each.label}: ${each.state} ${each.sentence}`)).toEqual([]);
    const [label, text] = [...acknowledged].at(-1)!;
    const kept = (await (await fetch(`${server.address}/api/hand-ins/${rows.get(label)!.id}`)).json()) as { source: string };
    expect(kept.source).toBe(text);
    await killed(server);
  },
  150_000 + ROUNDS * 10_000,
);
