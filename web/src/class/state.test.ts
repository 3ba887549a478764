import type { HandInRow, Matrix } from '@zettak/api/matrix';
import { membersOf, shownRows, type ClassState } from './state';

type Checked = NonNullable<HandInRow['checked']>;
const row = (id: number, label: string, checked?: Partial<Checked>, more: Partial<HandInRow> = {}): HandInRow =>
  ({
    id,
    label,
    arrivedAt: `2026-11-0${id}`,
    late: false,
    ...(checked && { checked: { errors: 0, open: false, ...checked } }),
    ...more,
  }) as unknown as HandInRow;

const matrix = {
  rows: [
    row(1, 'bench 2', { holds: 3, ticks: 50, cells: 9 }),
    row(2, 'bench 10', { holds: 1, ticks: 90, cells: 20, mistake: 'base' as never }),
    row(3, 'bench 1', { holds: 0, errors: 2 as never }, { late: true }),
    row(4, 'dock 7'),
  ],
  groups: [{ key: 'base', members: [2] }],
  alike: [{ members: [1, 2] }, { members: [3] }],
} as unknown as Matrix;

const asked = (more: Partial<ClassState> = {}): string[] =>
  shownRows({ matrix, show: 'all', sort: { by: 'label', down: false }, group: undefined, find: '', ...more }).map((each) => each.label);

test('rows stand as they came, which is by label, until somebody sorts; numbers in labels count as numbers', () => {
  expect(asked()).toEqual(['bench 2', 'bench 10', 'bench 1', 'dock 7']);
  expect(asked({ sort: { by: 'label', down: true } })).toEqual(['dock 7', 'bench 10', 'bench 2', 'bench 1']);
  expect(asked({ sort: { by: 'ticks', down: true } })[0]).toBe('bench 10');
  expect(asked({ sort: { by: 'arrived', down: false } })).toEqual(['bench 2', 'bench 10', 'bench 1', 'dock 7']);
});

test('what was not checked yet comes last of those that hold most, and first of those that hold least', () => {
  expect(asked({ sort: { by: 'holds', down: true } })).toEqual(['bench 2', 'bench 10', 'bench 1', 'dock 7']);
  expect(asked({ sort: { by: 'holds', down: false } })[0]).toBe('dock 7');
});

test('those that hold have no errors and no mistake; those that fail were checked', () => {
  expect(asked({ show: 'holds' })).toEqual(['bench 2']);
  expect(asked({ show: 'fails' })).toEqual(['bench 10', 'bench 1']);
  expect(asked({ show: 'late' })).toEqual(['bench 1']);
});

test('a group, of a mistake or of programs that are alike, and a search go together', () => {
  expect(membersOf(matrix, 'alike 1')).toEqual([3]);
  expect(membersOf(matrix, 'alike 7')).toEqual([]);
  expect(membersOf(matrix, 'nothing')).toEqual([]);
  expect(asked({ group: 'base' })).toEqual(['bench 10']);
  expect(asked({ group: 'alike 0', find: ' BENCH 2 ' })).toEqual(['bench 2']);
  expect(asked({ find: '1' })).toEqual(['bench 10', 'bench 1']);
});

test('before a course is opened there are no rows', () => {
  expect(asked({ matrix: undefined })).toEqual([]);
});
