/** Finds Chromium, and installs Debian's where that is allowed. */
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';

const PLACES = ['/usr/bin/chromium', '/usr/bin/chromium-browser'];

const find = () => [process.env.ZETTAK_CHROMIUM, ...PLACES].find((each) => each && existsSync(each));

/** Its path, or a sentence that says why there is none. */
export function chromium() {
  const found = find();
  if (found) return { path: found };
  const mayInstall = process.platform === 'linux' && process.getuid?.() === 0 && existsSync('/usr/bin/apt-get');
  if (!mayInstall)
    return {
      sentence:
        'The browser tests need Chromium. Install it (on Debian: sudo apt-get install chromium), or set ZETTAK_CHROMIUM to its path.',
    };
  process.stdout.write('Installing Chromium from Debian’s packages.\n');
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  for (const args of [
    ['update', '-qq'],
    ['install', '-y', '-qq', 'chromium'],
  ])
    spawnSync('apt-get', args, { stdio: ['ignore', 'ignore', 'inherit'], env });
  const installed = find();
  return installed
    ? { path: installed }
    : { sentence: 'Chromium could not be installed from Debian’s packages. Install it by hand, or set ZETTAK_CHROMIUM to its path.' };
}
