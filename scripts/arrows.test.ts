import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';

const root = join(__dirname, '..');

/** Where each layer may import from, besides itself. `text <- notation <- machine <- image <- …` */
const base = ['text', 'notation', 'machine', 'image'];
const core = ['assembler', 'engine', 'formats'];
const below = [...base, ...core, 'trials', 'session', 'api'];
const ALLOWED: Readonly<Record<string, readonly string[]>> = {
  text: [],
  notation: base.slice(0, 1),
  machine: base.slice(0, 2),
  image: base.slice(0, 3),
  assembler: base,
  engine: base,
  formats: base,
  trials: [...base, ...core],
  session: [...base, ...core, 'trials'],
  api: below,
  server: below,
  cli: below,
  web: below,
};

/** Rooms within a layer and where their values may come from, besides themselves; `.` is beside the rooms. */
const machine = ['document', 'model'];
const engine = ['meaning', 'compile', 'watch', 'timeline'];
const shared = ['app', 'ui'];
const ROOMS: Readonly<Record<string, Readonly<Record<string, readonly string[]>>>> = {
  machine: { model: [], document: ['model'], resolve: machine },
  assembler: { read: [], place: ['read'], check: ['read', 'place'], assist: ['read', 'place', 'check', '.'] },
  engine: {
    meaning: [],
    compile: engine.slice(0, 1),
    watch: engine.slice(0, 2),
    timeline: engine.slice(0, 3),
    control: engine,
    tell: engine,
    sample: [...engine, 'control', 'tell'],
  },
  web: {
    app: ['ui'],
    ui: ['app'],
    documents: shared,
    session: shared,
    editor: shared,
    datapath: shared,
    bench: [...shared, 'documents', 'session', 'editor', 'datapath'],
    machines: [...shared, 'documents', 'session', 'editor', 'datapath'],
    programs: [...shared, 'documents', 'session', 'editor'],
    trials: [...shared, 'documents', 'session', 'editor'],
    card: [...shared, 'documents', 'session'],
    access: [...shared, 'documents'],
    work: [...shared, 'documents', 'session'],
    class: [...shared, 'documents', 'session', 'editor'],
  },
};

const layerOf = (file: string): string => {
  const [first, , folder] = relative(root, file).split('/');
  return first === 'core' ? folder! : first!;
};

/** The room of a file within its layer; undefined for files that stand beside the rooms. */
function roomOf(file: string): string | undefined {
  const parts = relative(root, file).split('/');
  const at = parts[0] === 'core' ? 3 : 2;
  return parts.length > at + 1 ? parts[at] : undefined;
}

function filesIn(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) return ['node_modules', 'dist', 'testing'].includes(entry.name) ? [] : filesIn(path);
    return /\.tsx?$/.test(entry.name) && !/\.test\.ts$/.test(entry.name) ? [path] : [];
  });
}

/** What a file imports; without `types` only where values come from. */
function importsOf(file: string, { types = true }: { readonly types?: boolean } = {}): string[] {
  const text = readFileSync(file, 'utf8');
  const found = text.matchAll(/^(?:import|export)\s([^;]*?)from '([^'\n]+)'|^import '([^'\n]+)'|\bimport\('([^'\n]+)'\)/gm);
  return [...found].flatMap(([, what = '', from, plain, late]) => {
    const onlyTypes = /^type\s/.test(what) || /^\{(\s*type [^,}]+,?)+\s*\}\s*$/.test(what);
    return !types && onlyTypes ? [] : [(from ?? plain ?? late)!];
  });
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

test('rooms within a layer import their values downward, and screens never import each other', () => {
  const wrong = files.flatMap((file) => {
    const [layer, room] = [layerOf(file), roomOf(file)];
    const rooms = ROOMS[layer];
    if (!rooms || room === undefined) return [];
    const allowed = rooms[room];
    if (!allowed) return [`${relative(root, file)} is in no known room`];
    return importsOf(file, { types: layer === 'web' }).flatMap((from) => {
      const aim = target(file, from);
      if (!aim || layerOf(aim) !== layer) return [];
      const to = roomOf(`${aim}.ts`);
      return to === room || allowed.includes(to ?? '.') ? [] : [`${relative(root, file)} imports ${from}`];
    });
  });
  expect(wrong).toEqual([]);
});

test('no file needs a value of one that needs a value of it', () => {
  const known = new Set(files);
  const needs = new Map(
    files.map((file) => {
      const aims = importsOf(file, { types: false }).flatMap((from) => target(file, from) ?? []);
      return [file, aims.flatMap((aim) => [`${aim}.ts`, `${aim}.tsx`].filter((each) => known.has(each)))] as const;
    }),
  );
  const done = new Set<string>();
  const cycles: string[] = [];
  const visit = (file: string, way: readonly string[]): void => {
    if (way.includes(file))
      return void cycles.push([...way.slice(way.indexOf(file)), file].map((each) => relative(root, each)).join(' > '));
    if (done.has(file)) return;
    for (const each of needs.get(file) ?? []) visit(each, [...way, file]);
    done.add(file);
  };
  for (const file of files) visit(file, []);
  expect(needs.size).toBeGreaterThan(200);
  expect(cycles).toEqual([]);
});

test('the core imports no package but yaml, zod, papaparse and hashes, and nothing of Node', () => {
  const packages = files
    .filter((each) => each.includes('/core/src/'))
    .flatMap((file) => importsOf(file).filter((from) => !from.startsWith('.')));
  expect([...new Set(packages)].sort()).toEqual(['@noble/hashes/sha2', '@noble/hashes/utils', 'papaparse', 'yaml', 'zod']);
});

test('no name of the demo machine’s own stands in an if of core, server or web', () => {
  const names = /['"`](Curlew|ACC|MAR|MDR|LOAD|STORE|HALT|TRAP|JUMP\w*)['"`]/;
  // What makes a document of answers names the parts that it writes.
  const makers = ['core/src/machine/document/beginning.ts'];
  const wrong = files.filter((file) => !makers.includes(relative(root, file)) && names.test(readFileSync(file, 'utf8')));
  expect(wrong.map((each) => relative(root, each))).toEqual([]);
});
