import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

/**
 * What several screens share is loaded once: what every page needs, and the code editor. What only one screen needs of
 * the editor, the language of machine documents or the comparison of versions, comes with that.
 */
const SELDOM = '@codemirror/(?:merge|lang-yaml)|@lezer/yaml';
const groups = [
  { name: 'editor', test: new RegExp(`node_modules/(?!${SELDOM})(?:@codemirror|@lezer|style-mod|w3c-keyname|crelt)`), priority: 2 },
  { name: 'parts', test: new RegExp(`node_modules/(?!${SELDOM}|yaml/|zod/|papaparse/)`), priority: 1 },
];

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react()],
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
