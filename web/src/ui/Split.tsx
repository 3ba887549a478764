/** Panels beside or above each other, with edges between them that are dragged and moved by keys; Enter at an edge folds a panel beside it. */
import { Splitter } from '@chakra-ui/react';
import { Children, Fragment, useEffect, useRef, useState } from 'react';
import { itemAt } from '@zettak/core/text/itemAt';

export interface SplitPanel {
  readonly id: string;
  /** What it holds, in words. */
  readonly says: string;
  /** The least room that it takes, as CSS says lengths. */
  readonly least: string;
  /** What it takes when it is folded; without one it cannot be. */
  readonly folded?: string;
}

interface SplitProps {
  readonly way: 'horizontal' | 'vertical';
  readonly panels: readonly SplitPanel[];
  /** In per cent of the whole, or as CSS says lengths. */
  readonly sizes: readonly (number | string)[];
  readonly change: (sizes: readonly number[]) => void;
  /** One for each panel, in their order. */
  readonly children: React.ReactNode;
}

/** Per cent at or under which a panel counts as folded. */
const FOLDED = 0.5;

/** How often an element has been given another size. */
function useResized(element: React.RefObject<HTMLElement | null>): number {
  const [times, setTimes] = useState(0);
  useEffect(() => {
    if (!element.current) return;
    const observer = new ResizeObserver(() => setTimes((before) => before + 1));
    observer.observe(element.current);
    return () => observer.disconnect();
  }, [element]);
  return times;
}

/** A share of a size: too little to be seen. */
const NEW = 1e-8;

export function Split({ way, panels, sizes, change, children }: SplitProps) {
  const parts = Children.toArray(children);
  const last = useRef(new Map<string, number>());
  const root = useRef<HTMLDivElement>(null);
  // A window too small for all panels takes from some what they need; they have it back when it grows: sizes that are new are taken anew.
  const anew = 1 - (useResized(root) % 2) * NEW;
  /** Folds the panel before an edge or, where that cannot be, the one behind it; a folded one comes back as wide as it was. */
  const turn = (at: number): boolean => {
    const target = [at - 1, at].find((each) => itemAt(panels, each).folded !== undefined);
    const list = sizes.map(Number);
    if (target === undefined || list.some((each) => !Number.isFinite(each))) return false;
    const { id, least } = itemAt(panels, target);
    const beside = target === at ? at - 1 : at;
    const size = itemAt(list, target);
    const room = (way === 'horizontal' ? root.current?.clientWidth : root.current?.clientHeight) ?? 1;
    const back = Math.max(last.current.get(id) ?? 0, (parseFloat(least) / room) * 100);
    if (size > FOLDED) last.current.set(id, size);
    const now = size > FOLDED ? 0 : Math.min(back, itemAt(list, beside) / 2);
    change(list.map((each, index) => (index === target ? now : index === beside ? each + size - now : each)));
    return true;
  };
  return (
    <Splitter.Root
      ref={root}
      orientation={way}
      panels={panels.map(({ id, least, folded }) => ({
        ...{ id, minSize: least },
        ...(folded !== undefined && { collapsible: true, collapsedSize: folded }),
      }))}
      size={sizes.map((each) => (typeof each === 'number' ? each * anew : each))}
      onResize={({ size }) => change(size)}
    >
      {panels.map(({ id, says }, at) => (
        <Fragment key={id}>
          {at > 0 && (
            <Splitter.ResizeTrigger
              id={`${itemAt(panels, at - 1).id}:${id}`}
              aria-label={`Edge between ${itemAt(panels, at - 1).says} and ${says}: arrows move it`}
              data-testid={`edge-${id}`}
              onKeyDownCapture={(event) => {
                if (event.key !== 'Enter' || !turn(at)) return;
                event.preventDefault();
                event.stopPropagation();
              }}
            />
          )}
          <Splitter.Panel id={id}>{parts[at]}</Splitter.Panel>
        </Fragment>
      ))}
    </Splitter.Root>
  );
}
