/** Keeps an element as high as it has been, so that what stands below it stays where it is while the words in it change. */
import { useLayoutEffect, useRef, type RefObject } from 'react';

/** The height that is kept, in px: what was needed, between the least and the most. */
export const kept = (needed: number, { least, most }: { readonly least: number; readonly most: number }): number =>
  Math.max(least, Math.min(needed, most));

/**
 * At least `least` px high; what needs more has it, and up to `most` px it is kept from then on. It begins anew where the
 * element has another width, since lines break otherwise then.
 */
export function useKeptHeight<T extends HTMLElement>(least: number, most: number): RefObject<T | null> {
  const place = useRef<T>(null);
  useLayoutEffect(() => {
    const { current: element } = place;
    if (!element) return;
    let width = -1;
    let height = least;
    const keep = (wanted: number): void => {
      height = wanted;
      element.style.minHeight = `${wanted}px`;
    };
    keep(least);
    const observer = new ResizeObserver(() => {
      const anew = Math.abs(element.offsetWidth - width) > 1;
      width = element.offsetWidth;
      if (anew) keep(least);
      const wanted = kept(element.offsetHeight, { least, most });
      if (wanted > height) keep(wanted);
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [least, most]);
  return place;
}
