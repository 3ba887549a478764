/** Hands views to whoever watches, as fast as they are shown: nothing queues, and of several only the newest goes out. */
import type { View } from './protocol';

/** A fast run is looked at this often, in ms. */
const FRAME = 33;

/** What is looked at. */
export interface Subject {
  /** Tick that it stands at; undefined while there is nothing to show. */
  readonly ticks: number | undefined;
  /** `moved`: what the last tick moved can be shown as a movement. */
  view(moved: boolean): View;
}

interface Due {
  readonly moved: boolean;
  /** In place of the status. */
  readonly sentence?: string;
}

export class ViewFlow {
  private listener: (view: View) => void = () => {};
  /** Views that were told and are not shown yet; and what is to be told when they are. */
  private unshown = 0;
  private due: Due | undefined;
  /** Tick and moment, in ms, of the last view. */
  private told = 0;
  private sent = 0;
  private readonly now: () => number;
  private readonly subject: Subject;

  constructor(now: () => number, subject: Subject) {
    this.now = now;
    this.subject = subject;
  }

  /** One listener at a time. */
  subscribe(listener: (view: View) => void): void {
    this.listener = listener;
    this.unshown = 0;
    this.due = undefined;
    this.publish({ moved: false });
  }

  /** A view has been shown: the next one may come. */
  shown(): void {
    this.unshown = Math.max(0, this.unshown - 1);
    if (this.unshown === 0 && this.due) this.send(this.due);
  }

  /** What was to be told is told no more. */
  forget(): void {
    this.due = undefined;
  }

  /** The next view goes out when the last one is shown; with `now` at once, so that it is there when a command is answered. */
  publish({ now = false, ...due }: Due & { readonly now?: boolean }): void {
    if (this.subject.ticks === undefined) return;
    if (this.unshown > 0 && !now) this.due = due;
    else this.send(due);
  }

  /** For what goes on: not more often than anybody can look. */
  glance(): void {
    if (this.now() - this.sent >= FRAME) this.publish({ moved: false });
  }

  private send({ moved, sentence }: Due): void {
    const { ticks } = this.subject;
    this.due = undefined;
    if (ticks === undefined) return;
    this.unshown++;
    this.sent = this.now();
    // Only a single tick can be shown as a movement.
    const view = this.subject.view(moved && ticks === this.told + 1);
    this.told = ticks;
    this.listener(sentence === undefined ? view : { ...view, sentence });
  }
}
