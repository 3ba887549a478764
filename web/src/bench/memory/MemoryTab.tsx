/** Windows on memory at the foot of the bench: looked through, followed, searched, typed into. */
import { Flex } from '@chakra-ui/react';
import { Plus, X } from 'lucide-react';
import { useEffect, useId, useMemo, useRef, useState, type FormEvent } from 'react';
import { placeText } from '@zettak/core/machine/model/describe';
import type { Machine } from '@zettak/core/machine/model/machine';
import { withRole } from '@zettak/core/machine/model/machine';
import { canPair, findCells, PAIRINGS, pairValue, readCells, type Pairing } from '@zettak/core/session/cellText';
import type { Heat } from '@zettak/core/session/counting';
import { isRunning, type View } from '@zettak/core/session/protocol';
import { itemAt } from '@zettak/core/text/itemAt';
import { shownNumber } from '@zettak/core/text/number';
import { touchedCells } from '../../datapath/touched';
import { engine } from '../../session/engine';
import { Button } from '../../ui/Button';
import { Check } from '../../ui/Check';
import { Choice } from '../../ui/Choice';
import { Entry } from '../../ui/Field';
import { Hint, Refusal } from '../../ui/Panel';
import { Segments } from '../../ui/Segments';
import { useDocument } from '../document';
import { baseRead, chosenBase, shownAs } from '../looks';
import { useLast, useRun, useWindowed } from '../run';
import { CellTable } from './CellTable';
import { heatWords, type HeatCounts } from './cells';
import { CodeChart } from './CodeChart';
import { useEditing, type Editing } from './editing';
import { cellWords } from './holds';
import { addWindow, changeWindow, closeWindow, FOLLOWED, MOST_WINDOWS, useWindows, type Followed, type MemoryWindow } from './windows';

const FOLLOW_WORDS: Readonly<Record<Followed, string>> = {
  nothing: 'follows nothing',
  PC: 'follows PC',
  stack: 'follows the stack',
  writes: 'follows writes',
  reads: 'follows reads',
};

export function MemoryTab() {
  const machine = useDocument((state) => state.machine);
  const shown = useRun((state) => state.view !== undefined);
  const windows = useWindows((state) => state.windows);
  if (!machine || !shown) return <Hint as="p">Load a program first.</Hint>;
  return (
    <Flex height="100%" minHeight="0" data-testid="memory-windows">
      {windows.map((each) => (
        <MemoryPane key={each.id} machine={machine} pane={each} only={windows.length === 1} full={windows.length === MOST_WINDOWS} />
      ))}
    </Flex>
  );
}

/** Where a window is kept, by what it follows. */
function followedAt(machine: Machine, view: View, space: number, follow: Followed, touched: ReadonlyMap<number, 'read' | 'written'>) {
  const program = space === machine.programSpace;
  const pointer =
    machine.stacks.find((each) => each.space === space)?.pointer ?? (program ? withRole(machine, 'stack pointer') : undefined);
  switch (follow) {
    case 'nothing':
      return undefined;
    case 'PC':
      return program ? view.next.address : undefined;
    case 'stack':
      return pointer === undefined ? undefined : Math.min(itemAt(view.registers, pointer), itemAt(view.spaces, space).cells.length - 1);
    case 'writes':
      return [...touched].findLast(([, how]) => how === 'written')?.[0];
    case 'reads':
      return [...touched].findLast(([, how]) => how === 'read')?.[0];
    default:
      return follow satisfies never;
  }
}

/** Its head and frame stay as they are from view to view. */
function MemoryPane({ machine, pane, only, full }: { machine: Machine; pane: MemoryWindow; only: boolean; full: boolean }) {
  const space = pane.space < machine.spaces.length ? pane.space : machine.programSpace;
  const { title } = itemAt(machine.spaces, space);
  const order = canPair(itemAt(machine.spaces, space), machine.radix) ? pane.pairs : undefined;
  const editing = useEditing({ machine, space, base: pane.base, order, id: useId() });
  const frame = useRef<HTMLDivElement>(null);
  const room = useRoom(frame);
  return (
    <Flex
      ref={frame}
      direction="column"
      flex="1"
      minWidth="0"
      borderInlineEnd="1px solid"
      borderColor="line"
      role="group"
      aria-label={`Window on ${title}`}
      data-testid="memory-window"
    >
      <Head {...{ machine, pane, space, order, editing, only, full }} />
      <Contents {...{ machine, pane, space, order, editing, room }} />
    </Flex>
  );
}

