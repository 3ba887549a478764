/** The ways of starting over, each with what it costs, before anything is lost. */
import { useEffect, useState } from 'react';
import { engine } from '../session/engine';
import { Window } from '../ui/Window';
import type { StartOffer, StartingOver } from '@zettak/core/session/protocol';
import { startOver } from './loading';

const NAMES: Readonly<Record<StartingOver, string>> = {
  again: 'Run again from the start',
  data: 'Put the data back',
  reload: 'Reload the program',
  clear: 'Clear memory and load',
};

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
      <ul className="start-offers">
        {offers.map(({ way, loses }) => (
          <li key={way}>
            <button type="button" className="plain" onClick={() => choose(way)} data-testid={`start-${way}`}>
              {NAMES[way]}
            </button>
            <p>{loses}</p>
          </li>
        ))}
      </ul>
    </Window>
  );
}
