/** A window over the page: a heading, what it holds, and a button that closes it. */
import { Dialog, Portal } from '@chakra-ui/react';
import type { ReactNode } from 'react';
import { Button } from './Button';

interface WindowProps {
  readonly title: ReactNode;
  readonly open: boolean;
  readonly close: () => void;
  readonly testId: string;
  readonly closes?: string;
  readonly wide?: boolean;
  /** Has the focus first; else what comes first. */
  readonly first?: React.RefObject<HTMLElement | null>;
  readonly children: ReactNode;
}

/** The focus stays in it; Escape, its button and a press beside it close it. */
export function Window({ title, open, close, testId, closes = 'Close', wide = false, first, children }: WindowProps) {
  const size = { size: wide ? 'wide' : 'usual' } as object;
  return (
    <Dialog.Root
      open={open}
      onOpenChange={({ open: now }) => !now && close()}
      lazyMount
      unmountOnExit
      {...size}
      {...(first && { initialFocusEl: () => first.current })}
    >
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content data-testid={testId}>
            <Dialog.Header>
              <Dialog.Title>{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>{children}</Dialog.Body>
            <Dialog.Footer className="window-foot">
              <Button onClick={close}>{closes}</Button>
            </Dialog.Footer>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
