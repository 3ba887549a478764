/** The system program of the machine, folded until the run is in it. A press on a line's number stops the run there. */
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Machine } from '@zettak/core/machine/machine';
import type { Row } from '@zettak/core/image/program';
import { addressText } from '@zettak/core/engine/names';
import { shownDigits } from '@zettak/core/text/number';
import { nextId } from './stops';
import { setStops, useBench } from './store';

export function SystemLines({ machine }: { machine: Machine }) {
  const rows = useBench((state) => state.systemRows);
  const executing = useBench((state) => state.view?.executing?.address ?? -1);
  const next = useBench((state) => (state.view && state.view.status !== 'halted' ? state.view.next.address : -1));
  const { system } = machine;
  const within = (address: number): boolean => system !== undefined && address >= system.from && address <= system.to;
  const present = within(executing) || within(next);
  const [open, setOpen] = useState(present);
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => setOpen(present), [present]);
  useEffect(() => {
    if (!open) return;
    // What is under way is seen in any case, what comes next where both fit.
    for (const mark of ['.next', '.executing']) list.current?.querySelector(mark)?.scrollIntoView({ block: 'nearest' });
  }, [open, executing, next]);
  const lines = useMemo(() => system?.source.split('\n') ?? [], [system]);
  const byLine = useMemo(() => new Map(rows.map((each) => [each.line, each])), [rows]);
  if (!system) return null;
  return (
    <details className="system-lines" open={open} onToggle={(event) => setOpen(event.currentTarget.open)} data-testid="system-lines">
      <summary>
        System program, {addressText(machine, system.from)} to {addressText(machine, system.to)}
      </summary>
      <ol ref={list} tabIndex={0} aria-label="Lines of the system program">
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
  const stops = useBench((state) => state.stops);
  const place = address === undefined ? '' : addressText(machine, address);
  const stop = stops.find((each) => each.kind === 'address' && each.text === place);
  const toggle = (): void =>
    setStops(
      stop
        ? stops.filter((each) => each !== stop)
        : [...stops, { id: nextId(stops), kind: 'address', text: place, enabled: true, ignore: 0, print: '' }],
    );
  const holds = (where: number): boolean => address !== undefined && where >= address && where < address + Math.max(1, row!.words.length);
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
