/** A button that opens a list of things to do. */
import { Menu, Portal } from '@chakra-ui/react';
import { Button, type ButtonLook } from './Button';

export interface Action {
  readonly id: string;
  readonly says: string;
  readonly act: () => void;
}

interface ActionMenuProps {
  readonly label: string;
  readonly look: ButtonLook;
  readonly actions: readonly Action[];
  readonly children: React.ReactNode;
  readonly testId: string;
}

export function ActionMenu({ label, look, actions, children, testId }: ActionMenuProps) {
  return (
    <Menu.Root onSelect={({ value }) => actions.find((each) => each.id === value)?.act()} lazyMount unmountOnExit>
      <Menu.Trigger asChild>
        <Button look={look} aria-label={label} title={label} data-testid={testId}>
          {children}
        </Button>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content>
            {actions.map(({ id, says }) => (
              <Menu.Item key={id} value={id} data-testid={`${testId}-${id}`}>
                {says}
              </Menu.Item>
            ))}
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}
