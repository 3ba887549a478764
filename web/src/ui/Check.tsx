/** A switch between yes and no, with its words. */
import { Checkbox, type CheckboxRootProps } from '@chakra-ui/react';

interface CheckProps extends Omit<CheckboxRootProps, 'checked' | 'onCheckedChange' | 'variant' | 'size'> {
  readonly on: boolean;
  readonly change: (on: boolean) => void;
  readonly children: React.ReactNode;
  readonly testId?: string;
}

export function Check({ on, change, children, testId, ...props }: CheckProps) {
  return (
    <Checkbox.Root {...props} checked={on} onCheckedChange={({ checked }) => change(checked === true)} data-testid={testId}>
      <Checkbox.HiddenInput />
      <Checkbox.Control>
        <Checkbox.Indicator />
      </Checkbox.Control>
      <Checkbox.Label>{children}</Checkbox.Label>
    </Checkbox.Root>
  );
}
