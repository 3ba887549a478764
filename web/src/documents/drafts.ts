/**
 * A draft that saves itself: first in the browser, at every change; then on the server, shortly after. What the
 * server has not got is sent again, also after a reload, and a draft saved elsewhere is never overwritten.
 */
import type { DocumentDetail } from '@zettak/api/documents';
import type { Kind } from '@zettak/api/kinds';
import { client, Refused } from './client';
import { onBack } from './keptAnswers';
import { startTab, type Tab } from '../app/tab';
import { BrowserUnsaved, nameFor, ownerOf, type Unsaved } from './unsaved';

/** Of this page, once it is asked for. */
const page: { ground?: Ground } = {};

function thisGround(): Ground {
  if (page.ground) return page.ground;
  const unsaved = new BrowserUnsaved();
  window.addEventListener('pagehide', () => unsaved.leave());
  page.ground = { tab: startTab(), unsaved };
  return page.ground;
}

export type SaveState =
  | { readonly kind: 'saved' }
  | { readonly kind: 'saving' }
  | { readonly kind: 'unreachable' }
  | { readonly kind: 'conflict'; readonly theirs: string; readonly revision: number }
  | { readonly kind: 'refused'; readonly sentence: string };

const DELAY = 500;
const RETRY = 3000;
/** What the server refuses is tried again after this, then after twice as long, and so on. */
const [FIRST_PAUSE, LONGEST_PAUSE] = [2000, 60_000];
/** A session that has ended, too many requests, or trouble of the server's own: what may pass by itself. */
const passes = (status: number): boolean => status === 401 || status === 429 || status >= 500;

/** What a draft stands on: the tab that it is edited in, and where it keeps what the server has not got. */
export interface Ground {
  readonly tab: Tab;
  readonly unsaved: Unsaved;
}

interface Opened {
  readonly text: string;
  readonly revision: number;
  /** What the server has. */
  readonly saved: string;
}

export class Draft {
  text: string;
  revision: number;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private sending: Promise<void> | undefined;
  private saved: string;
  private pause = FIRST_PAUSE;
  /** Something was typed since the server was last asked. */
  private typed = false;
  /** What was opened without the server may be older than what that has. */
  private readonly unfollow = onBack(() => void this.look());

  private constructor(
    private readonly kind: Kind,
    readonly id: string,
    { text, revision, saved }: Opened,
    private readonly tell: (state: SaveState) => void,
    private readonly ground: Ground,
  ) {
    this.text = text;
    this.revision = revision;
    this.saved = saved;
  }

  /**
   * Begins with what the server has, or with a text that was left behind unsaved: this tab's own before its reload first,
   * else the newest of tabs that are closed. `tell` is told of every change of how well the text is kept.
   */
  static async open(kind: Kind, document: DocumentDetail, tell: (state: SaveState) => void, ground = thisGround()): Promise<Draft> {
    const { id, draft: saved } = document;
    const { tab, unsaved } = ground;
    const own = tab.before === undefined ? undefined : nameFor(kind, id, tab.before);
    // What another tab still has open stays its own.
    const left = (await unsaved.of(kind, id)).filter(({ name }) => name === own || !tab.isAlive(ownerOf(name) ?? ''));
    left.sort((a, b) => Number(b.name === own) - Number(a.name === own) || b.pending.at - a.pending.at);
    for (const { name, pending } of left) if (pending.text === saved) await unsaved.drop(name);
    const [found] = left.filter(({ pending }) => pending.text !== saved);
    const { text, revision } = found?.pending ?? { text: saved, revision: document.revision };
    const draft = new Draft(kind, id, { text, revision, saved }, tell, ground);
    if (!found) return draft;
    await draft.keep();
    if (!tab.isAlive(ownerOf(found.name) ?? '')) await unsaved.drop(found.name);
    draft.later(0);
    return draft;
  }

  private get name(): string {
    return nameFor(this.kind, this.id, this.ground.tab.id);
  }

  private keep(): Promise<void> {
    return this.ground.unsaved.put(this.name, { text: this.text, revision: this.revision, at: Date.now() });
  }

  /** What was typed: safe in the browser at once, on the server shortly after. */
  change(text: string): void {
    this.text = text;
    this.typed = true;
    void this.keep();
    this.tell({ kind: 'saving' });
    this.later(DELAY);
  }

  /** Sends what is unsaved now; resolves when the server has answered. */
  async flush(): Promise<void> {
    clearTimeout(this.timer);
    await this.sending;
    if (this.text === this.saved) return this.settled();
    this.sending = this.send();
    await this.sending;
    this.sending = undefined;
  }

  /** What was typed has been taken back before it was sent: the server has it as it is. */
  private settled(): void {
    if (!this.typed) return;
    this.typed = false;
    this.forget();
    this.tell({ kind: 'saved' });
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

  /** Sends what is unsaved; the draft is not used any more. */
  close(): void {
    this.unfollow();
    void this.flush();
    clearTimeout(this.timer);
  }

  /** What is unsaved is sent, and refused where it is of an older state; else it is looked whether there is a newer one. */
  private async look(): Promise<void> {
    if (this.text !== this.saved) return this.flush();
    const now = await client.get(this.kind, this.id).catch(() => undefined);
    if (!now || this.text !== this.saved || now.revision === this.revision) return;
    if (now.draft === this.text) this.revision = now.revision;
    else this.tell({ kind: 'conflict', theirs: now.draft, revision: now.revision });
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
      else void this.keep();
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
    void this.ground.unsaved.drop(this.name);
  }
}
