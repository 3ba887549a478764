/** Memory on the bench: one of the machine's memories, in one of the bases. */
import { Flex } from '@chakra-ui/react';
import { useMemo } from 'react';
import type { Row } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import { touchedCells } from '../../datapath/touched';
import { Choice } from '../../ui/Choice';
import { PanelHead, PanelTitle } from '../../ui/Panel';
import { Segments } from '../../ui/Segments';
import { chosenBase, setLooks, shownAs, useLooks, type ValueBase } from '../looks';
import { MemoryGrid } from './MemoryGrid';
import { PanelNotes } from '../PinnedNotes';
import { useLast, useValued } from '../run';
import { useText } from '../text';
import { itemAt } from '@zettak/core/text/itemAt';

const chooseSpace = (space: string): void => setLooks({ space: Number(space) });
const chooseBase = (base: ValueBase): void => setLooks({ base });

/** Its head stays as it is from view to view; the cells below it follow the run. */
export function Memory({ machine }: { machine: Machine }) {
  const base = useLooks((state) => state.base);
  const chosen = useLooks((state) => state.space);
  const space = chosen !== undefined && chosen < machine.spaces.length ? chosen : machine.programSpace;
  const { title } = itemAt(machine.spaces, space);
  const shownBase = chosenBase(machine, base);
  return (
    <Flex direction="column" flex="1 1 190px" minHeight="150px">
      <PanelHead justifyContent="space-between">
        {machine.spaces.length === 1 ? (
          <PanelTitle>{itemAt(title, 0).toUpperCase() + title.slice(1)}</PanelTitle>
        ) : (
          <Choice
            look="head"
            label="Memory shown"
            testId="space"
            value={space}
            choose={chooseSpace}
            options={machine.spaces.map((each, value) => ({ value, says: each.title }))}
          />
        )}
        <Segments label="Base of memory" testId="bases" value={shownBase} choose={chooseBase} options={shownAs(machine)} />
      </PanelHead>
      <PanelNotes panel="memory" />
      <Cells {...{ machine, space }} base={shownBase} />
    </Flex>
  );
}

/** The grid, with what the last tick touched and the line under the cursor. */
function Cells({ machine, space, base }: { machine: Machine; space: number; base: ValueBase }) {
  const view = useValued();
  const last = useLast();
  const touched = useMemo(() => touchedCells(last, space), [last, space]);
  const cursorLine = useLooks((state) => state.cursorLine);
  const cursorRow = useText((state) => state.listing.rows[cursorLine - 1]);
  const cursor = cursorCells(cursorRow, machine, space);
  return <MemoryGrid {...{ machine, view, space, touched, cursor, base }} />;
}

/** First cell of the line under the cursor, and the one behind its last. */
function cursorCells(row: Row | undefined, machine: Machine, space: number): readonly [from: number, to: number] {
  if (row?.address === undefined || (row.space ?? machine.programSpace) !== space) return [0, 0];
  return [row.address, row.address + Math.max(row.words.length, row.size ?? 0)];
}
