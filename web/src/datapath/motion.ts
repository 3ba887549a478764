/** The one clock of the drawing: tokens travel first, and only when they have arrived is the view shown that they bring. */
export interface Clock {
  /** Calls `act` once after `delay` ms; returns its undoing. */
  later(delay: number, act: () => void): () => void;
}

const pageClock: Clock = {
  later(delay, act) {
    const timer = setTimeout(act, delay);
    return () => clearTimeout(timer);
  },
};

export class Motion<V> {
  private under: { readonly view: V; readonly cancel: () => void } | undefined;
  private readonly show: (view: V) => void;
  private readonly clock: Clock;

  constructor(show: (view: V) => void, clock = pageClock) {
    this.show = show;
    this.clock = clock;
  }

  /** Shows a view after `duration` ms. What was under way has arrived. */
  travel(view: V, duration: number): void {
    this.land();
    this.under = { view, cancel: this.clock.later(duration, () => this.land()) };
  }

  /** What is under way arrives now. */
  land(): void {
    const { under } = this;
    this.forget();
    if (under) this.show(under.view);
  }

  /** What is under way belongs to a run that is given up; whether there was something. */
  forget(): boolean {
    const { under } = this;
    this.under = undefined;
    under?.cancel();
    return under !== undefined;
  }
}
