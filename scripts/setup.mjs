/** What start and test share: the right Node, installed packages, built pages and server. Needs nothing but Node. */
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));
const stamps = join(root, '.cache');

export function stop(sentence) {
  process.stderr.write(`${sentence}\n`);
  process.exit(1);
}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major > 20 || (major === 20 && minor >= 19)) return;
  stop(`Zettak needs Node.js 20.19 or newer; this is ${process.versions.node}. Install a newer one and start again.`);
}

/** Runs a program with its output on the terminal, or on the error stream where `quiet`; stops with a sentence where it fails. */
export function run(program, args, { sentence, env = {} } = {}) {
  const { status, error } = spawnSync(program, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  if (status !== 0) stop(sentence ?? `${program} ${args.join(' ')} failed${error ? `: ${error.message}` : ''}.`);
}

const hashOf = (text) => createHash('sha256').update(text).digest('hex');

/** Does `act` only where `content` differs from the time before. */
function whenChanged(name, content, present, act) {
  const file = join(stamps, name);
  const hash = hashOf(content);
  if (present && existsSync(file) && readFileSync(file, 'utf8') === hash) return;
  act();
  mkdirSync(stamps, { recursive: true });
  writeFileSync(file, hash);
}

export function install() {
  const lock = readFileSync(join(root, 'package-lock.json'), 'utf8');
  whenChanged('installed', lock, existsSync(join(root, 'node_modules')), () => {
    process.stdout.write('Installing packages. The first time this takes about a minute.\n');
    run('npm', ['ci', '--loglevel=error'], { sentence: 'The packages could not be installed. Check the network, then start again.' });
  });
}

/** Names, sizes and times of everything the build reads. */
function sources() {
  const found = [];
  const visit = (folder) => {
    for (const entry of readdirSync(join(root, folder), { withFileTypes: true })) {
      const path = `${folder}/${entry.name}`;
      if (entry.name === 'node_modules' || entry.name === 'dist') continue;
      if (entry.isDirectory()) visit(path);
      else {
        const { size, mtimeMs } = statSync(join(root, path));
        found.push(`${path} ${size} ${mtimeMs}`);
      }
    }
  };
  ['core', 'api', 'server', 'cli', 'web'].forEach(visit);
  return found.join('\n') + readFileSync(join(root, 'package-lock.json'), 'utf8').length;
}

const COMPRESSED = /\.(js|css|svg|json)$/;

/** Puts a compressed copy beside each text whose name changes with it, so that nobody waits for it to be made. */
function compress(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) compress(path);
    else if (COMPRESSED.test(entry.name) && statSync(path).size > 1000) {
      const text = readFileSync(path);
      const params = { [constants.BROTLI_PARAM_QUALITY]: 9, [constants.BROTLI_PARAM_SIZE_HINT]: text.length };
      writeFileSync(`${path}.br`, brotliCompressSync(text, { params }));
      writeFileSync(`${path}.gz`, gzipSync(text, { level: 9 }));
    }
  }
}

export function build() {
  const present =
    existsSync(join(root, 'web/dist/index.html')) &&
    existsSync(join(root, 'server/dist/main.js')) &&
    existsSync(join(root, 'cli/dist/zettak.js'));
  whenChanged('built', sources(), present, () => {
    process.stdout.write('Building.\n');
    for (const part of ['server', 'cli', 'web']) {
      run(
        process.execPath,
        [join(root, 'node_modules/vite/bin/vite.js'), 'build', '--config', `${part}/vite.config.ts`, '--logLevel', 'warn'],
        { sentence: `The ${part} could not be built.` },
      );
    }
    compress(join(root, 'web/dist/assets'));
  });
}
