/** What no set has tried, and a set proposed for it; which instructions the sets execute. */
import { Box } from '@chakra-ui/react';
import { lazy, Suspense, useState } from 'react';
import type { Untried } from '@zettak/core/trials/reach/coverage';
import { grouped } from '@zettak/core/text/number';
import { Button } from '../ui/Button';
import { Check } from '../ui/Check';
import { Controls, Hint, PanelHead, PanelTitle } from '../ui/Panel';
import { lookReached, proposeFor } from './running';
import { SourceWindow } from './SourceWindow';
import { useTrials } from './state';

const Bars = lazy(() => import('../ui/Bars'));

export function NeverTried() {
  const reached = useTrials((state) => state.reached);
  const count = useTrials((state) => state.table.sets.length);
  const runs = useTrials((state) => state.tried?.facts !== undefined);
  const [all, setAll] = useState(false);
  const [chosen, setChosen] = useState<Untried>();
  const [beside, setBeside] = useState(false);
  const one = useTrials((state) => state.table.sets.findIndex((each) => each.name === state.chosen));
  const [only, setOnly] = useState(false);
  const list = reached?.untried.filter((each) => all || !each.tried) ?? [];
  const open = chosen && list.includes(chosen) ? chosen : list.find((each) => each.targets.length > 0);
  return (
    <Box as="section" aria-label="Never tried" data-testid="never-tried">
      <PanelHead>
        <PanelTitle>Never tried</PanelTitle>
        <Hint flex="1" truncate>
          {reached ? (reached.over === undefined ? `by any of the ${count} sets` : `by “${reached.over}”`) : ''}
        </Hint>
        <Check on={only} change={setOnly} disabled={one < 0} testId="only-chosen">
          chosen set only
        </Check>
        <Button
          onClick={() => void lookReached(only && one >= 0 ? [one] : undefined)}
          disabled={!runs || count === 0}
          data-testid="look-reached"
        >
          {reached ? 'Look again' : 'Look'}
        </Button>
      </PanelHead>
      <Box px="12px" py="8px">
        {!reached && <Hint as="p">Lines that no set reaches, branches that go one way only, flags that an instruction never sets.</Hint>}
        {reached && list.length === 0 && <Hint as="p">Every line, every branch both ways, every flag: all tried.</Hint>}
        {list.length > 0 && (
          <Box maxHeight="260px" overflow="auto" tabIndex={0} role="region" aria-label="What was never tried">
            <table className="untried">
              <tbody>
                {list.map((each, at) => (
                  <tr key={at} className={each.tried ? '' : 'open'} data-untried={each.what} aria-selected={each === open}>
                    <td className="address">{each.address}</td>
                    <td className="text" title={each.where ?? (each.line === undefined ? '' : `line ${each.line}`)}>
                      {each.text}
                    </td>
                    <td>
                      {each.targets.length > 0 ? (
                        <Button look="link" aria-pressed={each === open} onClick={() => setChosen(each)}>
                          {each.note}
                        </Button>
                      ) : (
                        `${each.note}${each.tried ? ' ✓' : ''}`
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </Box>
        )}
        {reached && (
          <Controls>
            {open?.targets.map((target, at) => (
              <Button key={at} onClick={() => void proposeFor(open, target)} data-testid="propose">
                {proposal(open, target)}
              </Button>
            ))}
            <Button onClick={() => setBeside(true)} data-testid="beside-source">
              Beside the source
            </Button>
            <Check on={all} change={setAll}>
              branches that went both ways, too
            </Check>
          </Controls>
        )}
        {reached && reached.cut.length > 0 && (
          <Hint as="p" data-testid="cut">
            Looked at for their first {grouped(reached.mostLooked)} ticks only: {reached.cut.join(', ')}.
          </Hint>
        )}
        {reached && reached.left.length > 0 && <Hint as="p">Not run, because they cannot be read: {reached.left.join(', ')}.</Hint>}
        {reached && reached.mix.length > 0 && (
          <Box mt="10px">
            <Hint as="p">Instructions that the sets execute</Hint>
            <Suspense fallback={null}>
              <Bars label="Instructions that the sets execute" list={reached.mix.slice(0, 12)} />
            </Suspense>
          </Box>
        )}
      </Box>
      <SourceWindow untried={reached?.untried ?? []} open={beside} close={() => setBeside(false)} />
    </Box>
  );
}

function proposal({ address, line, what }: Untried, target: Untried['targets'][number]): string {
  const at = line === undefined ? address : `line ${line}`;
  switch (target.kind) {
    case 'reach':
      return `Propose a set that reaches ${at}`;
    case 'flag': {
      const name = useTrials.getState().tried?.facts?.machine.flags[target.flag]?.name ?? what;
      return `Propose ${name} ${target.value} at ${at}`;
    }
    case 'equal':
      return `Propose equal values at ${at}`;
    default:
      return `Propose “${target.kind}” at ${at}`;
  }
}
