/** Unit, server and browser tests (see scripts/test.mjs). */
const shared = {
  rootDir: import.meta.dirname,
  transform: {
    '^.+\\.tsx?$': [
      '@swc/jest',
      {
        jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true }, transform: { react: { runtime: 'automatic' } } },
        module: { type: 'commonjs' },
      },
    ],
  },
  testEnvironment: 'node',
};
/** Tests of the server and of the pages begin with a copy of one database. */
const filled = { globalSetup: '<rootDir>/server/src/testing/filled.mjs' };
export default {
  // A computer that others use is slow at times: what hangs is told from what takes long, and not the other way round.
  testTimeout: 60_000,
  projects: [
    { ...shared, displayName: 'unit', testMatch: ['<rootDir>/{core,api,cli,web,scripts}/**/*.test.ts'] },
    { ...shared, ...filled, displayName: 'server', testMatch: ['<rootDir>/server/**/*.test.ts'] },
    { ...shared, ...filled, displayName: 'browser', testMatch: ['<rootDir>/e2e/**/*.test.ts'] },
  ],
};
