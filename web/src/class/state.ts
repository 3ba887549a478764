/** The course that is looked at, what came in for one assignment, and what is chosen of it. */
import { create } from 'zustand';
import type { CourseSummary, HandInDetail, HandInRow, Matrix, Progress } from '@zettak/api/matrix';
import type { Brought } from './files';

export type SortBy = 'label' | 'holds' | 'ticks' | 'cells' | 'arrived';
export type Show = 'all' | 'fails' | 'holds' | 'late';

export interface ClassState {
  readonly courses: readonly CourseSummary[];
  readonly matrix?: Matrix | undefined;
  readonly progress?: Progress | undefined;
  /** A hand-in, by its number. */
  readonly chosen?: number | undefined;
  readonly detail?: HandInDetail | undefined;
  /** The key of a group that alone is shown. */
  readonly group?: string | undefined;
  readonly show: Show;
  readonly sort: { readonly by: SortBy; readonly down: boolean };
  readonly find: string;
  /** Files that wait for their labels. */
  readonly brought?: Brought | undefined;
  readonly said?: string | undefined;
  readonly failure?: string | undefined;
  readonly opened: boolean;
}

export const useClass = create<ClassState>()(() => ({
  courses: [],
  show: 'all',
  sort: { by: 'label', down: false },
  find: '',
  opened: false,
}));

export const sayHere = (said: string): void => useClass.setState({ said });

const holdsAll = ({ checked }: HandInRow): boolean =>
  checked !== undefined && !checked.errors && checked.mistake === undefined && !checked.open;

const shows: Readonly<Record<Show, (row: HandInRow) => boolean>> = {
  all: () => true,
  fails: (row) => row.checked !== undefined && !holdsAll(row),
  holds: holdsAll,
  late: (row) => row.late,
};

const rank: Readonly<Record<SortBy, (row: HandInRow) => number | string>> = {
  label: ({ label }) => label,
  holds: ({ checked }) => checked?.holds ?? -1,
  ticks: ({ checked }) => checked?.ticks ?? -1,
  cells: ({ checked }) => checked?.cells ?? -1,
  arrived: ({ arrivedAt }) => arrivedAt,
};

/** Rows as they stand in the table. */
export function shownRows({
  matrix,
  show,
  sort,
  group,
  find,
}: Pick<ClassState, 'matrix' | 'show' | 'sort' | 'group' | 'find'>): readonly HandInRow[] {
  if (!matrix) return [];
  const members = group === undefined ? undefined : new Set(membersOf(matrix, group));
  const wanted = find.trim().toLowerCase();
  const rows = matrix.rows.filter(
    (each) => shows[show](each) && (!members || members.has(each.id)) && (wanted === '' || each.label.toLowerCase().includes(wanted)),
  );
  const key = rank[sort.by];
  const way = sort.down ? -1 : 1;
  return sort.by === 'label' && !sort.down
    ? rows
    : [...rows].sort((a, b) => {
        const [x, y] = [key(a), key(b)];
        return way * (typeof x === 'string' ? x.localeCompare(String(y), 'en', { numeric: true }) : x - Number(y));
      });
}

/** Of a group of mistakes, or of programs that are alike (`alike 2`: the third of those). */
export function membersOf({ groups, alike }: Matrix, key: string): readonly number[] {
  const pair = /^alike (\d+)$/.exec(key);
  return (pair ? alike[Number(pair[1])]?.members : groups.find((each) => each.key === key)?.members) ?? [];
}
