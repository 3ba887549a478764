/** npm run bench: builds and runs what stands in benchmarks/, printing figures. */
import { chromium } from './browser.mjs';
import { build, checkNode, install, root, run, stop } from './setup.mjs';

checkNode();
install();
build();
const browser = chromium();
if (!browser.path) stop(browser.sentence);
run(process.execPath, ['node_modules/vite/bin/vite.js', 'build', '--config', 'benchmarks/vite.config.ts', '--logLevel', 'warn']);
const env = { ZETTAK_ROOT: root, ZETTAK_CHROMIUM: browser.path };
for (const each of ['engine', 'page']) run(process.execPath, [`.cache/benchmarks/${each}.js`], { env });
