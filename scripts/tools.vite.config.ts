import { defineConfig } from 'vite';

/** Measurements and screenshots, made runnable by Node. */
const root = `${import.meta.dirname}/..`;

export default defineConfig({
  root,
  build: {
    ssr: true,
    outDir: '.cache/tools',
    emptyOutDir: true,
    target: 'node20',
    rollupOptions: {
      input: [
        'benchmarks/engine.ts',
        'benchmarks/runs.ts',
        'benchmarks/page.ts',
        'benchmarks/defining.ts',
        'benchmarks/house.ts',
        'benchmarks/trials.ts',
        'benchmarks/soFar.ts',
        'benchmarks/class.ts',
        'e2e/screenshots.ts',
      ].map((each) => `${root}/${each}`),
    },
  },
  ssr: { noExternal: [/^@zettak\//] },
});
