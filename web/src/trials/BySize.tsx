/** How ticks grow with what a set is given, beside an earlier version of the program. */
import { Box } from '@chakra-ui/react';
import { lazy, Suspense, useState } from 'react';
import { entryOf, INPUT, placesOf, type TrialSet } from '@zettak/core/trials/sets/table';
import { numberReader } from '@zettak/core/machine/model/numbers';
import type { Machine } from '@zettak/core/machine/model/machine';
import { client } from '../documents/client';
import { Choice } from '../ui/Choice';
import { Controls, Hint, PanelHead, PanelTitle } from '../ui/Panel';
import { runOther } from './running';
import { useTrials } from './state';

const TicksChart = lazy(() => import('./TicksChart'));

/** How large a set is: how many inputs it has, or a value that it gives. */
function sizeOf(machine: Machine, one: TrialSet, by: string, base: number | undefined): number | undefined {
  const text = entryOf(one.given, by).trim();
  if (by === INPUT)
    return text === ''
      ? 0
      : (text.match(/"(?:[^"\\]|\\.)*"|[^\s,]+/g) ?? []).reduce((sum, each) => sum + (each.startsWith('"') ? each.length - 2 : 1), 0);
  return text === '' ? undefined : numberReader(machine, base)(text);
}

export function BySize() {
  const table = useTrials((state) => state.table);
  const rows = useTrials((state) => state.rows);
  const old = useTrials((state) => state.old);
  const machine = useTrials((state) => state.tried?.facts?.machine);
  const program = useTrials((state) => state.program);
  const [wanted, setBy] = useState('');
  const [beside, setBeside] = useState<{ readonly number: number; readonly ticks: ReadonlyMap<string, number> }>();
  const places = placesOf(table.sets, 'given');
  const by = places.includes(wanted) ? wanted : (places.find((each) => each === INPUT) ?? places[0]);
  if (!machine || by === undefined || rows.size === 0 || old) return null;
  const points = table.sets
    .flatMap((one) => {
      const size = sizeOf(machine, one, by, table.base);
      const row = rows.get(one.name)?.row;
      if (size === undefined || !row || row.verdict === 'unread') return [];
      return [{ size, ticks: row.ticks, before: beside?.ticks.get(one.name), name: one.name }];
    })
    .sort((a, b) => a.size - b.size);
  const compare = async (value: string): Promise<void> => {
    if (value === '' || !program) return setBeside(undefined);
    const { text } = await client.version('program', program.id, Number(value));
    const found = await runOther(text, `version ${value}`);
    if (found) setBeside({ number: Number(value), ticks: new Map(found.map((each) => [each.name, each.ticks])) });
  };
  return (
    <Box as="section" aria-label="Ticks by size" data-testid="by-size">
      <PanelHead>
        <PanelTitle>Ticks by size of input</PanelTitle>
      </PanelHead>
      <Box px="12px" py="8px">
        {points.length < 2 ? (
          <Hint as="p">With two sets or more that give “{by}” and have run, their ticks stand here.</Hint>
        ) : (
          <Suspense fallback={null}>
            <TicksChart
              points={points}
              across={by === INPUT ? 'inputs' : by}
              now="this text"
              before={beside && `version ${beside.number}`}
            />
          </Suspense>
        )}
        <Controls mt="0">
          <Choice
            label="Size"
            value={by}
            choose={setBy}
            options={places.map((value) => ({ value, says: value === INPUT ? 'number of inputs' : value }))}
          />
          <Choice
            label="Beside a version"
            value={beside?.number ?? ''}
            choose={(value) => void compare(value)}
            options={[
              { value: '', says: 'beside no version' },
              ...(program?.versions ?? []).map(({ number }) => ({ value: number, says: `beside version ${number}` })),
            ]}
          />
        </Controls>
      </Box>
    </Box>
  );
}
