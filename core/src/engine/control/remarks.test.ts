import type { Small } from '../../testing/small';
import { explainRemark } from '../tell/explainRemark';
import type { Runner } from './runner';
import { closed, go, LINKED, small } from '../../testing/runs';

const remarksOf = (runner: Runner): string[] => {
  go(closed(runner));
  return runner.runRemarks.map((each) => explainRemark(runner, each));
};

test.each<[string, Small, string, RegExp | undefined]>([
  [
    'a link register written over',
    LINKED,
    'CALL 4\nHALT\nHALT\nCALL 8\nBACK\nHALT\nBACK',
    /CALL 8 at 0x04: wrote over L, which held the only copy of the return address 0x02\. Save it first\./,
  ],
  ['a link register that was saved', LINKED, 'CALL 4\nHALT\nHALT\nKEEP\nCALL 12\nREST\nBACK\nHALT\nHALT\nBACK', undefined],
  [
    'a kept register that comes back changed',
    LINKED,
    'CALL 4\nHALT\nHALT\nTOUCH\nBACK',
    /BACK at 0x05: returned with K changed from 0x00 to 0x01; a routine keeps it as it was\./,
  ],
  [
    'a kept register that calls and ways back count themselves',
    { ...LINKED, ticks: { ...LINKED.ticks, BACK: 'K <- K + 1, PC <- L, return' } },
    'CALL 4\nHALT\nHALT\nTOUCH\nBACK',
    undefined,
  ],
  ['code written', { ticks: { W: 'M[1] <- A' } }, 'W\nHALT', /W at 0x00: wrote over the program's own code at 0x01\./],
  ['a never-written cell', { ticks: { R: 'A <- M[200]' } }, 'R\nHALT', /R at 0x00: read cell 0xC8, which nothing has ever written\./],
  [
    'a write thrown away',
    { registers: 'ZERO: {zero: yes}', ticks: { W: 'ZERO <- A' } },
    'W\nHALT',
    /W at 0x00: wrote to ZERO, which stays as it is/,
  ],
])('a remark on %s', (_, shape, source, words) => {
  const remarks = remarksOf(small(shape, source)).map((each) => each.replace(/^Line \d+, /, ''));
  if (!words) expect(remarks.filter((each) => /copy|changed/.test(each))).toEqual([]);
  else expect(remarks).toEqual(expect.arrayContaining([expect.stringMatching(words)]));
});

test('remarks belong to their tick: going back takes them away, going on brings them once', () => {
  const runner = small({ ticks: { R: 'A <- M[200]' } }, 'R\nR\nHALT');
  go(runner);
  expect(runner.runRemarks).toHaveLength(1);
  runner.timeline.toStart();
  expect(runner.runRemarks).toEqual([]);
  go(runner);
  expect(runner.runRemarks).toHaveLength(1);
});
