import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';

const root = join(__dirname, '..');

/** Where each layer may import from, besides itself. `text <- notation <- machine <- image <- …` */
const base = ['text', 'notation', 'machine', 'image'];
const core = ['assembler', 'engine', 'formats'];
const ALLOWED: Readonly<Record<string, readonly string[]>> = {
  text: [],
  notation: base.slice(0, 1),
  machine: base.slice(0, 2),
  image: base.slice(0, 3),
  assembler: base,
  engine: base,
  formats: base,
  trials: [...base, ...core],
  api: [...base, ...core, 'trials'],
  server: [...base, ...core, 'trials', 'api'],
  cli: [...base, ...core, 'trials', 'api'],
  web: [...base, ...core, 'trials', 'api'],
};

const layerOf = (file: string): string => {
  const [first, , folder] = relative(root, file).split('/');
  return first === 'core' ? folder! : first!;
};

function filesIn(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) return ['node_modules', 'dist', 'testing'].includes(entry.name) ? [] : filesIn(path);
    return /\.tsx?$/.test(entry.name) && !/\.test\.ts$/.test(entry.name) ? [path] : [];
  });
}

function importsOf(file: string): string[] {
  const text = readFileSync(file, 'utf8');
  const found = text.matchAll(/^(?:import|export)\s[^;]*?from '([^'\n]+)'|^import '([^'\n]+)'|\bimport\('([^'\n]+)'\)/gm);
  return [...found].map((each) => (each[1] ?? each[2] ?? each[3])!);
}

/** The file that an import of our own means, or undefined for a package. */
function target(file: string, from: string): string | undefined {
  if (from.startsWith('.')) return resolve(dirname(file), from);
  const own = /^@zettak\/(\w+)\/(.+)$/.exec(from);
  return own ? join(root, own[1]!, 'src', own[2]!) : undefined;
}

const files = ['core/src', 'api/src', 'server/src', 'cli/src', 'web/src'].flatMap((each) => filesIn(join(root, each)));

test('every import points down, and brothers do not import each other', () => {
  const wrong = files.flatMap((file) => {
    const layer = layerOf(file);
    const allowed = ALLOWED[layer];
    if (!allowed) return [`${relative(root, file)} is in no known layer`];
    return importsOf(file).flatMap((from) => {
      const aim = target(file, from);
      const to = aim && layerOf(aim);
      return to && to !== layer && !allowed.includes(to) ? [`${relative(root, file)} imports ${from}`] : [];
    });
  });
  expect(wrong).toEqual([]);
});

test('the core imports no package but yaml and zod, and nothing of Node', () => {
  const packages = files
    .filter((each) => each.includes('/core/src/'))
    .flatMap((file) => importsOf(file).filter((from) => !from.startsWith('.')));
  expect([...new Set(packages)].sort()).toEqual(['yaml', 'zod']);
});

test('no name of the demo machine’s own stands in an if of core, server or web', () => {
  const names = /['"`](Curlew|ACC|MAR|MDR|LOAD|STORE|HALT|TRAP|JUMP\w*)['"`]/;
  const wrong = files.filter((file) => names.test(readFileSync(file, 'utf8')));
  expect(wrong.map((each) => relative(root, each))).toEqual([]);
});
