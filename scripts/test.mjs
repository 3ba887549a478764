/** npm test: types, lint, format, then unit, server and browser tests. Counts come from Jest's own result. */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { chromium, redis } from './programs.mjs';
import { build, checkNode, install, root, stop } from './setup.mjs';

checkNode();
install();
const [browser, queue] = [chromium(), redis()];
for (const each of [browser, queue]) if (!each.path) stop(each.sentence);
process.stdout.write('Types, lint and format, build.\n');

/** One program after the other; the first that fails ends it all. */
async function lane(steps) {
  for (const [program, args, sentence] of steps)
    await new Promise((resolve) => {
      const child = spawn(program, args, { cwd: root, stdio: 'inherit' });
      child.once('exit', (code) => (code === 0 ? resolve() : stop(sentence)));
    });
}

await Promise.all([
  lane([
    ['npx', ['oxlint', '--deny-warnings'], 'The linter found something; see above.'],
    ['npx', ['oxfmt', '--check'], 'Some files are not formatted; npm run format does it.'],
    ['npx', ['tsc', '-p', 'core/tsconfig.json'], 'The core uses what only a browser or Node has; see above.'],
  ]),
  lane([['npx', ['tsc', '-p', 'tsconfig.json'], 'The types do not hold; see above.']]),
]);
build();

const results = join(root, '.cache', 'jest.json');
mkdirSync(join(root, '.cache'), { recursive: true });
rmSync(results, { force: true });
const env = { ...process.env, ZETTAK_CHROMIUM: browser.path, ZETTAK_REDIS: queue.path };
// Tests of pages wait for a third of their time: three at a time keep two processors busy.
const args = ['node_modules/jest/bin/jest.js', '--json', `--outputFile=${results}`, '--maxWorkers=3', ...process.argv.slice(2)];
const { status } = spawnSync(process.execPath, args, { cwd: root, stdio: ['ignore', 'ignore', 'inherit'], env });
if (!existsSync(results)) stop('Jest left no result.');
const { numPassedTests, numFailedTests, numRuntimeErrorTestSuites } = JSON.parse(readFileSync(results, 'utf8'));
const failed = numFailedTests + numRuntimeErrorTestSuites;
process.stdout.write(`${numPassedTests} passed, ${failed} failed\n`);
process.exit(status === 0 && failed === 0 && numPassedTests > 0 ? 0 : 1);
