import { defineConfig } from 'vite';

export default defineConfig({
  root: import.meta.dirname,
  build: {
    ssr: true,
    outDir: '../.cache/benchmarks',
    emptyOutDir: true,
    target: 'node20',
    rollupOptions: { input: ['engine.ts', 'page.ts'].map((each) => `${import.meta.dirname}/${each}`) },
  },
  ssr: { noExternal: [/^@zettak\//] },
});
