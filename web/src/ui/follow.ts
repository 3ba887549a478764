/**
 * Brings elements into view with the layout that the next picture has anyway: asked for at any time, done right before it
 * is painted, once for all that asked. The last request for a scroller counts.
 */
interface Wanted {
  readonly find: () => Element | null | undefined;
  readonly across: boolean;
}

/** Runs `act` once the page has been painted; in a page that nobody sees, soon. */
export function afterPaint(act: () => void): void {
  if (document.hidden) return void setTimeout(act, 100);
  requestAnimationFrame(() => setTimeout(act));
}

/** Runs `act` with the next picture, before it is painted: what it measures is laid out for that picture, and only once. */
export function withNextPaint(act: () => void): void {
  if (document.hidden) return void setTimeout(act, 100);
  requestAnimationFrame(() => act());
}

/** Of several elements the first is seen in any case, the later ones where all fit. With `across` it stands in the middle of a row. */
export function follow(scroller: Element | null | undefined, ...finds: readonly Wanted['find'][]): void {
  keepInView(scroller, finds, false);
}

/** Brings one element into the middle of its row. */
export const followAcross = (scroller: Element | null | undefined, find: Wanted['find']): void => keepInView(scroller, [find], true);

/** What is to be brought into view after the next paint, by scroller. */
class Follower {
  private readonly wanted = new Map<Element, readonly Wanted[]>();

  want(scroller: Element, list: readonly Wanted[]): void {
    if (this.wanted.size === 0) withNextPaint(() => this.move());
    this.wanted.set(scroller, list);
  }

  private move(): void {
    const now = [...this.wanted];
    this.wanted.clear();
    // All is read before anything is moved.
    const moves = now.map(([element, list]) => moveOf(element, list));
    for (const move of moves) move?.();
  }
}
const follower = new Follower();

function keepInView(scroller: Element | null | undefined, finds: readonly Wanted['find'][], across: boolean): void {
  if (!scroller) return;
  follower.want(
    scroller,
    finds.toReversed().map((find) => ({ find, across })),
  );
}

function moveOf(scroller: Element, list: readonly Wanted[]): (() => void) | undefined {
  if (!scroller.isConnected) return undefined;
  const outer = scroller.getBoundingClientRect();
  let { scrollTop: top, scrollLeft: left } = scroller;
  const [oldTop, oldLeft] = [top, left];
  for (const { find, across } of list) {
    const inner = find()?.getBoundingClientRect();
    if (!inner) continue;
    if (across) left = inner.left - outer.left + oldLeft - (outer.width - inner.width) / 2;
    else top = seen(top, { from: inner.top - outer.top + oldTop, size: inner.height, room: scroller.clientHeight });
  }
  if (top === oldTop && left === oldLeft) return undefined;
  return () => scroller.scrollTo({ top, left });
}

/** Where a scroller of some room has to stand, at the least, so that a stretch of its contents is seen. */
export function seen(top: number, { from, size, room }: { readonly from: number; readonly size: number; readonly room: number }): number {
  if (from < top) return from;
  return from + size > top + room ? from + size - room : top;
}
