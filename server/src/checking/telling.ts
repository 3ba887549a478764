/** Tells whoever follows an assignment how far its checks are, at most some times a second. */
import type { Progress } from '@zettak/api/matrix';
import type { HandInStore } from '../handIns/store';

type Told = (progress: Progress) => void;

/** ms between two tellings. */
const EVERY = 200;

export class Telling {
  private readonly followers = new Map<string, Set<Told>>();
  private readonly changed = new Set<string>();
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly handIns: HandInStore,
    /** Why nothing goes on, where that is so. */
    private readonly hindrance: () => string | undefined = () => undefined,
  ) {}

  progress(assignment: string): Progress {
    const found = this.handIns.progress(assignment);
    const hindrance = found.waiting > 0 ? this.hindrance() : undefined;
    return hindrance === undefined ? found : { ...found, hindrance };
  }

  /** Returns its undoing. */
  follow(assignment: string, told: Told): () => void {
    const own = this.followers.get(assignment) ?? new Set();
    this.followers.set(assignment, own);
    own.add(told);
    return () => {
      own.delete(told);
      if (own.size === 0) this.followers.delete(assignment);
    };
  }

  tell(assignment: string): void {
    this.changed.add(assignment);
    this.timer ??= setTimeout(() => this.flush(), EVERY);
  }

  tellAll(): void {
    for (const each of this.followers.keys()) this.tell(each);
  }

  close(): void {
    clearTimeout(this.timer);
  }

  private flush(): void {
    this.timer = undefined;
    for (const each of this.changed) {
      const own = this.followers.get(each);
      if (!own || own.size === 0) continue;
      try {
        const progress = this.progress(each);
        for (const told of own) told(progress);
      } catch {
        // It has been deleted meanwhile: nobody is told any more.
      }
    }
    this.changed.clear();
  }
}
