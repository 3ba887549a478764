/** The program's text with what no set has tried beside its lines. */
import type { Untried } from '@zettak/core/trials/reach/coverage';
import { Window } from '../ui/Window';
import { useTrials } from './state';

export function SourceWindow({ untried, open, close }: { untried: readonly Untried[]; open: boolean; close: () => void }) {
  const source = useTrials((state) => state.source);
  const notes = new Map<number, Untried[]>();
  for (const each of untried) if (each.line !== undefined) notes.set(each.line, [...(notes.get(each.line) ?? []), each]);
  return (
    <Window title="Never tried, beside the source" open={open} close={close} testId="tried-source" wide>
      <div className="tried-source" tabIndex={0} role="region" aria-label="Source">
        <table className="untried">
          <tbody>
            {source.split('\n').map((text, at) => {
              const own = notes.get(at + 1) ?? [];
              return (
                <tr key={at} className={own.some((each) => !each.tried) ? 'open' : ''} data-line={at + 1}>
                  <td className="address">{at + 1}</td>
                  <td className="text">{text}</td>
                  <td>{own.map((each) => `${each.note}${each.tried ? ' ✓' : ''}`).join('; ')}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </Window>
  );
}
