/** node scripts/tool.mjs NAME …: builds and runs measurements (engine, runs, page, defining, house) or makes docs/screenshots (screenshots). */
import { chromium } from './programs.mjs';
import { build, checkNode, install, root, run, stop } from './setup.mjs';

checkNode();
install();
build();
const browser = chromium();
if (!browser.path) stop(browser.sentence);
run(process.execPath, ['node_modules/vite/bin/vite.js', 'build', '--config', 'scripts/tools.vite.config.ts', '--logLevel', 'warn']);
const env = { ZETTAK_ROOT: root, ZETTAK_CHROMIUM: browser.path };
for (const name of process.argv.slice(2)) run(process.execPath, [`.cache/tools/${name}.js`], { env });
