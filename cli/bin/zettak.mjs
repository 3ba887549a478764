#!/usr/bin/env node
/** Starts the built command line; says what to do where it is not built. */
import { existsSync } from 'node:fs';

const built = new URL('../dist/zettak.js', import.meta.url);
if (existsSync(built)) await import(built.href);
else {
  process.stderr.write('The command line is not built yet. Run npm start or npm test once.\n');
  process.exit(2);
}
