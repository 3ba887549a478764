/** Finds the programs that tests and tools need, and installs Debian's where that is allowed. */
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';

const mayInstall = () => process.platform === 'linux' && process.getuid?.() === 0 && existsSync('/usr/bin/apt-get');

/**
 * The path of the first place that exists, after trying to install `name`, of one that also does otherwise; or a sentence
 * that says why there is none.
 */
function program({ name, title, variable, places, alsoDo = [], need }) {
  const find = (...more) => [process.env[variable], ...places, ...more].find((each) => each && existsSync(each));
  const found = mayInstall() ? find() : find(...alsoDo);
  if (found) return { path: found };
  if (!mayInstall()) return { sentence: `${need} Install it (on Debian: sudo apt-get install ${name}), or set ${variable} to its path.` };
  process.stdout.write(`Installing ${title} from Debian’s packages.\n`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  for (const args of [
    ['update', '-qq'],
    ['install', '-y', '-qq', name],
  ])
    spawnSync('apt-get', args, { stdio: ['ignore', 'ignore', 'inherit'], env });
  const installed = find(...alsoDo);
  return installed
    ? { path: installed }
    : { sentence: `${title} could not be installed from Debian’s packages. Install it by hand, or set ${variable} to its path.` };
}

/** Chromium without its windows: tests take a fifth less of the computer than with the whole one, which does as well. */
export const chromium = () =>
  program({
    ...{ name: 'chromium-headless-shell', title: 'Chromium', variable: 'ZETTAK_CHROMIUM', places: ['/usr/bin/chromium-headless-shell'] },
    alsoDo: ['/usr/bin/chromium', '/usr/bin/chromium-browser'],
    need: 'The browser tests need Chromium.',
  });

export const redis = () =>
  program({
    ...{ name: 'redis-server', title: 'Redis', variable: 'ZETTAK_REDIS', places: ['/usr/bin/redis-server'] },
    need: 'The tests of several machines need redis-server.',
  });
