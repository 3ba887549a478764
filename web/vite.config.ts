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
/** Files that make a worker, and nothing else. */
const WORKERS = ['engineWorker', 'trialEngineWorker'];
const groups = [
  ...WORKERS.map((name) => ({ name, test: new RegExp(`/session/${name}\\.ts$`), priority: 5 })),
  { name: 'editor', test: new RegExp(`node_modules/(?!${SELDOM})(?:@codemirror|@lezer|style-mod|w3c-keyname|crelt)`), priority: 4 },
  { name: 'charts', test: new RegExp(`node_modules/(?:${CHARTS})`), priority: 2 },
  { name: 'parts', test: new RegExp(`node_modules/(?!${SELDOM}|${CHARTS}|yaml/|zod/|papaparse/)`), priority: 3 },
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

/** What the server tells browsers with the page. */
interface ScreenFiles {
  /** Read before all others. */
  readonly begins: readonly string[];
  readonly files: readonly string[];
  readonly styles: readonly string[];
  readonly asks: readonly string[];
}

/** What each screen is made of and asks for, for the server, which tells browsers of it with the page: all comes at once and not one after the other. */
const screens = (): Plugin => ({
  name: 'screens',
  apply: 'build',
  generateBundle(_options, bundle) {
    const chunks = Object.values(bundle).filter((each) => each.type === 'chunk');
    const all = (file: string, found = new Set<string>()): Set<string> => {
      const chunk = chunks.find((each) => each.fileName === file);
      if (!chunk || found.has(file)) return found;
      found.add(file);
      for (const each of chunk.imports) all(each, found);
      return found;
    };
    const begins = chunks.filter(({ name }) => WORKERS.includes(name)).map((each) => each.fileName);
    const filesOf = ({ screen, asks = [] }: Beginning): ScreenFiles => {
      const own = chunks.find((each) => each.facadeModuleId?.endsWith(`/src/${screen}.tsx`));
      if (!own) throw new Error(`There is no screen ${screen}.`);
      const files = [...all(own.fileName)];
      const styles = files.flatMap((file) => [...(chunks.find((each) => each.fileName === file)?.viteMetadata?.importedCss ?? [])]);
      return {
        begins: files.filter((each) => begins.includes(each)),
        files: files.filter((each) => !begins.includes(each)),
        ...{ styles, asks: ['/api/session', ...asks] },
      };
    };
    const list = Object.fromEntries(Object.entries(SCREENS).map(([address, beginning]) => [address, filesOf(beginning)]));
    this.emitFile({ type: 'asset', fileName: '.vite/screens.json', source: JSON.stringify(list) });
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
  plugins: [react(), compiled(), screens(), letters(), shell()],
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
