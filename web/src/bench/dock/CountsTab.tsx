/** What the run has been through, counted: which instructions, which ticks, what memory gave and took, which way branches went. */
import { Box, Table } from '@chakra-ui/react';
import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { isRunning, type CountedBranch, type CountedRun } from '@zettak/core/session/protocol';
import { useEditor } from '../../editor/handle';
import { setLineCounts } from '../../editor/programParts';
import { engine } from '../../session/engine';
import { Button } from '../../ui/Button';
import { Controls, Heading, Hint, Refusal } from '../../ui/Panel';
import { useRun } from '../run';

const Bars = lazy(() => import('../../ui/Bars'));

const number = (value: number): string => value.toLocaleString('en-US');

export function CountsTab() {
  const ticks = useRun((state) => state.marked?.ticks ?? 0);
  const running = useRun((state) => isRunning(state.marked?.status));
  const [counted, setCounted] = useState<CountedRun>();
  const [refused, setRefused] = useState<string>();
  const turn = useRef(0);
  const count = async (): Promise<void> => {
    const mine = ++turn.current;
    const found = await engine.counting.count();
    if (mine !== turn.current) return;
    setRefused('refused' in found ? found.refused : undefined);
    setCounted('refused' in found ? undefined : found);
  };
  useEffect(() => {
    if (running) return;
    void engine.counting.isShort().then((short) => {
      if (short) void count();
    });
    const turns = turn;
    return () => void turns.current++;
  }, [ticks, running]);
  useLineCounts(counted);
  const stale = counted !== undefined && counted.ticks !== ticks;
  return (
    <Box data-testid="counts">
      {refused && <Refusal>{refused}</Refusal>}
      {(!counted || stale || ticks === 0) && (
        <Controls mt="0">
          <Button onClick={() => void count()} disabled={running || ticks === 0} data-testid="count">
            Count up to here
          </Button>
          <Hint>
            {ticks === 0
              ? 'Nothing has run yet.'
              : stale
                ? `These are of tick ${number(counted.ticks)}.`
                : 'A long run is counted when you ask; any command gives it up.'}
          </Hint>
        </Controls>
      )}
      {counted && counted.ticks > 0 && <Counted counted={counted} />}
    </Box>
  );
}

/** How often a line was executed; of one that decides, how often it jumped. */
function besideLines({ lines, branches }: CountedRun): Map<number, string> {
  const list = new Map(lines.map(([line, count]) => [line, `${number(count)}×`]));
  for (const { line, taken, notTaken } of branches)
    if (line !== undefined) list.set(line, `${number(taken + notTaken)}×, ${number(taken)} taken`);
  return list;
}

/** Beside the source, for as long as this tool is open. */
function useLineCounts(counted: CountedRun | undefined): void {
  const editor = useEditor();
  useEffect(() => {
    const { view } = editor;
    if (!view || !counted) return;
    view.dispatch({ effects: setLineCounts.of(besideLines(counted)) });
    return () => {
      if (editor.view === view) view.dispatch({ effects: setLineCounts.of(new Map()) });
    };
  }, [editor, counted]);
}

function Counted({ counted }: { counted: CountedRun }) {
  const { ticks, instructions, mix, phases, memory, branches, deepest } = counted;
  return (
    <>
      <section>
        <Heading>{`${number(instructions)} instructions, ${number(ticks)} ticks`}</Heading>
        <Suspense fallback={<Hint>The chart is being loaded.</Hint>}>
          <Bars label="Instructions" list={mix} />
          <Heading>Ticks by phase</Heading>
          <Bars label="Ticks by phase" list={phases} />
        </Suspense>
      </section>
      <section>
        <Heading>Memory</Heading>
        <Table.Root>
          <Table.Header>
            <Table.Row>
              <Table.ColumnHeader>memory</Table.ColumnHeader>
              <Table.ColumnHeader>reads, fetches among them</Table.ColumnHeader>
              <Table.ColumnHeader>writes</Table.ColumnHeader>
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {memory.map(({ name, reads, writes }) => (
              <Table.Row key={name} data-memory={name}>
                <Table.Cell>{name}</Table.Cell>
                <Table.Cell>{number(reads)}</Table.Cell>
                <Table.Cell>{number(writes)}</Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
        {deepest > 0 && <Hint as="p">{`At most ${deepest} ${deepest === 1 ? 'call was' : 'calls were'} open at once.`}</Hint>}
        <Heading>Branches</Heading>
        {branches.length === 0 ? <Hint as="p">No instruction that can go two ways was executed.</Hint> : <Branches list={branches} />}
      </section>
    </>
  );
}

function Branches({ list }: { list: readonly CountedBranch[] }) {
  const editor = useEditor();
  return (
    <Table.Root data-testid="branches">
      <Table.Header>
        <Table.Row>
          <Table.ColumnHeader>where</Table.ColumnHeader>
          <Table.ColumnHeader>instruction</Table.ColumnHeader>
          <Table.ColumnHeader>taken</Table.ColumnHeader>
          <Table.ColumnHeader>not taken</Table.ColumnHeader>
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {list.map(({ address, where, line, text, taken, notTaken }) => (
          <Table.Row key={address} data-branch={address}>
            <Table.Cell>
              {line === undefined ? (where ?? address) : <Button onClick={() => editor.goToLine(line)}>{`line ${line}`}</Button>}
            </Table.Cell>
            <Table.Cell fontFamily="mono">{text}</Table.Cell>
            <Table.Cell>{taken === 0 ? 'never' : number(taken)}</Table.Cell>
            <Table.Cell>{notTaken === 0 ? 'never' : number(notTaken)}</Table.Cell>
          </Table.Row>
        ))}
      </Table.Body>
    </Table.Root>
  );
}
