/** Panels beside or above each other, with edges between them that are dragged and moved by keys; Enter at an edge folds the panel before it. */
import { Splitter } from '@chakra-ui/react';
import { Children, Fragment } from 'react';
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

export function Split({ way, panels, sizes, change, children }: SplitProps) {
  const parts = Children.toArray(children);
  return (
    <Splitter.Root
      orientation={way}
      panels={panels.map(({ id, least, folded }) => ({
        ...{ id, minSize: least },
        ...(folded !== undefined && { collapsible: true, collapsedSize: folded }),
      }))}
      size={[...sizes]}
      onResize={({ size }) => change(size)}
    >
      {panels.map(({ id, says }, at) => (
        <Fragment key={id}>
          {at > 0 && (
            <Splitter.ResizeTrigger
              id={`${itemAt(panels, at - 1).id}:${id}`}
              aria-label={`Edge between ${itemAt(panels, at - 1).says} and ${says}: arrows move it`}
              data-testid={`edge-${id}`}
            />
          )}
          <Splitter.Panel id={id}>{parts[at]}</Splitter.Panel>
        </Fragment>
      ))}
    </Splitter.Root>
  );
}
