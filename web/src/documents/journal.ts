/** What a student did, and when: noted by the page, and told as what the page says, no more. Without a lesson nothing is noted. */
import type { JournalEntry } from '@zettak/core/trials/handIns/bundle';

/** The same thing within this time is one thing, ms. */
const TOGETHER = 60_000;
const MOST = 4_000;

export class Journal {
  private entries: JournalEntry[];

  constructor(
    kept: readonly JournalEntry[],
    private readonly save: (entries: readonly JournalEntry[]) => void,
    private readonly now: () => number,
  ) {
    this.entries = [...kept];
  }

  get all(): readonly JournalEntry[] {
    return this.entries;
  }

  note(what: JournalEntry['what'], says = ''): void {
    const last = this.entries.at(-1);
    const again = last?.what === what && last.says === says && this.now() - Date.parse(last.at) < TOGETHER;
    if (again || this.entries.length >= MOST) return;
    this.entries.push({ at: new Date(this.now()).toISOString(), what, says: says.slice(0, 200) });
    this.save(this.entries);
  }
}

/** The journal of the lesson that is open. */
const open: { journal: Journal | undefined } = { journal: undefined };

export const openJournal = (journal: Journal): void => void (open.journal = journal);
export const journal = (): Journal | undefined => open.journal;
export const note = (what: JournalEntry['what'], says?: string): void => open.journal?.note(what, says);
