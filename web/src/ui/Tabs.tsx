/** A row of tabs and the body of the chosen one. */
import { Tabs as ChakraTabs } from '@chakra-ui/react';
import type { ComponentType } from 'react';
import { Panel } from './Panel';
import { itemAt } from '@zettak/core/text/itemAt';

export interface Tab {
  readonly id: string;
  readonly says: string;
  readonly body: ComponentType;
}

interface TabsProps {
  readonly tabs: readonly Tab[];
  readonly label: string;
  /** An id; of one that there is not, the first tab stands there. */
  readonly chosen: string;
  readonly choose: (id: string) => void;
}

export function Tabs({ tabs, label, chosen, choose }: TabsProps) {
  const present = tabs.find((each) => each.id === chosen) ?? itemAt(tabs, 0);
  const Body = present.body;
  return (
    <Panel label={label} className="tools" borderRight="1px solid" borderColor="line">
      <ChakraTabs.Root value={present.id} onValueChange={({ value }) => choose(value)}>
        <ChakraTabs.List aria-label={label}>
          {tabs.map(({ id, says }) => (
            <ChakraTabs.Trigger key={id} value={id} data-testid={`tool-${id}`}>
              {says}
            </ChakraTabs.Trigger>
          ))}
        </ChakraTabs.List>
        <ChakraTabs.Content value={present.id} className="tool">
          <Body />
        </ChakraTabs.Content>
      </ChakraTabs.Root>
    </Panel>
  );
}
