/** The bench that a teacher shares: the run's definition and its tick, held in memory alone; whoever follows is told the newest, and nothing in between. */
import type { Shared, ShareChange } from '@zettak/api/share';
import { newToken, tokenHash } from '../access/tokens';
import { HttpProblem } from '../http/problem';

export const MOST_FOLLOWERS = 250;

/** One page that follows. */
interface Follower {
  readonly send: (shared: Shared) => void;
  /** What was sent has not gone out yet. */
  readonly isBusy: () => boolean;
}

export class Sharing {
  private hash: string | undefined;
  private definition: string | undefined;
  private shared: Shared = { run: 0, tick: 0, paused: false, ended: true };
  private readonly followers = new Set<Follower>();
  private readonly late = new Set<Follower>();

  /** A new share; the one before ends. Its token. */
  open(): string {
    this.end();
    const token = newToken();
    this.hash = tokenHash(token);
    this.definition = undefined;
    this.shared = { run: 0, tick: 0, paused: false, ended: false };
    return token;
  }

  /** How many follow. */
  change({ run, tick, paused }: ShareChange): number {
    if (this.hash === undefined) throw new HttpProblem(409, 'Nothing is shared now. Share the bench anew.');
    if (run !== undefined && !paused) this.definition = run;
    const counted = run !== undefined && !paused ? this.shared.run + 1 : this.shared.run;
    // While it is paused nobody is told where it stands.
    this.shared = paused ? { ...this.shared, paused } : { run: counted, tick, paused, ended: false };
    this.tell();
    return this.followers.size;
  }

  end(): void {
    if (this.hash === undefined) return;
    this.hash = undefined;
    this.definition = undefined;
    this.shared = { ...this.shared, ended: true };
    this.tell();
    this.followers.clear();
  }

  /** Where it stands, and what is to be run. */
  seen(token: string): { readonly shared: Shared; readonly definition: string | null } {
    this.check(token);
    return { shared: this.shared, definition: this.shared.paused ? null : (this.definition ?? null) };
  }

  /** Throws where one more page cannot follow: to be asked before the answer to it begins. */
  checkRoom(token: string): void {
    this.check(token);
    if (this.followers.size >= MOST_FOLLOWERS)
      throw new HttpProblem(503, `${MOST_FOLLOWERS} pages follow already; there is no room for more.`);
  }

  /** Told at once and at every change; returns its undoing. */
  follow(token: string, follower: Follower): () => void {
    this.checkRoom(token);
    this.followers.add(follower);
    follower.send(this.shared);
    return () => {
      this.followers.delete(follower);
      this.late.delete(follower);
    };
  }

  /** What could not go out before has gone. */
  free(follower: Follower): void {
    if (this.late.delete(follower)) follower.send(this.shared);
  }

  private tell(): void {
    for (const each of this.followers) {
      if (each.isBusy()) this.late.add(each);
      else each.send(this.shared);
    }
  }

  private check(token: string): void {
    if (this.hash === undefined || tokenHash(token) !== this.hash) throw new HttpProblem(404, 'This bench is not shared any more.');
  }
}
