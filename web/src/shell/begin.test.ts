/** The first script of a page, run on as much of a page as it looks at. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { runInNewContext } from 'node:vm';

const SCREENS = {
  bench: { workers: { engine: 'assets/w.js' }, files: ['assets/b.js'], styles: [], asks: ['/api/programs'] },
  'bench/*': {
    ...{ workers: { engine: 'assets/w.js' }, files: ['assets/a.js', 'assets/b.js'], styles: ['assets/a.css'] },
    asks: ['/api/session', '/api/programs/*'],
  },
  class: { workers: {}, files: ['assets/c.js'], styles: [], asks: ['/api/session'] },
};

interface Begun {
  readonly links: readonly string[];
  readonly workers: readonly string[];
  /** By name, as the page's other scripts find them. */
  readonly handed: readonly string[];
}

interface Page {
  readonly src?: string;
  readonly lesson?: boolean;
  readonly storage?: () => string | null;
}

function begun(pathname: string, { src = 'http://localhost/begin.js', lesson = false, storage = () => null }: Page = {}): Begun {
  const links: string[] = [];
  const workers: string[] = [];
  const page: Record<string, unknown> = {
    URL,
    location: { pathname },
    localStorage: { getItem: storage },
    document: {
      currentScript: { src },
      querySelector: () => (lesson ? {} : null),
      createElement: () => ({}),
      head: { append: ({ rel, href }: { rel: string; href: unknown }) => void links.push(`${rel} ${String(href)}`) },
    },
    Worker: class {
      constructor(file: URL) {
        workers.push(file.href);
      }
    },
  };
  const source = readFileSync(join(__dirname, 'begin.js'), 'utf8').replace('/* screens */', JSON.stringify(SCREENS));
  runInNewContext(source, page);
  return { links, workers, handed: Object.keys((page['begunWorkers'] as object | undefined) ?? {}) };
}
const NOTHING: Begun = { links: [], workers: [], handed: [] };

test('what a screen is made of and asks for is fetched at once, and its worker made', () => {
  expect(begun('/bench/quay-watch')).toEqual({
    links: [
      ...[
        'stylesheet http://localhost/assets/a.css',
        'modulepreload http://localhost/assets/a.js',
        'modulepreload http://localhost/assets/b.js',
      ],
      ...['preload /api/session', 'preload /api/programs/quay-watch'],
    ],
    workers: ['http://localhost/assets/w.js'],
    handed: ['engine'],
  });
  expect(begun('/bench').links).toEqual(['modulepreload http://localhost/assets/b.js', 'preload /api/programs']);
  expect(begun('/class/')).toMatchObject({ workers: [], handed: [], links: expect.arrayContaining(['preload /api/session']) as string[] });
});

test('a page of none of these screens begins by itself, however its address is made up', () => {
  for (const path of ['/', '/*', '/bench/*/more', '/toString', '/__proto__', '/constructor/x', '/class/bench', '/bench/a/b'])
    expect(begun(path)).toEqual(NOTHING);
});

test('an address asks for nothing that is no name', () => {
  for (const path of ['/bench/%22%3E', '/bench/..%2Fclass', '/bench/A', `/bench/${'a'.repeat(81)}`])
    expect(begun(path).links.filter((each) => each.startsWith('preload'))).toEqual(['preload /api/session']);
});

test('a lesson in a folder asks nobody; pages below a path find their files there', () => {
  expect(begun('/bench', { lesson: true })).toEqual(NOTHING);
  const below = begun('/school/bench', { src: 'http://localhost/school/begin.js' });
  expect(below.links[0]).toBe('modulepreload http://localhost/school/assets/b.js');
});

test('whoever was asked for the passphrase asks for nothing else first; a browser that keeps nothing asks as ever', () => {
  expect(begun('/bench', { storage: () => 'yes' }).links).toEqual(['modulepreload http://localhost/assets/b.js']);
  const torn = (): never => {
    throw new Error('no storage here');
  };
  expect(begun('/bench', { storage: torn }).links).toContain('preload /api/programs');
});
