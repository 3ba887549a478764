/** What a teacher sees of an assignment, put together. */
import type { Matrix } from '@zettak/api/matrix';
import { readAssignment } from '@zettak/core/trials/handIns/assignment';
import { HandInCheck } from '@zettak/core/trials/handIns/check';
import { alikeOf, mistakeGroups } from '@zettak/core/trials/handIns/groups';
import { marksCsv, marksOf, type MarkRow } from '@zettak/core/trials/handIns/marks';
import type { HandInStore } from '../handIns/store';
import type { CourseStore } from './store';

/** What follows from an assignment's texts alone; kept as long as they stay. */
type Facts = Pick<Matrix, 'sets' | 'teacher' | 'wrong'>;

export class Matrices {
  private readonly facts = new Map<string, Facts>();

  constructor(
    private readonly courses: CourseStore,
    private readonly handIns: HandInStore,
  ) {}

  of(id: string): Matrix {
    const assignment = this.courses.assignment(id);
    const rows = this.handIns.rows(id);
    const members = rows.filter((each) => !each.beside).map(({ checked, ...rest }) => ({ ...rest, checked }));
    return {
      ...{ assignment, ...this.factsOf(id) },
      rows: rows.map(({ hash: _, ...each }) => each),
      ...{ groups: mistakeGroups(members), alike: alikeOf(members) },
      ...{ remarks: this.courses.remarks(id), progress: this.handIns.progress(id) },
    };
  }

  /** Of the newest hand-in of each label, in the order of the labels. */
  marks(id: string): string {
    const { assignment, sets, rows, remarks } = this.of(id);
    const names = sets.map((each) => each.name);
    const said = (of: 'group' | 'label', about: string | undefined): string =>
      remarks.find((each) => each.of === of && each.about === about)?.text ?? '';
    return marksCsv(
      rows
        .filter((each) => !each.beside)
        .map(({ checked, label, arrivedAt, late }): MarkRow => {
          const marks = marksOf(assignment.marks, names, checked ?? { rows: [], ticks: 0, cells: 0, errors: [] });
          const remark = [said('group', checked?.mistake?.key), said('label', label)].filter((each) => each !== '').join(' ');
          return {
            ...{ ...marks, label, arrivedAt, late, holds: checked?.holds ?? 0, sets: names.length },
            ...{ ticks: checked?.ticks ?? 0, cells: checked?.cells ?? 0, mistake: checked?.mistake?.sentence ?? '', remark },
          };
        }),
    );
  }

  private factsOf(id: string): Facts {
    const { key, texts } = this.courses.texts(id);
    const known = this.facts.get(key);
    if (known) return known;
    const facts = factsFrom(texts);
    if (this.facts.size > 50) this.facts.clear();
    this.facts.set(key, facts);
    return facts;
  }
}

function factsFrom(texts: Parameters<typeof readAssignment>[0]): Facts {
  const assignment = readAssignment(texts);
  if ('wrong' in assignment) return { sets: [], teacher: undefined, wrong: assignment.wrong };
  const sets = assignment.table.sets.map(({ name, hidden, purpose }) => ({ name, hidden, purpose }));
  return { sets, teacher: new HandInCheck(assignment).teacher(), wrong: undefined };
}
