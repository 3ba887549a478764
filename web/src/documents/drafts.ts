/**
 * A draft that saves itself: first beside the page, at every change; then on the server, shortly after. What the
 * server has not got is sent again, also after a reload, and a draft saved elsewhere is never overwritten.
 */
import type { DocumentDetail } from '@zettak/api/documents';
import type { Kind } from '@zettak/api/kinds';
import { client, Refused } from './client';
import { startTab, type Tab } from '../app/tab';

let present: Tab | undefined;
const thisTab = (): Tab => (present ??= startTab());

export type SaveState =
  | { readonly kind: 'saved' }
  | { readonly kind: 'saving' }
  | { readonly kind: 'unreachable' }
  | { readonly kind: 'conflict'; readonly theirs: string; readonly revision: number }
  | { readonly kind: 'refused'; readonly sentence: string };

interface Pending {
  readonly text: string;
  readonly revision: number;
  /** When it was typed, in ms. */
  readonly at: number;
}

const DELAY = 500;
const RETRY = 3000;
/** What the server refuses is tried again after this, then after twice as long, and so on. */
const [FIRST_PAUSE, LONGEST_PAUSE] = [2000, 60_000];
/** Too many requests, or trouble of the server's own: what may pass by itself. */
const passes = (status: number): boolean => status === 429 || status >= 500;

/** Each tab keeps its own text of a document, so that none can drop another's. */
const stem = (kind: Kind, id: string): string => `zettak.draft.${kind}.${id}`;
const keyFor = (kind: Kind, id: string, tab: string): string => `${stem(kind, id)}#${tab}`;

function readPending(key: string): Pending | undefined {
  try {
    const parsed = JSON.parse(localStorage.getItem(key) ?? 'null') as Partial<Pending> | null;
    return typeof parsed?.text === 'string' && typeof parsed.revision === 'number'
      ? { text: parsed.text, revision: parsed.revision, at: typeof parsed.at === 'number' ? parsed.at : 0 }
      : undefined;
  } catch {
    return undefined;
  }
}

/** Texts of a document that tabs have left behind unsaved: this tab's own before its reload first, else the newest. */
function leftBehind(kind: Kind, id: string, tab: Tab): { readonly key: string; readonly pending: Pending }[] {
  const own = tab.before === undefined ? undefined : keyFor(kind, id, tab.before);
  const found: { key: string; pending: Pending }[] = [];
  for (let at = 0; at < localStorage.length; at++) {
    const key = localStorage.key(at)!;
    if (key !== stem(kind, id) && !key.startsWith(`${stem(kind, id)}#`)) continue;
    const pending = readPending(key);
    const owner = key.split('#')[1];
    if (pending && (key === own || owner === undefined || !tab.isAlive(owner))) found.push({ key, pending });
  }
  return found.sort((a, b) => Number(b.key === own) - Number(a.key === own) || b.pending.at - a.pending.at);
}

export class Draft {
  text: string;
  revision: number;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private sending: Promise<void> | undefined;
  private saved: string;
  private pause = FIRST_PAUSE;

  constructor(
    private readonly kind: Kind,
    readonly id: string,
    document: DocumentDetail,
    private readonly tell: (state: SaveState) => void,
    private readonly tab: Tab = thisTab(),
  ) {
    const left = leftBehind(kind, id, tab);
    for (const { key, pending } of left) if (pending.text === document.draft) this.drop(key);
    const [found] = left.filter((each) => each.pending.text !== document.draft);
    this.saved = document.draft;
    this.text = found?.pending.text ?? document.draft;
    this.revision = found?.pending.revision ?? document.revision;
    if (!found) return;
    this.keep();
    this.drop(found.key);
    this.later(0);
  }

  /** What another tab still has open stays its own. */
  private drop(key: string): void {
    const owner = key.split('#')[1];
    if (owner === undefined || !this.tab.isAlive(owner)) localStorage.removeItem(key);
  }

  private get key(): string {
    return keyFor(this.kind, this.id, this.tab.id);
  }

  private keep(): void {
    try {
      localStorage.setItem(this.key, JSON.stringify({ text: this.text, revision: this.revision, at: Date.now() } satisfies Pending));
    } catch {
      // No room beside the page: the server still gets it.
    }
  }

  change(text: string): void {
    this.text = text;
    this.keep();
    this.tell({ kind: 'saving' });
    this.later(DELAY);
  }

  /** Sends what is unsaved now; resolves when the server has answered. */
  async flush(): Promise<void> {
    clearTimeout(this.timer);
    await this.sending;
    if (this.text === this.saved) return;
    this.sending = this.send();
    await this.sending;
    this.sending = undefined;
  }

  /** After a conflict: keep this text over the other one, or take the other. */
  async resolve(choice: 'mine' | 'theirs', theirs: string, revision: number): Promise<void> {
    this.revision = revision;
    if (choice === 'mine') return this.flush();
    this.text = theirs;
    this.saved = theirs;
    this.forget();
    this.tell({ kind: 'saved' });
  }

  close(): void {
    void this.flush();
    clearTimeout(this.timer);
  }

  private later(delay: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.flush(), delay);
  }

  private async send(): Promise<void> {
    const { text } = this;
    try {
      const document = await client.saveDraft(this.kind, this.id, { text, revision: this.revision });
      this.revision = document.revision;
      this.saved = text;
      this.pause = FIRST_PAUSE;
      if (this.text === text) this.forget();
      else this.keep();
      this.tell({ kind: this.text === text ? 'saved' : 'saving' });
    } catch (error) {
      this.failed(error, text);
    }
  }

  private failed(error: unknown, text: string): void {
    if (error instanceof Refused && error.current) {
      if (error.current.text === text) {
        this.revision = error.current.revision;
        this.saved = text;
        this.forget();
        return this.tell({ kind: 'saved' });
      }
      return this.tell({ kind: 'conflict', theirs: error.current.text, revision: error.current.revision });
    }
    if (error instanceof Refused) {
      const again = passes(error.status);
      this.tell({ kind: 'refused', sentence: `${error.detail}${again ? ' It is kept in this browser and tried again.' : ''}` });
      if (!again) return;
      this.later(this.pause);
      this.pause = Math.min(LONGEST_PAUSE, this.pause * 2);
      return;
    }
    this.tell({ kind: 'unreachable' });
    this.later(RETRY);
  }

  private forget(): void {
    localStorage.removeItem(this.key);
  }
}
