/**
 * Brings elements into view without forcing layout: asked for at any time, done after the next paint, when sizes are
 * known. The last request for a scroller counts.
 */
interface Wanted {
  readonly find: () => Element | null | undefined;
  readonly across: boolean;
}

const wanted = new Map<Element, Wanted[]>();
let asked = false;

/** Runs `act` once the page has been painted; in a page that nobody sees, soon. */
export function afterPaint(act: () => void): void {
  if (document.hidden) return void setTimeout(act, 100);
  requestAnimationFrame(() => setTimeout(act));
}

/** Of several elements the first is seen in any case, the later ones where all fit. With `across` it stands in the middle of a row. */
export function follow(scroller: Element | null | undefined, ...finds: readonly Wanted['find'][]): void {
  keepInView(scroller, finds, false);
}

export const followAcross = (scroller: Element | null | undefined, find: Wanted['find']): void => keepInView(scroller, [find], true);

function keepInView(scroller: Element | null | undefined, finds: readonly Wanted['find'][], across: boolean): void {
  if (!scroller) return;
  wanted.set(
    scroller,
    finds.toReversed().map((find) => ({ find, across })),
  );
  if (asked) return;
  asked = true;
  afterPaint(() => {
    asked = false;
    const now = [...wanted];
    wanted.clear();
    // All is read before anything is moved.
    const moves = now.flatMap(([element, list]) => list.map((each) => moveFor(element, each)));
    for (const move of moves) move?.();
  });
}

function moveFor(scroller: Element, { find, across }: Wanted): (() => void) | undefined {
  const element = find();
  if (!element || !scroller.isConnected) return undefined;
  const [inner, outer] = [element.getBoundingClientRect(), scroller.getBoundingClientRect()];
  if (across) {
    const left = inner.left - outer.left + scroller.scrollLeft - (outer.width - inner.width) / 2;
    return () => void (scroller.scrollLeft = left);
  }
  const above = inner.top - outer.top;
  const below = inner.bottom - outer.bottom;
  if (above >= 0 && below <= 0) return undefined;
  const by = above < 0 ? above : Math.min(below, above);
  return () => void (scroller.scrollTop += by);
}