interface ContentsProps {
  readonly machine: Machine;
  readonly pane: MemoryWindow;
  readonly space: number;
  readonly order: Pairing | undefined;
  readonly editing: Editing;
  readonly room: number;
}

function Contents({ machine, pane, space, order, editing, room }: ContentsProps) {
  const view = useWindowed();
  const last = useLast('windowed');
  const touched = useMemo(() => touchedCells(last, space), [last, space]);
  const base = chosenBase(machine, pane.base);
  const now = followedAt(machine, view, space, pane.follow, touched);
  // A tick that touches nothing leaves the window where it is.
  const held = useRef(now);
  if (now !== undefined) held.current = now;
  // Of a quick run some ticks are not drawn here; where they wrote is followed all the same.
  useEffect(
    () =>
      useRun.subscribe(({ view: each }, before) => {
        if (!each || each === before.view) return;
        held.current = followedAt(machine, each, space, pane.follow, touchedCells(each.last, space)) ?? held.current;
      }),
    [machine, space, pane.follow],
  );
  const follows = pane.follow === 'nothing' ? undefined : held.current;
  const { title } = itemAt(machine.spaces, space);
  const heat = useHeat(pane.heat === true)?.[space];
  return (
    <>
      <CellTable {...{ machine, view, space, base, order, touched, editing, follows, room, heat }} list={pane.list} name={title} />
      <Told {...{ machine, view, space, editing, heat }} />
    </>
  );
}

/** What the run has done to every cell, once it stands still; a long run is counted, too, unless another command comes first. */
function useHeat(wanted: boolean): Heat | undefined {
  const ticks = useRun((state) => state.windowed?.ticks ?? 0);
  const running = useRun((state) => isRunning(state.view?.status));
  const [heat, setHeat] = useState<Heat>();
  useEffect(() => {
    if (!wanted || running) return;
    let live = true;
    void engine.counting.heat().then((found) => live && setHeat('refused' in found ? undefined : found));
    return () => {
      live = false;
    };
  }, [wanted, ticks, running]);
  return wanted ? heat : undefined;
}

/** How many characters of a cell's text an element has room for beside an address. */
function useRoom(frame: React.RefObject<HTMLDivElement | null>): number {
  const [room, setRoom] = useState(60);
  useEffect(() => {
    const { current } = frame;
    if (!current) return;
    const observer = new ResizeObserver(([entry]) => entry && setRoom(Math.floor((entry.contentRect.width - 90) / 9.2)));
    observer.observe(current);
    return () => observer.disconnect();
  }, [frame]);
  return room;
}

interface HeadProps {
  readonly machine: Machine;
  readonly pane: MemoryWindow;
  readonly space: number;
  readonly order: Pairing | undefined;
  readonly editing: Editing;
  readonly only: boolean;
  readonly full: boolean;
}

function Head({ machine, pane, space, order, editing, only, full }: HeadProps) {
  const { id } = pane;
  const base = chosenBase(machine, pane.base);
  const [codes, setCodes] = useState(false);
  return (
    <Flex align="center" gap="8px" px="10px" py="3px" wrap="wrap" bg="sea" fontSize="13px" flexShrink="0">
      {machine.spaces.length > 1 && (
        <Choice
          label="Memory of this window"
          value={space}
          choose={(value) => changeWindow(id, { space: Number(value) })}
          options={machine.spaces.map((each, value) => ({ value, says: each.title }))}
          testId="window-space"
        />
      )}
      <Segments label="Base of this window" value={base} choose={(value) => changeWindow(id, { base: value })} options={shownAs(machine)} />
      {canPair(itemAt(machine.spaces, space), machine.radix) && (
        <Choice
          label="How cells are taken together"
          value={order ?? 'each'}
          choose={(value) => changeWindow(id, { pairs: PAIRINGS.find((each) => each === value) })}
          options={[{ value: 'each', says: 'each cell' }, ...PAIRINGS.map((value) => ({ value, says: `pairs, ${value}` }))]}
          testId="pairs"
        />
      )}
      <Check on={pane.list} change={(list) => changeWindow(id, { list })} testId="as-list">
        list
      </Check>
      <Check on={pane.heat === true} change={(heat) => changeWindow(id, { heat })} testId="heat">
        heat
      </Check>
      <Choice
        label="What this window follows"
        value={pane.follow}
        choose={(value) => changeWindow(id, { follow: value as Followed })}
        options={FOLLOWED.map((value) => ({ value, says: FOLLOW_WORDS[value] }))}
        testId="follow"
      />
      <GoTo {...{ machine, space, editing }} base={pane.base} />
      <Find {...{ machine, space, editing, order }} base={pane.base} />
      <Button look="link" onClick={() => setCodes(true)} data-testid="codes">
        codes
      </Button>
      <CodeChart open={codes} close={() => setCodes(false)} />
      <Flex ms="auto" gap="4px">
        {!full && (
          <Button px="6px" onClick={addWindow} aria-label="One more window on memory" tip="One more window" data-testid="add-window">
            <Plus size={14} aria-hidden />
          </Button>
        )}
        {!only && (
          <Button
            px="6px"
            onClick={() => closeWindow(id)}
            aria-label="Close this window"
            tip="Close this window"
            data-testid="close-window"
          >
            <X size={14} aria-hidden />
          </Button>
        )}
      </Flex>
    </Flex>
  );
}

