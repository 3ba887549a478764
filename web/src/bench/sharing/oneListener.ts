/**
 * Of several pages of one browser that want to hear the same, one listens and tells the others: browsers have few
 * connections to one server. Works without a secure context, where browsers give no locks.
 */

interface Here<T> {
  readonly kind: 'here';
  readonly id: string;
  /** When it began to listen: of two that listen the later one goes on. */
  readonly since: number;
  readonly told?: T;
  /** Of what is told, so that nobody hears the same twice. */
  readonly number: number;
}
export type Message<T> = Here<T> | { readonly kind: 'who' } | { readonly kind: 'bye' };

/** As much of a BroadcastChannel as is used. */
export interface Channel<T> {
  postMessage(message: Message<T>): void;
  onmessage: ((event: MessageEvent<Message<T>>) => void) | null;
  close(): void;
}

export interface ListenerParts<T> {
  readonly channel: Channel<T>;
  /** Listens until the signal says to stop. */
  readonly listen: (tell: (told: T) => void, signal: AbortSignal) => Promise<void>;
  /** Whatever was heard, by this page or another. */
  readonly hear: (told: T) => void;
  readonly now?: () => number;
  readonly chance?: () => number;
  readonly id?: string;
}

/** ms between two words of the one that listens, of silence after which another does, and that a new page waits for a word. */
const [WORD, SILENCE, FIRST] = [1_000, 3_500, 250];

export class OneListener<T> {
  private readonly id: string;
  private leading: { readonly since: number; readonly leaving: AbortController } | undefined;
  private last: T | undefined;
  private number = 0;
  /** Of whom, and which. */
  private heard = { id: '', number: 0 };
  private heardAt = -Infinity;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly now: () => number;
  private readonly chance: () => number;

  constructor(private readonly parts: ListenerParts<T>) {
    this.now = parts.now ?? Date.now;
    this.chance = parts.chance ?? Math.random;
    this.id = parts.id ?? String(this.chance());
  }

  /** Whether this page is the one that listens. */
  get listens(): boolean {
    return this.leading !== undefined;
  }

  start(): void {
    const { channel } = this.parts;
    channel.onmessage = ({ data }) => this.take(data);
    channel.postMessage({ kind: 'who' });
    this.look(FIRST * (1 + this.chance()));
  }

  /** For good: another page goes on. */
  stop(): void {
    clearTimeout(this.timer);
    if (this.leading) {
      this.stepDown();
      this.parts.channel.postMessage({ kind: 'bye' });
    }
    this.parts.channel.onmessage = null;
    this.parts.channel.close();
  }

  private look(after: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      if (this.leading) this.say();
      else if (this.now() - this.heardAt > SILENCE) this.lead();
      this.look(this.leading ? WORD : WORD * (1 + this.chance()));
    }, after);
  }

  private lead(): void {
    const leaving = new AbortController();
    this.leading = { since: this.now(), leaving };
    this.say();
    const tell = (told: T): void => {
      if (leaving.signal.aborted) return;
      this.last = told;
      this.number++;
      this.parts.hear(told);
      this.say(told);
    };
    void this.parts.listen(tell, leaving.signal);
  }

  private stepDown(): void {
    this.leading?.leaving.abort();
    this.leading = undefined;
  }

  private say(told?: T): void {
    const { leading, id, number } = this;
    if (!leading) return;
    this.parts.channel.postMessage({ kind: 'here', id, since: leading.since, number, ...(told !== undefined && { told }) });
  }

  private take(message: Message<T>): void {
    switch (message.kind) {
      case 'who':
        return this.say(this.last);
      case 'bye':
        this.heardAt = -Infinity;
        return this.leading ? undefined : this.look(FIRST * this.chance());
      case 'here': {
        this.heardAt = this.now();
        const { leading } = this;
        const later = leading && (message.since > leading.since || (message.since === leading.since && message.id > this.id));
        if (later) this.stepDown();
        const known = message.id === this.heard.id && message.number <= this.heard.number;
        if (this.leading || message.told === undefined || known) return undefined;
        this.heard = { id: message.id, number: message.number };
        this.last = message.told;
        return this.parts.hear(message.told);
      }
      default:
        return message satisfies never;
    }
  }
}
