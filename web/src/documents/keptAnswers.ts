/**
 * What the server has answered, kept in this browser for times when it is away: lists, documents and versions as they were
 * seen last. What is kept longest unseen makes room for what comes.
 */
import { clear, createStore, delMany, entries, get, keys, promisifyRequest, type UseStore } from 'idb-keyval';
import { create } from 'zustand';

/** Whether something is shown that the server could not be asked for, and when that was seen, in ms. */
export const useKeptAnswers = create<{ readonly seen: number | undefined }>()(() => ({ seen: undefined }));

interface Answer {
  readonly at: number;
  readonly answer: unknown;
}

/** So many are kept; a few more before it is looked which are the oldest. */
const MOST = 400;
const MORE = 50;
/** Ms for which answers are gathered. A page that is left within that time may lose them. */
const LATER = 250;

export class KeptAnswers {
  private opened: UseStore | undefined;
  private readonly waiting = new Map<string, Answer>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private last: Promise<unknown> = Promise.resolve();

  /** `open` may throw: there are browsers that keep nothing. */
  constructor(
    private readonly open: () => UseStore = () => createStore('zettak-answers', 'answers'),
    private readonly now: () => number = Date.now,
  ) {}

  /** Rejects where the browser keeps nothing. */
  private async store<T>(act: (store: UseStore) => Promise<T>): Promise<T> {
    return act((this.opened ??= this.open()));
  }

  keep(path: string, answer: unknown): void {
    this.waiting.set(path, { at: this.now(), answer });
    this.timer ??= setTimeout(() => void this.write(), LATER);
    // Open by the time that the page is left.
    void this.store(async () => undefined).catch(() => undefined);
  }

  /** Undefined where nothing was seen there, or the browser keeps nothing. */
  async of(path: string): Promise<Answer | undefined> {
    return this.waiting.get(path) ?? (await this.store((store) => get<Answer>(path, store)).catch(() => undefined));
  }

  /** Whoever may not ask for anything gets nothing from here, either. */
  async forget(): Promise<void> {
    this.waiting.clear();
    await this.last;
    await this.store(clear).catch(() => undefined);
  }

  /** Writes what is waiting, begun at once where the database is open; resolves when it is kept, or there was no room. */
  write(): Promise<unknown> {
    clearTimeout(this.timer);
    this.timer = undefined;
    const fresh = [...this.waiting];
    const done = this.store((store) => putAll(store, fresh)).then(() => {
      for (const [path, answer] of fresh) if (this.waiting.get(path) === answer) this.waiting.delete(path);
    });
    this.last = Promise.all([this.last, done])
      .then(() => this.store(makeRoom))
      .catch(() => undefined);
    return this.last;
  }
}

/** In one go, and told to be whole: a page that is being left hears of nothing any more. */
const putAll = (store: UseStore, fresh: readonly [string, Answer][]): Promise<void> =>
  store('readwrite', (objects) => {
    for (const [path, answer] of fresh) objects.put(answer, path);
    objects.transaction.commit();
    return promisifyRequest(objects.transaction);
  });

async function makeRoom(store: UseStore): Promise<void> {
  if ((await keys(store)).length <= MOST + MORE) return;
  const oldest = (await entries<string, Answer>(store)).sort(([, a], [, b]) => b.at - a.at).slice(MOST);
  await delMany(
    oldest.map(([path]) => path),
    store,
  );
}

/** Of this page, once it is asked for. */
const page: { answers?: KeptAnswers } = {};

export function keptAnswers(): KeptAnswers {
  if (page.answers) return page.answers;
  const answers = new KeptAnswers();
  globalThis.addEventListener?.('pagehide', () => void answers.write());
  page.answers = answers;
  return answers;
}

/** Told when the server is back, after something was shown without it. Returns its undoing. */
export const onBack = (act: () => void): (() => void) =>
  useKeptAnswers.subscribe(({ seen }, before) => {
    if (seen === undefined && before.seen !== undefined) act();
  });

/** The server answers again: told by whoever asks after it in pauses, and not by each answer. */
export function isBack(): void {
  if (useKeptAnswers.getState().seen !== undefined) useKeptAnswers.setState({ seen: undefined });
}

/** Something is shown as it was seen then. */
export function isAway(at: number): void {
  const { seen } = useKeptAnswers.getState();
  useKeptAnswers.setState({ seen: Math.min(seen ?? at, at) });
}
