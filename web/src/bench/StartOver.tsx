/** The ways of starting over, each with what it costs, before anything is lost. */
import { chakra } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import type { StartOffer, StartingOver } from '@zettak/core/session/protocol';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Window } from '../ui/Window';
import { startOver } from './loading';

const NAMES: Readonly<Record<StartingOver, string>> = {
  again: 'Run again from the start',
  data: 'Put the data back',
  reload: 'Reload the program',
  clear: 'Clear memory and load',
};

const Offers = chakra('ul', {
  base: {
    listStyle: 'none',
    '& li': { py: '8px', borderBottom: '1px solid', borderColor: 'line' },
    '& p': { mt: '4px', fontSize: '14px', color: 'ink2' },
  },
});

/** What each way costs is asked when it opens. */
export function StartOver({ open, close }: { open: boolean; close: () => void }) {
  const [offers, setOffers] = useState<readonly StartOffer[]>([]);
  useEffect(() => {
    if (open) void engine.startOffers().then(setOffers);
  }, [open]);
  const choose = (way: StartingOver): void => {
    close();
    void startOver(way);
  };
  return (
    <Window title="Start over" testId="start-over" closes="Cancel" {...{ open, close }}>
      <Offers>
        {offers.map(({ way, loses }) => (
          <li key={way}>
            <Button fontWeight="650" onClick={() => choose(way)} data-testid={`start-${way}`}>
              {NAMES[way]}
            </Button>
            <p>{loses}</p>
          </li>
        ))}
      </Offers>
    </Window>
  );
}
