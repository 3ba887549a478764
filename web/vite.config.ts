import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

/**
 * What several screens share is loaded once: what every page needs, and the code editor. What only one screen needs of
 * the editor, the language of machine documents or the comparison of versions, comes with that.
 */
const SELDOM = '@codemirror/(?:merge|lang-yaml)|@lezer/yaml';
const groups = [
  { name: 'editor', test: new RegExp(`node_modules/(?!${SELDOM})(?:@codemirror|@lezer|style-mod|w3c-keyname|crelt)`), priority: 2 },
  { name: 'parts', test: new RegExp(`node_modules/(?!${SELDOM}|yaml/|zod/|papaparse/)`), priority: 1 },
];

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
  plugins: [react(), shell()],
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
