/** The table of sets: what each is given, what is expected and what came, a row each; typed in place, pasted from a spreadsheet. */
import { Box } from '@chakra-ui/react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Seen, TrialRow } from '@zettak/core/trials/judge/row';
import type { SetProblem } from '@zettak/core/trials/sets/read';
import { entryOf, type TrialSet } from '@zettak/core/trials/sets/table';
import { Hint } from '../ui/Panel';
import { addSet, enter, paste, renameSet, changeSet } from './editing';
import { isFresh, wholeRow } from './running';
import { ColumnHead } from './ColumnHead';
import { long, SetField } from './SetField';
import { columnsOf, useTrials, type KeptRow } from './state';
import { Verdict } from './Verdict';
import './trials.css';

/** Pixels of a row, as trials.css has them. */
const ROW = 47;
/** Rows above and below those in sight. */
const OVERSCAN = 3;

export function SetGrid() {
  const table = useTrials((state) => state.table);
  const more = useTrials((state) => state.more);
  const rows = useTrials((state) => state.rows);
  const old = useTrials((state) => state.old);
  const problems = useTrials((state) => state.problems);
  const chosen = useTrials((state) => state.chosen);
  const flags = useTrials((state) => state.tried?.facts?.machine.flags);
  const program = useTrials((state) => state.program?.id);
  const room = useRef<HTMLDivElement>(null);
  const given = useMemo(() => columnsOf(table, more, 'given'), [table, more]);
  const expected = useMemo(() => columnsOf(table, more, 'expected'), [table, more]);
  const virtual = useVirtualizer({
    count: table.sets.length,
    getScrollElement: () => room.current,
    estimateSize: () => ROW,
    overscan: OVERSCAN,
  });
  const widths = useMemo(() => widthsOf(table.sets, given, expected, flags?.length ?? 0), [table, given, expected, flags]);
  // Each row lays itself out alone; what room is left over goes to all columns alike.
  const style = {
    minWidth: widths.reduce((sum, each) => sum + each, 0),
    '--columns': widths.map((each) => `minmax(${each}px, ${each}fr)`).join(' '),
  };
  const items = virtual.getVirtualItems();
  // What is scrolled out of sight becomes what is scrolled into it: nothing is made and thrown away on the way.
  const slots = useRef(1);
  slots.current = Math.max(slots.current, items.length);
  const before = items[0]?.start ?? 0;
  const after = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  useEffect(() => {
    if (chosen !== undefined) void wholeRow(chosen);
  }, [chosen, rows]);
  const { scrollToIndex } = virtual;
  const go = useCallback(
    (row: number, column: number): void => {
      if (row < 0 || row >= useTrials.getState().table.sets.length) return;
      scrollToIndex(row);
      requestAnimationFrame(() => {
        // It becomes a field, and is selected, when it is entered.
        room.current?.querySelector<HTMLElement>(`[data-cell="${row}:${column}"]`)?.focus();
      });
    },
    [scrollToIndex],
  );
  return (
    <Box
      ref={room}
      className="set-room"
      tabIndex={-1}
      data-testid="set-room"
      // Names stay in sight where the table is moved across; each that does costs the browser a layer.
      onScroll={({ currentTarget }) => currentTarget.toggleAttribute('data-across', currentTarget.scrollLeft > 0)}
    >
      <table className="sets" role="table" aria-rowcount={table.sets.length + 1} aria-label="Sets" style={style}>
        <thead role="rowgroup">
          <tr role="row">
            <th role="columnheader" className="name tall">
              set, and what it is for
            </th>
            <th role="columnheader" style={{ gridColumn: `span ${given.length + 1}` }}>
              given
            </th>
            <th role="columnheader" style={{ gridColumn: `span ${expected.length + 1}` }}>
              expected → seen
            </th>
            <th role="columnheader">{(flags ?? []).map((each) => each.name).join(' ')}</th>
            <th role="columnheader" className="tall">
              ticks
            </th>
            <th role="columnheader" className="tall">
              verdict
            </th>
          </tr>
          <tr role="row">
            {given.map((place) => (
              <ColumnHead key={place} of="given" place={place} />
            ))}
            <ColumnHead of="given" />
            {expected.map((place) => (
              <ColumnHead key={place} of="expected" place={place} />
            ))}
            <ColumnHead of="expected" />
            <th role="columnheader">
              <Hint>at the end</Hint>
            </th>
          </tr>
        </thead>
        <tbody role="rowgroup" key={program}>
          {before > 0 && <tr style={{ height: before }} aria-hidden />}
          {items.map(({ index }) => {
            const one = table.sets[index]!;
            return (
              <SetRow
                key={index % slots.current}
                at={index}
                one={one}
                given={given.join('\n')}
                expected={expected.join('\n')}
                kept={rows.get(one.name)}
                old={old}
                problems={problems[index]}
                chosen={chosen === one.name}
                go={go}
              />
            );
          })}
          {after > 0 && <tr style={{ height: after }} aria-hidden />}
          <NewSet />
        </tbody>
      </table>
    </Box>
  );
}

