/** Something that is folded away until somebody opens it. */
import { Collapsible } from '@chakra-ui/react';
import { ChevronRight } from 'lucide-react';

interface FoldProps {
  readonly title: React.ReactNode;
  /** Without these it keeps for itself whether it is open. */
  readonly open?: boolean;
  readonly change?: (open: boolean) => void;
  readonly children: React.ReactNode;
  readonly testId?: string;
}

export function Fold({ title, open, change, children, testId }: FoldProps) {
  const held = { ...(open !== undefined && { open }), ...(change && { onOpenChange: (to: { open: boolean }) => change(to.open) }) };
  return (
    <Collapsible.Root {...held} lazyMount unmountOnExit data-testid={testId}>
      <Collapsible.Trigger>
        <ChevronRight aria-hidden />
        {title}
      </Collapsible.Trigger>
      <Collapsible.Content>{children}</Collapsible.Content>
    </Collapsible.Root>
  );
}
