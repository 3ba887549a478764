import { bench } from '@zettak/core/testing/bench';
import { explain, templateOf } from './language';

test('templates have a blank for each hole, words are explained', () => {
  expect(templateOf('LOAD {d}, [{a} + {value}]')).toBe('LOAD ${d}, [${a} + ${value}]');
  const { session } = bench('HALT');
  const symbols = session.texts.list('go LOAD n\nHALT\nn .cells 1').symbols!;
  const knowledge = { help: () => session.texts.help(), symbols: () => symbols, showValue: () => '3', holds: () => '' };
  expect(explain('load', knowledge)).toHaveLength(4);
  expect(explain('n', knowledge)).toEqual(['n, label: 3. Defined on line 3, used on 1.']);
  expect(explain('showNumber', knowledge)).toEqual(['showNumber: service 2: write number.']);
  expect(explain('nothing', knowledge)).toEqual([]);
});
