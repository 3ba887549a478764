/** Lines that the program's own text does not show: of the system program and of parts, folded until the run is in them. */
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { IncludedPart, Row } from '@zettak/core/image/program';
import { addressText } from '@zettak/core/engine/tell/names';
import { shownDigits } from '@zettak/core/text/number';
import { follow } from '../ui/follow';
import { withAddress } from './stops';
import { useDocument } from './document';
import { setStops, useRun } from './run';

/** The system program of the machine. */
export function SystemLines({ machine }: { machine: Machine }) {
  const rows = useDocument((state) => state.systemRows);
  const { system } = machine;
  if (!system) return null;
  const title = `System program, ${addressText(machine, system.from)} to ${addressText(machine, system.to)}`;
  return <FoldedLines {...{ machine, rows, title }} source={system.source} name="the system program" testId="system-lines" />;
}

/** The parts that the loaded program takes in. */
export function PartLines({ machine }: { machine: Machine }) {
  const parts = useRun((state) => state.parts);
  return parts.map((each) => (
    <FoldedLines
      key={each.name}
      {...{ machine, rows: each.rows, source: each.source, title: titleOf(machine, each) }}
      name={`the part ${each.name}`}
      testId={`part-lines ${each.name}`}
    />
  ));
}

function titleOf(machine: Machine, { name, line, rows }: IncludedPart): string {
  const own = rows.filter((each) => each.address !== undefined && each.space === undefined && each.words.length > 0);
  const from = Math.min(...own.map((each) => each.address!));
  const to = Math.max(...own.map((each) => each.address! + each.words.length - 1));
  const where = own.length === 0 ? 'no cells' : `${addressText(machine, from)} to ${addressText(machine, to)}`;
  return `Part “${name}” of line ${line}, ${where}`;
}

interface Folded {
  readonly machine: Machine;
  readonly rows: readonly Row[];
  readonly source: string;
  readonly title: string;
  /** In words, for screen readers. */
  readonly name: string;
  readonly testId: string;
}

/** Whether an address is one of a row's cells. */
const holdsAddress = ({ address, space, words }: Row, where: number): boolean =>
  address !== undefined && space === undefined && where >= address && where < address + Math.max(1, words.length);

/** A press on a line's number stops the run there. */
function FoldedLines({ machine, rows, source, title, name, testId }: Folded) {
  const executing = useRun((state) => state.view?.executing?.address ?? -1);
  const next = useRun((state) => (state.view && state.view.status !== 'halted' ? state.view.next.address : -1));
  const present = rows.some((each) => each.kind === 'code' && (holdsAddress(each, executing) || holdsAddress(each, next)));
  const [open, setOpen] = useState(present);
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => setOpen(present), [present]);
  useEffect(() => {
    if (!open) return;
    const mark = (name: string) => () => list.current?.querySelector(name);
    follow(list.current, mark('.executing'), mark('.next'));
  }, [open, executing, next]);
  const lines = useMemo(() => source.split('\n'), [source]);
  const byLine = useMemo(() => new Map(rows.map((each) => [each.line, each])), [rows]);
  return (
    <details className="folded-lines" open={open} onToggle={(event) => setOpen(event.currentTarget.open)} data-testid={testId}>
      <summary>{title}</summary>
      <ol ref={list} tabIndex={0} aria-label={`Lines of ${name}`}>
        {lines.map((text, at) => (
          <Line key={at} {...{ machine, text, executing, next }} number={at + 1} row={byLine.get(at + 1)} />
        ))}
      </ol>
    </details>
  );
}

interface LineParts {
  readonly machine: Machine;
  readonly number: number;
  readonly text: string;
  readonly row: Row | undefined;
  readonly executing: number;
  readonly next: number;
}

/** Words shown beside a line. */
const WORDS = 2;

function Line({ machine, number, text, row, executing, next }: LineParts) {
  const { width, addressWidth } = machine.spaces[machine.programSpace]!;
  const address = row?.address;
  const stops = useRun((state) => state.stops);
  const place = address === undefined ? '' : addressText(machine, address);
  const stop = stops.find((each) => each.kind === 'address' && each.text === place);
  const toggle = (): void => setStops(withAddress(stops, place));
  const holds = (where: number): boolean => row !== undefined && holdsAddress(row, where);
  const classes = [holds(executing) ? 'executing' : '', holds(next) ? 'next' : ''].join(' ').trim();
  return (
    <li className={classes || undefined} aria-current={holds(executing) ? 'step' : undefined}>
      {row?.kind === 'code' ? (
        <button type="button" data-bench aria-pressed={stop !== undefined} aria-label={`Breakpoint at ${place}`} onClick={toggle}>
          {number}
        </button>
      ) : (
        <span className="number">{number}</span>
      )}
      <span className="address">{address === undefined ? '' : shownDigits(address, addressWidth, machine.radix)}</span>
      <span className="words">
        {(row?.words ?? [])
          .slice(0, WORDS)
          .map((each) => shownDigits(each, width, machine.radix))
          .join(' ')}
      </span>
      <code>{text}</code>
    </li>
  );
}
