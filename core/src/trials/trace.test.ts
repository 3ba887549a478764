import { curlew, demoProgram, runnerFor } from '../testing/demo';
import { traceOf } from './trace';

test('a trace has what each instruction left, without the registers that only carry', () => {
  const { columns, rows, more } = traceOf(runnerFor(demoProgram('quay watch')), 40);
  expect(columns.slice(0, 4)).toEqual(['PC', 'ACC', 'X', 'SP']);
  expect(columns).toHaveLength(4 + curlew.flags.length);
  expect(rows.map((each) => each.text)).toEqual([
    'LOAD level',
    'ADD rise',
    'STORE later',
    'CMP #quay',
    'SUB #quay',
    'STORE over',
    'SHR',
    'HALT',
  ]);
  expect(rows[1]).toMatchObject({ address: '0x02', values: expect.arrayContaining(['04', 'C9']) });
  expect(more).toBe(false);
});

test('it ends where there is no room, or where the run waits', () => {
  expect(traceOf(runnerFor('start JUMP start'), 5)).toMatchObject({ more: true, rows: { length: 5 } });
  expect(traceOf(runnerFor(demoProgram('highest water')), 40).rows.at(-1)!.text).not.toBe('');
});