/** Pixels of a letter, and of what stands around it in a cell. */
const [LETTER, AROUND] = [8.5, 21];
const [LEAST, MOST] = [7, 26];

/** So that nothing moves while rows come and go: as wide as the longest entry, within bounds. */
function widthsOf(sets: readonly TrialSet[], given: readonly string[], expected: readonly string[], flags: number): number[] {
  const letters = (of: 'given' | 'expected', place: string): number =>
    Math.min(MOST, Math.max(LEAST, place.length + 2, ...sets.map((each) => entryOf(each[of], place).length)));
  const wide =
    (of: 'given' | 'expected') =>
    (place: string): number =>
      letters(of, place) * LETTER + AROUND;
  const over = sets.some((each) => each.script.trim() !== '') ? 78 : 30;
  const hidden = sets.some((each) => each.hidden) ? 62 : 30;
  return [
    218,
    ...given.map(wide('given')),
    over,
    ...expected.map(wide('expected')),
    hidden,
    Math.max(flags > 0 ? 196 : 60, flags * 16.5 + 24),
    66,
    150,
  ];
}

interface RowProps {
  readonly at: number;
  readonly one: TrialSet;
  /** Places, a line each, so that equal lists are equal. */
  readonly given: string;
  readonly expected: string;
  readonly kept: KeptRow | undefined;
  readonly old: boolean;
  readonly problems: readonly SetProblem[] | undefined;
  readonly chosen: boolean;
  readonly go: (row: number, column: number) => void;
}

const listed = (lines: string): string[] => (lines === '' ? [] : lines.split('\n'));

const SetRow = memo(function SetRow({ at, one, given, expected, kept, old, problems = [], chosen, go }: RowProps) {
  const row = kept?.row;
  const stale = kept !== undefined && (old || !isFresh(kept, one));
  const [inputs, outputs] = [listed(given), listed(expected)];
  const wrongAt = (where: SetProblem['where'], place: string): string | undefined =>
    problems.find((each) => each.where === where && each.place === place)?.sentence;
  const script = problems.filter((each) => each.where === 'script');
  return (
    <tr
      role="row"
      className={`set${chosen ? ' chosen' : ''}${stale ? ' stale' : ''}`}
      aria-rowindex={at + 2}
      aria-selected={chosen}
      data-set={one.name}
      data-verdict={problems.length > 0 ? 'unread' : row?.verdict}
      onFocus={() => useTrials.setState({ chosen: one.name })}
      onClick={() => useTrials.setState({ chosen: one.name })}
    >
      <th role="rowheader" className="name">
        <SetField at={at} column={0} label="Name of the set" value={one.name} take={(text) => renameSet(at, text)} go={go} />
        <SetField
          at={at}
          column={-1}
          label={`What ${one.name} is for`}
          value={one.purpose}
          quiet
          take={(text) => (changeSet(at, { purpose: text }), true)}
          go={go}
        />
      </th>
      {inputs.map((place, index) => (
        <td role="cell" key={place} className={wrongAt('given', place) ? 'wrong' : ''}>
          <SetField
            at={at}
            column={1 + index}
            label={`${place} of ${one.name}`}
            value={entryOf(one.given, place)}
            hint="as it is"
            wrong={wrongAt('given', place)}
            reads={{ of: 'given', place }}
            take={(text) => (enter(at, 'given', place, text), true)}
            go={go}
          />
        </td>
      ))}
      <td role="cell" className={script.length > 0 ? 'wrong script' : 'script'}>
        {one.script.trim() !== '' && <span title={script[0]?.sentence ?? one.script}>over time</span>}
      </td>
      {outputs.map((place, index) => (
        <ExpectedCell key={place} seen={row?.seen.find((each) => each.column === place)} wrong={wrongAt('expected', place)}>
          <SetField
            at={at}
            column={1 + inputs.length + index}
            label={`${place} expected of ${one.name}`}
            value={entryOf(one.expected, place)}
            hint="any"
            wrong={wrongAt('expected', place)}
            reads={{ of: 'expected', place }}
            take={(text) => (enter(at, 'expected', place, text), true)}
            go={go}
          />
        </ExpectedCell>
      ))}
      <td role="cell" className="hidden-mark">
        {one.hidden && <span title="Not shown to students">hidden</span>}
      </td>
      <td role="cell" className="flags">
        {row && <RowFlags row={row} />}
      </td>
      <td role="cell" className="ticks">
        {row && row.verdict !== 'unread' ? row.ticks.toLocaleString('en-US') : ''}
      </td>
      <td role="cell" className="verdict">
        <Verdict row={row} stale={stale} problems={problems} />
      </td>
    </tr>
  );
});

