/** A window over the page: a heading, what it holds, and a button that closes it. */
import { Dialog, Portal } from '@chakra-ui/react';
import type { ReactNode } from 'react';

interface WindowParts {
  readonly title: ReactNode;
  readonly open: boolean;
  readonly close: () => void;
  readonly testId: string;
  readonly closes?: string;
  readonly wide?: boolean;
  readonly children: ReactNode;
}

export function Window({ title, open, close, testId, closes = 'Close', wide = false, children }: WindowParts) {
  return (
    <Dialog.Root open={open} onOpenChange={({ open: now }) => !now && close()} size={wide ? 'xl' : 'sm'}>
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="paper" color="ink" {...(wide && { maxWidth: '1080px' })} data-testid={testId}>
            <Dialog.Header>
              <Dialog.Title>{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>{children}</Dialog.Body>
            <Dialog.Footer>
              <button type="button" className="plain" onClick={close}>
                {closes}
              </button>
            </Dialog.Footer>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
