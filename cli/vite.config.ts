import { defineConfig } from 'vite';

/** One file for the command line, as for the server. */
export default defineConfig({
  root: import.meta.dirname,
  build: { ssr: 'src/zettak.ts', outDir: 'dist', emptyOutDir: true, target: 'node20' },
  ssr: { noExternal: [/^@zettak\//] },
});
