/** Hand-ins of a class together: those with the same mistake, those that are the same program, those that are alike. */
import type { CheckedHandIn } from './check';

/** What is known of one hand-in. */
export interface Member {
  readonly id: number;
  readonly label: string;
  /** Of its text. */
  readonly hash: string;
  readonly checked: Pick<CheckedHandIn, 'mistake' | 'form'> | undefined;
}

export interface Group {
  readonly key: string;
  readonly sentence: string;
  /** In the order of the hand-ins. */
  readonly members: readonly number[];
}

/** Largest first; of equal ones the one whose first hand-in comes first. */
export function mistakeGroups(members: readonly Member[]): Group[] {
  const groups = new Map<string, { sentence: string; members: number[] }>();
  for (const { id, checked } of members) {
    const mistake = checked?.mistake;
    if (!mistake) continue;
    const found = groups.get(mistake.key) ?? { sentence: mistake.sentence, members: [] };
    found.members.push(id);
    groups.set(mistake.key, found);
  }
  return [...groups].map(([key, each]) => ({ key, ...each })).sort((a, b) => b.members.length - a.members.length);
}

export interface Alike {
  /** same: one and the same text under several labels; renamed: equal but for names, order of data, blank lines and remarks. */
  readonly kind: 'same' | 'renamed';
  readonly members: readonly number[];
}

/** Programs that are one program. `given`: forms that everybody has been given, as the teacher's own; they are alike to nobody. */
export function alikeOf(members: readonly Member[]): Alike[] {
  const by = (keyOf: (each: Member) => string | undefined): Member[][] => {
    const found = new Map<string, Member[]>();
    for (const each of members) {
      const key = keyOf(each);
      if (key !== undefined) found.set(key, [...(found.get(key) ?? []), each]);
    }
    return [...found.values()].filter((each) => new Set(each.map(({ label }) => label)).size > 1);
  };
  const same = by((each) => each.hash);
  const renamed = by((each) => each.checked?.form).filter((each) => new Set(each.map(({ hash }) => hash)).size > 1);
  const told =
    (kind: Alike['kind']) =>
    (list: Member[]): Alike => ({ kind, members: list.map(({ id }) => id) });
  return [...same.map(told('same')), ...renamed.map(told('renamed'))];
}
