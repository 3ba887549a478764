import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const root = join(__dirname, '../web/src');
const rooms = ['bench', 'datapath', 'trials'];
const files = rooms.flatMap((room) =>
  readdirSync(join(root, room), { recursive: true, encoding: 'utf8' })
    .filter((each) => /\.(css|tsx?)$/.test(each) && !/\.test\.ts$/.test(each))
    .map((each) => join(room, each)),
);

test('what is drawn thirty times a second, or scrolled by, is not dressed by what is in it: each change would be looked for all around', () => {
  expect(files.length).toBeGreaterThan(80);
  expect(files.filter((each) => readFileSync(join(root, each), 'utf8').includes(':has('))).toEqual([]);
});
