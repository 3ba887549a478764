import { openedEarly } from './early';

const log: (string | undefined)[] = [];
const early = (): ReturnType<typeof openedEarly> => openedEarly((program) => void log.push(program));
beforeEach(() => void (log.length = 0));

test('what was begun is not asked for once more when the screen is drawn first', () => {
  const screen = early();
  screen.begin({ program: 'tide' });
  screen.open('tide');
  expect(log).toEqual(['tide']);
});

test('whoever comes back to it later asks anew', () => {
  const screen = early();
  screen.begin({ program: 'tide' });
  for (const each of ['tide', 'quay', 'tide']) screen.open(each);
  expect(log).toEqual(['tide', 'quay', 'tide']);
});

test('a page that has gone on to another program meanwhile opens that', () => {
  const screen = early();
  screen.begin({ program: 'tide' });
  screen.open('quay');
  screen.open('tide');
  expect(log).toEqual(['tide', 'quay', 'tide']);
});

test('an address without a program is begun, too; a screen that nobody has begun opens by itself', () => {
  const screen = early();
  screen.begin({});
  screen.open(undefined);
  expect(log).toEqual([undefined]);
  early().open('tide');
  expect(log).toEqual([undefined, 'tide']);
});
