/** Two texts of one document, saved from two pages, beside each other. */
import { Window } from '../ui/Window';
import { SideBySide } from './SideBySide';

export interface Differing {
  readonly mine: string;
  readonly theirs: string;
}

export function Difference({ texts, close }: { texts: Differing | undefined; close: () => void }) {
  if (!texts) return null;
  return (
    <Window title="Saved from two pages" open close={close} testId="difference" wide>
      <SideBySide left={{ name: 'saved there', text: texts.theirs }} right={{ name: 'here', text: texts.mine }} />
    </Window>
  );
}
