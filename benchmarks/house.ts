/** What a page loads, gzipped, by screen; and how long `npm start` takes in a fresh clone and a second time. */
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';

const root = process.env.ZETTAK_ROOT ?? process.cwd();
const say = (name: string, figure: string): void => void process.stdout.write(`${name.padEnd(52)} ${figure}\n`);

// ---- what is loaded ----

interface Chunk {
  readonly file: string;
  readonly name?: string;
  readonly isEntry?: boolean;
  readonly isDynamicEntry?: boolean;
  readonly imports?: readonly string[];
}
const manifest = JSON.parse(readFileSync(join(root, 'web/dist/.vite/manifest.json'), 'utf8')) as Record<string, Chunk>;

/** A chunk with everything that it cannot do without. */
function needs(key: string, found = new Set<string>()): Set<string> {
  if (found.has(key)) return found;
  found.add(key);
  for (const each of manifest[key]!.imports ?? []) needs(each, found);
  return found;
}

const sizeOf = (file: string): number => gzipSync(readFileSync(join(root, 'web/dist', file))).length;
const kilobytes = (keys: Iterable<string>): number => [...keys].reduce((sum, key) => sum + sizeOf(manifest[key]!.file), 0) / 1000;

function sizes(): void {
  const entry = Object.keys(manifest).find((key) => manifest[key]!.isEntry)!;
  const shell = needs(entry);
  const editor = Object.keys(manifest).filter((key) => manifest[key]!.name === 'editor');
  const told = (name: string, size: number, aim: number): void => say(name, `${size.toFixed(1)} kB gzipped, aim ${aim}`);
  told('shell: React, router, controls', kilobytes(shell), 240);
  for (const [key, { isDynamicEntry, name }] of Object.entries(manifest)) {
    if (!isDynamicEntry || !name?.endsWith('Page')) continue;
    told(`${name}, its own code`, kilobytes([...needs(key)].filter((each) => !shell.has(each) && !editor.includes(each))), 100);
  }
  told('code editor', kilobytes(editor), 140);
}

// ---- how long it takes to start ----

const run = (program: string, args: readonly string[], cwd: string): void => {
  if (spawnSync(program, args, { cwd, stdio: 'ignore' }).status !== 0) throw new Error(`${program} ${args.join(' ')} failed`);
};

/** Seconds from `npm start` to an answer under its address. */
async function start(folder: string): Promise<number> {
  const from = performance.now();
  const env = { ...process.env, PORT: '0', ZETTAK_ROOT: folder };
  const server = spawn('npm', ['start'], { cwd: folder, env, stdio: ['ignore', 'pipe', 'ignore'], detached: true });
  try {
    const address = await new Promise<string>((resolve, reject) => {
      let told = '';
      server.stdout.on('data', (piece: Buffer) => {
        told += piece.toString();
        const found = /http:\/\/\S+/.exec(told);
        if (found) resolve(found[0]);
      });
      server.once('exit', () => reject(new Error(`npm start ended: ${told}`)));
    });
    if (!(await fetch(address)).ok) throw new Error(`${address} did not answer`);
    return (performance.now() - from) / 1000;
  } finally {
    process.kill(-server.pid!, 'SIGTERM');
    await new Promise((resolve) => server.once('close', resolve));
  }
}

async function starts(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'zettak-start-'));
  const clone = join(folder, 'zettak');
  try {
    run('git', ['clone', '--quiet', root, clone], folder);
    const first = await start(clone);
    const second = await start(clone);
    say('npm start in a fresh clone, to an answering page', `${first.toFixed(1)} s, aim 90`);
    say('npm start a second time', `${second.toFixed(2)} s, aim 2; ${(first / second).toFixed(0)} times quicker than the first`);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

sizes();
await starts();
