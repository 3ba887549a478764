/** The table of sets: what each is given, what is expected and what came, a row each; typed in place, pasted from a spreadsheet. */
import { Box } from '@chakra-ui/react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Seen, TrialRow } from '@zettak/core/trials/judge/row';
import type { SetProblem } from '@zettak/core/trials/sets/read';
import { entryOf, type TrialSet } from '@zettak/core/trials/sets/table';
import { Hint } from '../ui/Panel';
import { addSet, enter, isFresh, paste, renameSet, changeSet, wholeRow } from './acts';
import { ColumnHead } from './ColumnHead';
import { SetField } from './SetField';
import { columnsOf, useTrials, type KeptRow } from './state';
import { Verdict } from './Verdict';
import './trials.css';

const ROW = 46;
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
  const items = virtual.getVirtualItems();
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
  const columns = 1 + given.length + expected.length + 4;
  return (
    <Box ref={room} className="set-room" tabIndex={-1} data-testid="set-room">
      <table
        className="sets"
        aria-rowcount={table.sets.length + 1}
        aria-label="Sets"
        style={{ width: `max(100%, ${widths.reduce((sum, each) => sum + each, 0)}px)` }}
      >
        <colgroup>
          {widths.map((width, at) => (
            <col key={at} style={{ width }} />
          ))}
        </colgroup>
        <thead>
          <tr>
            <th scope="col" rowSpan={2} className="name">
              set, and what it is for
            </th>
            <th scope="colgroup" colSpan={given.length + 1}>
              given
            </th>
            <th scope="colgroup" colSpan={expected.length + 1}>
              expected → seen
            </th>
            <th scope="col">{(flags ?? []).map((each) => each.name).join(' ')}</th>
            <th scope="col" rowSpan={2}>
              ticks
            </th>
            <th scope="col" rowSpan={2}>
              <span>verdict</span>
            </th>
          </tr>
          <tr>
            {given.map((place) => (
              <ColumnHead key={place} of="given" place={place} />
            ))}
            <ColumnHead of="given" />
            {expected.map((place) => (
              <ColumnHead key={place} of="expected" place={place} />
            ))}
            <ColumnHead of="expected" />
            <th scope="col">
              <Hint>at the end</Hint>
            </th>
          </tr>
        </thead>
        <tbody>
          {before > 0 && <tr style={{ height: before }} aria-hidden />}
          {items.map(({ index }) => {
            const one = table.sets[index]!;
            return (
              <SetRow
                key={one.name}
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
          <NewSet columns={columns} />
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
      className={`set${chosen ? ' chosen' : ''}${stale ? ' stale' : ''}`}
      aria-rowindex={at + 2}
      aria-selected={chosen}
      data-set={one.name}
      onFocus={() => useTrials.setState({ chosen: one.name })}
      onClick={() => useTrials.setState({ chosen: one.name })}
    >
      <th scope="row" className="name">
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
        <td key={place} className={wrongAt('given', place) ? 'wrong' : ''}>
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
      <td className={script.length > 0 ? 'wrong script' : 'script'}>
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
      <td className="hidden-mark">{one.hidden && <span title="Not shown to students">hidden</span>}</td>
      <td className="flags">{row && <RowFlags row={row} />}</td>
      <td className="ticks">{row && row.verdict !== 'unread' ? row.ticks.toLocaleString('en-US') : ''}</td>
      <td className="verdict">
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
    <td className={wrong ? 'wrong' : differs ? 'differs' : ''} data-differs={differs || undefined}>
      {children}
      {seen && (differs || seen.expected === undefined || RANGES.test(seen.expected)) && (
        <span className="seen" title={`${seen.column} is ${seen.seen}`}>
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
  return (
    <>
      <span className="bits" aria-label={row.flags.map(({ name, value }) => `${name} ${value}`).join(', ')}>
        {row.flags.map(({ name, value, by }) => (
          <b key={name} className={value ? 'one' : ''} title={by ? `${name} ${value}, set by ${by}` : `${name} ${value}`}>
            {value}
          </b>
        ))}
      </span>
      {setters.length > 0 && <span className="by">{setters.length === 1 ? setters[0] : `${setters[0]} + ${setters.length - 1}`}</span>}
    </>
  );
}

const NewSet = memo(function NewSet({ columns }: { columns: number }) {
  const [name, setName] = useState('');
  return (
    <tr className="new">
      <td colSpan={columns + 1}>
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