/** What is expected leaves open what it will be. */
const RANGES = /^any$|\sto\s|^at\s/i;

function ExpectedCell({ seen, wrong, children }: { seen: Seen | undefined; wrong: string | undefined; children: React.ReactNode }) {
  const differs = seen?.holds === false;
  return (
    <td role="cell" className={wrong ? 'wrong' : differs ? 'differs' : ''} data-differs={differs || undefined}>
      {children}
      {seen && (differs || seen.expected === undefined || RANGES.test(seen.expected)) && (
        <span className={long(seen.seen, 5, 'seen')} title={`${seen.column} is ${seen.seen}`}>
          {differs ? '→ ' : ''}
          <b>{seen.seen === '' ? 'nothing' : seen.seen}</b>
        </span>
      )}
    </td>
  );
}

/** The flags at the end, those that are 1 strong, and which instruction set the chosen ones last. */
function RowFlags({ row }: { row: TrialRow }) {
  const setters = [...new Set(row.flags.flatMap((each) => each.by ?? []))];
  const by = setters.length > 1 ? `${setters[0]} + ${setters.length - 1}` : setters[0];
  return (
    <>
      <span
        className="bits"
        role="img"
        aria-label={row.flags.map(({ name, value }) => `${name} ${value}`).join(', ')}
        title={row.flags.map((each) => `${each.name} ${each.value}${each.by ? `, set by ${each.by}` : ''}`).join('\n')}
      >
        {strong(row.flags.map((each) => each.value).join(' '))}
      </span>
      {by !== undefined && <span className={long(by, 24, 'by')}>{by}</span>}
    </>
  );
}

/** Bits as one text, with the ones strong: a row has as few elements as it can do with. */
const strong = (bits: string): React.ReactNode[] => bits.split(/(1)/).map((each, at) => (each === '1' ? <b key={at}>1</b> : each));

const NewSet = memo(function NewSet() {
  const [name, setName] = useState('');
  return (
    <tr role="row" className="new">
      <td role="cell">
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (name.trim() !== '') addSet(name);
            setName('');
          }}
        >
          <input
            value={name}
            maxLength={200}
            aria-label="Name of a new set"
            placeholder="+ a set: type a name, or paste rows from a spreadsheet"
            data-testid="new-set"
            onChange={(event) => setName(event.target.value)}
            onPaste={(event) => {
              const text = event.clipboardData.getData('text/plain');
              if (!/[\t\n]/.test(text.replace(/\r?\n$/, ''))) return;
              event.preventDefault();
              paste(useTrials.getState().table.sets.length, 0, text);
            }}
          />
        </form>
      </td>
    </tr>
  );
});
