import { defineConfig } from 'vite';

/** A file for the server and one for its threads: our own workspaces go in, packages stay in node_modules. */
export default defineConfig({
  root: import.meta.dirname,
  build: {
    ssr: true,
    outDir: 'dist',
    emptyOutDir: true,
    target: 'node20',
    rolldownOptions: {
      input: {
        main: 'src/main.ts',
        machineErrors: 'src/checking/machineErrors.ts',
        checkHandIn: 'src/checking/checkHandIn.ts',
        passphrase: 'src/passphrase.ts',
        worker: 'src/worker.ts',
      },
    },
  },
  ssr: { noExternal: [/^@zettak\//] },
});