interface SeekProps {
  readonly machine: Machine;
  readonly space: number;
  readonly editing: Editing;
  readonly base: MemoryWindow['base'];
}

function GoTo({ machine, space, editing, base }: SeekProps) {
  const [text, setText] = useState('');
  const go = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    if (text.trim() === '') return;
    const found = await engine.hand.cellMeant(space, text, baseRead(machine, base));
    if ('refused' in found) return editing.tell({ text: found.refused, refused: true });
    editing.choose(found.address);
  };
  return (
    <form onSubmit={(event) => void go(event)}>
      <Entry
        value={text}
        maxLength={60}
        width="104px"
        fontFamily="mono"
        placeholder="go to …"
        aria-label="Go to an address, a name, or where a register points; Enter goes there"
        onChange={(event) => setText(event.target.value)}
        data-testid="go-to"
      />
    </form>
  );
}

/** Enter goes on to the next place that holds it. */
function Find({ machine, space, editing, base, order }: SeekProps & { order: Pairing | undefined }) {
  const [text, setText] = useState('');
  const find = (event: FormEvent): void => {
    event.preventDefault();
    const memory = useRun.getState().view?.spaces[space];
    if (!memory || text.trim() === '') return;
    const read = readCells(machine, space, text, baseRead(machine, base), order);
    if ('refused' in read) return editing.tell({ text: read.refused, refused: true });
    const found = findCells(memory, read.values, editing.chosen.head + (order ? 2 : 1));
    if (found === undefined) return editing.tell({ text: `No cell of this memory holds ${text.trim()}.`, refused: true });
    editing.choose(found);
    if (read.values.length > 1) editing.choose(found + read.values.length - 1, true);
  };
  return (
    <form onSubmit={find}>
      <Entry
        value={text}
        maxLength={200}
        width="130px"
        fontFamily="mono"
        placeholder='find 9E 2B, "ebb"'
        aria-label="Find values, or characters in double quotes; Enter goes on to the next"
        onChange={(event) => setText(event.target.value)}
        data-testid="find"
      />
    </form>
  );
}

/** What the chosen cell holds in every reading, or what is being said of what is typed. */
interface ToldProps {
  readonly machine: Machine;
  readonly view: View;
  readonly space: number;
  readonly editing: Editing;
  readonly heat: ReadonlyMap<number, HeatCounts> | undefined;
}

function Told({ machine, view, space, editing, heat }: ToldProps) {
  const { said, chosen } = editing;
  const { width } = itemAt(machine.spaces, space);
  const labels = useRun((state) => state.labels);
  const routines = useRun((state) => state.routines);
  if (said?.refused)
    return (
      <Refusal role="alert" px="10px" py="2px" data-testid="cell-told">
        {said.text}
      </Refusal>
    );
  const { head, anchor } = chosen;
  const { cells: values } = itemAt(view.spaces, space);
  const place = placeText(machine, { space, address: head });
  const [value, next] = [values[head] ?? 0, values[head + 1]];
  const joined = (order: Pairing): string =>
    shownNumber(pairValue(value, next ?? 0, { size: machine.radix ** width, order }), 2 * width, machine);
  const pair =
    next !== undefined && canPair(itemAt(machine.spaces, space), machine.radix)
      ? `with the next cell ${joined('high first')}, low first ${joined('low first')}`
      : '';
  const words = [
    ...cellWords(machine, { view, labels, routines }, { space, address: head }),
    heat?.get(head) && heatWords(heat.get(head)!),
    anchor === head ? pair : `${Math.abs(head - anchor) + 1} cells chosen; Ctrl Enter fills them`,
  ];
  return (
    <div className="cell-told" role="status" data-testid="cell-told">
      {said ? (
        said.text
      ) : (
        <>
          <b>{place}</b> {words.filter(Boolean).join(', ')}
        </>
      )}
    </div>
  );
}
