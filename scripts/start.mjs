/** npm start: installs what is missing, builds what has changed, and serves Zettak on one port. */
import { build, checkNode, install, root } from './setup.mjs';

checkNode();
install();
build();
process.env.ZETTAK_ROOT = root;
await import('../server/dist/main.js');
