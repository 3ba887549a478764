import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

/**
 * What several screens share is loaded once: what every page needs, the code editor, and the charts when one is drawn. What
 * only one screen needs of the editor, the language of machine documents or the comparison of versions, comes with that.
 */
const SELDOM = '@codemirror/(?:merge|lang-yaml)|@lezer/yaml';
const CHARTS =
  'recharts|victory-vendor|d3-|internmap|decimal\\.js-light|es-toolkit|@reduxjs|redux|immer|reselect|react-redux|eventemitter3';
const groups = [
  { name: 'editor', test: new RegExp(`node_modules/(?!${SELDOM})(?:@codemirror|@lezer|style-mod|w3c-keyname|crelt)`), priority: 4 },
  { name: 'charts', test: new RegExp(`node_modules/(?:${CHARTS})`), priority: 2 },
  { name: 'parts', test: new RegExp(`node_modules/(?!${SELDOM}|${CHARTS}|yaml/|zod/|papaparse/)`), priority: 3 },
  // Runs before all else of that file.
  { name: 'common', test: /\/web\/src\/app\/noEval/, priority: 1 },
  { name: 'common', test: /\/(?:core|api)\/src\/|\/web\/src\/(?:app|documents|ui)\//, minShareCount: 2, priority: 1 },
];

/**
 * Browsers that know the hint compile these files whole, and beside the page's thread, instead of function by function when
 * one is called: nearly all of their functions are, before the bench is ready.
 */
const AT_ONCE = ['parts', 'common', 'editor', 'BenchPage', 'Datapath', 'index'];
const compiled = (): Plugin => ({
  name: 'compiled',
  apply: 'build',
  // Behind whatever else is written before a file.
  generateBundle: {
    order: 'post',
    handler: (_options, bundle) => {
      for (const file of Object.values(bundle))
        if (file.type === 'chunk' && AT_ONCE.includes(file.name)) file.code = `//# allFunctionsCalledOnLoad\n${file.code}`;
    },
  },
});

/** Where a screen lies, and what it asks the server for when it begins; a star stands for what is behind in its own address. */
interface Beginning {
  readonly screen: string;
  readonly asks?: readonly string[];
}
const COURSE = ['/api/parts', '/api/frames', '/api/snippets'];
/** The screens that pages begin with most, by their addresses; a star stands for whatever is behind. */
const SCREENS: Readonly<Record<string, Beginning>> = {
  bench: { screen: 'bench/BenchPage', asks: ['/api/programs', ...COURSE] },
  'bench/*': { screen: 'bench/BenchPage', asks: ['/api/programs', '/api/programs/*', ...COURSE] },
  trials: { screen: 'trials/TrialsPage', asks: ['/api/programs', '/api/trials', '/api/parts'] },
  'trials/*': {
    screen: 'trials/TrialsPage',
    asks: ['/api/programs', '/api/trials', '/api/programs/*', '/api/results/*', '/api/parts'],
  },
  machines: { screen: 'machines/MachinesShelf' },
  'machines/new': { screen: 'machines/StartPage' },
  'machines/*': { screen: 'machines/MachinesPage' },
  programs: { screen: 'programs/ProgramsPage' },
  class: { screen: 'class/ClassPage' },
  'class/*': { screen: 'class/ClassPage' },
};

/** What a screen begins with: addresses of files are those in the build. */
interface ScreenFiles {
  readonly workers: Readonly<Record<string, string>>;
  readonly files: readonly string[];
  readonly styles: readonly string[];
  readonly asks: readonly string[];
}

/** Workers, by the module that speaks with them and the file that they run. */
const WORKERS = { engine: 'worker', trialEngine: 'trialWorker' };

const FIRST = '<meta charset="utf-8" />';
/** The first script of a page, with what each screen is made of and asks for: all comes at once, and not one after the other. */
const beginning = (): Plugin => ({
  name: 'beginning',
  apply: 'build',
  // Before all that waits for a connection, and behind what a lesson says of itself.
  transformIndexHtml: { order: 'post', handler: (html) => html.replace(FIRST, `${FIRST}\n    <script src="./begin.js"></script>`) },
  generateBundle(_options, bundle) {
    const chunks = Object.values(bundle).filter((each) => each.type === 'chunk');
    const all = (file: string, found = new Set<string>()): Set<string> => {
      const chunk = chunks.find((each) => each.fileName === file);
      if (!chunk || found.has(file)) return found;
      found.add(file);
      for (const each of chunk.imports) all(each, found);
      return found;
    };
    const filesOf = ({ screen, asks = [] }: Beginning): ScreenFiles => {
      const own = chunks.find((each) => each.facadeModuleId?.endsWith(`/src/${screen}.tsx`));
      if (!own) throw new Error(`There is no screen ${screen}.`);
      const parts = chunks.filter((each) => all(own.fileName).has(each.fileName));
      const speaksWith = Object.entries(WORKERS).filter(([module]) =>
        parts.some((each) => each.moduleIds.some((id) => id.endsWith(`/session/${module}.ts`))),
      );
      const workers = speaksWith.map(([module, file]) => {
        const found = Object.keys(bundle).find((each) => new RegExp(`^assets/${file}-[^/]*\\.js$`).test(each));
        if (found === undefined) throw new Error(`There is no worker ${file}.`);
        return [module, found] as const;
      });
      return {
        ...{ workers: Object.fromEntries(workers), files: parts.map((each) => each.fileName) },
        ...{ styles: parts.flatMap((each) => [...(each.viteMetadata?.importedCss ?? [])]), asks: ['/api/session', ...asks] },
      };
    };
    const list = Object.fromEntries(Object.entries(SCREENS).map(([address, each]) => [address, filesOf(each)]));
    const source = readFileSync(join(import.meta.dirname, 'src/shell/begin.js'), 'utf8').replace('/* screens */', JSON.stringify(list));
    this.emitFile({ type: 'asset', fileName: 'begin.js', source });
  },
});

/** Letters come with the page, too, so that nothing is laid out twice. */
const letters = (): Plugin => ({
  name: 'letters',
  apply: 'build',
  transformIndexHtml: {
    order: 'post',
    handler: (_html, { bundle = {} }) =>
      Object.keys(bundle)
        .filter((each) => /-latin-wght-normal-[^/]*\.woff2$/.test(each))
        .map((each) => ({
          tag: 'link',
          attrs: { rel: 'preload', as: 'font', type: 'font/woff2', crossorigin: true, href: `./${each}` },
          injectTo: 'head' as const,
        })),
  },
});

/** The service worker, with the names of all files that make up the pages, and a sum over them that tells one build from another. */
const shell = (): Plugin => ({
  name: 'shell',
  apply: 'build',
  generateBundle(_options, bundle) {
    const files = Object.keys(bundle).filter((each) => !each.startsWith('.vite') && each !== 'index.html');
    const version = createHash('sha256').update(files.join('\n')).digest('hex').slice(0, 16);
    const source = readFileSync(join(import.meta.dirname, 'src/shell/worker.js'), 'utf8');
    const filled = source.replace('/* files */', JSON.stringify(['mark.svg', ...files])).replace('/* version */', JSON.stringify(version));
    this.emitFile({ type: 'asset', fileName: 'shell.js', source: filled });
  },
});

export default defineConfig({
  root: import.meta.dirname,
  // In any folder: a lesson lies wherever somebody has put it. The server puts its own root before the paths.
  base: './',
  plugins: [react(), compiled(), beginning(), letters(), shell()],
  worker: { format: 'es' },
  build: {
    outDir: 'dist',
    emptyOutDir: true,
    manifest: true,
    target: 'es2022',
    chunkSizeWarningLimit: 2000,
    rolldownOptions: { output: { codeSplitting: { groups } } },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:4870' } },
});
