import { defineConfig } from 'vite';

/** One file for the server: our own workspaces go in, packages stay in node_modules. */
export default defineConfig({
  root: import.meta.dirname,
  build: { ssr: 'src/main.ts', outDir: 'dist', emptyOutDir: true, target: 'node20' },
  ssr: { noExternal: [/^@zettak\//] },
});
