/** Where there is nothing yet: what could be here, and what to do first. */
import { EmptyState } from '@chakra-ui/react';

interface EmptyProps {
  readonly title: string;
  readonly children?: React.ReactNode;
  readonly testId?: string;
}

export function Empty({ title, children, testId }: EmptyProps) {
  return (
    <EmptyState.Root data-testid={testId}>
      <EmptyState.Content>
        <EmptyState.Title>{title}</EmptyState.Title>
        {children !== undefined && <EmptyState.Description>{children}</EmptyState.Description>}
      </EmptyState.Content>
    </EmptyState.Root>
  );
}
