/**
 * A draft that saves itself: first beside the page, at every change; then on the server, shortly after. What the
 * server has not got is sent again, also after a reload, and a draft saved elsewhere is never overwritten.
 */
import type { DocumentDetail, Kind } from '@zettak/api/documents';
import { client, Refused } from './client';

export type SaveState =
  | { readonly kind: 'saved' }
  | { readonly kind: 'saving' }
  | { readonly kind: 'unreachable' }
  | { readonly kind: 'conflict'; readonly theirs: string; readonly revision: number }
  | { readonly kind: 'refused'; readonly sentence: string };

interface Pending {
  readonly text: string;
  readonly revision: number;
}

const DELAY = 500;
const RETRY = 3000;
const key = (kind: Kind, id: string): string => `zettak.draft.${kind}.${id}`;

function readPending(kind: Kind, id: string): Pending | undefined {
  try {
    const parsed = JSON.parse(localStorage.getItem(key(kind, id)) ?? 'null') as Partial<Pending> | null;
    return typeof parsed?.text === 'string' && typeof parsed.revision === 'number'
      ? { text: parsed.text, revision: parsed.revision }
      : undefined;
  } catch {
    return undefined;
  }
}

export class Draft {
  text: string;
  revision: number;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private sending: Promise<void> | undefined;
  private saved: string;

  constructor(
    private readonly kind: Kind,
    readonly id: string,
    document: DocumentDetail,
    private readonly tell: (state: SaveState) => void,
  ) {
    const pending = readPending(kind, id);
    this.saved = document.draft;
    this.text = pending?.text ?? document.draft;
    this.revision = pending?.revision ?? document.revision;
    if (this.text === document.draft) {
      this.revision = document.revision;
      this.forget();
    } else this.later(0);
  }

  change(text: string): void {
    this.text = text;
    try {
      localStorage.setItem(key(this.kind, this.id), JSON.stringify({ text, revision: this.revision }));
    } catch {
      // No room beside the page: the server still gets it.
    }
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
      if (this.text === text) this.forget();
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
    if (error instanceof Refused) return this.tell({ kind: 'refused', sentence: error.detail });
    this.tell({ kind: 'unreachable' });
    this.later(RETRY);
  }

  private forget(): void {
    localStorage.removeItem(key(this.kind, this.id));
  }
}
