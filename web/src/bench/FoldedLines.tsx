/** Lines that the program's own text does not show: of the system program and of parts, folded until the run is in them. */
import { Box, chakra } from '@chakra-ui/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { IncludedPart, Row } from '@zettak/core/image/program';
import { addressText } from '@zettak/core/engine/tell/names';
import { shownDigits } from '@zettak/core/text/number';
import { Button } from '../ui/Button';
import { Fold } from '../ui/Fold';
import { follow } from '../ui/follow';
import { withAddress } from './breakpoints';
import { useDocument } from './document';
import { setBreakpoints, useRun } from './run';
import { itemAt } from '@zettak/core/text/itemAt';

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

function FoldedLines(folded: Folded) {
  const { title, testId, rows } = folded;
  // What is folded away is drawn anew only when the run goes in or out.
  const present = useRun(({ marked: view }) => {
    const next = view && view.status !== 'halted' ? view.next.address : -1;
    const executing = view?.executing?.address ?? -1;
    return rows.some((each) => each.kind === 'code' && (holdsAddress(each, executing) || holdsAddress(each, next)));
  });
  const [open, setOpen] = useState(present);
  useEffect(() => setOpen(present), [present]);
  return (
    <Box borderTop="1px solid" borderColor="line" fontSize="14px" flex="none" px="10px" py="4px" color="ink2">
      <Fold title={title} open={open} change={setOpen} testId={testId}>
        <Lines {...folded} />
      </Fold>
    </Box>
  );
}

function Lines({ machine, rows, source, name }: Folded) {
  const executing = useRun((state) => state.marked?.executing?.address ?? -1);
  const next = useRun((state) => (state.marked && state.marked.status !== 'halted' ? state.marked.next.address : -1));
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => {
    const mark = (name: string) => () => list.current?.querySelector(name);
    follow(list.current, mark('.executing'), mark('.next'));
  }, [executing, next]);
  const lines = useMemo(() => source.split('\n'), [source]);
  const byLine = useMemo(() => new Map(rows.map((each) => [each.line, each])), [rows]);
  return (
    <LineList ref={list} tabIndex={0} aria-label={`Lines of ${name}`}>
      {lines.map((text, at) => (
        <Line key={at} {...{ machine, text, executing, next }} number={at + 1} row={byLine.get(at + 1)} />
      ))}
    </LineList>
  );
}

const LineList = chakra('ol', {
  base: {
    listStyle: 'none',
    maxHeight: '210px',
    overflow: 'auto',
    fontFamily: 'mono',
    color: 'ink',
    '& li': {
      display: 'grid',
      gridTemplateColumns: '36px 46px minmax(50px, auto) 1fr',
      alignItems: 'baseline',
      lineHeight: '21px',
      whiteSpace: 'pre',
    },
    '& .number': { display: 'block', textAlign: 'right', paddingInlineEnd: '8px', color: 'ink3' },
    '& button.number[aria-pressed=true]': { bg: 'ink', color: 'paper' },
    '& code': { fontFamily: 'mono', fontSize: 'inherit' },
    '& .address': { color: 'address' },
    '& .words': { color: 'ink2' },
    '& .executing': { bg: 'nowPale' },
    '& .next': { boxShadow: 'inset 0 0 0 2px var(--z-colors-ink)' },
  },
});

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
  const { width, addressWidth } = itemAt(machine.spaces, machine.programSpace);
  const address = row?.address;
  const stops = useRun((state) => state.breakpoints);
  const place = address === undefined ? '' : addressText(machine, address);
  const stop = stops.find((each) => each.kind === 'address' && each.text === place);
  const toggle = (): void => setBreakpoints(withAddress(stops, place));
  const holds = (where: number): boolean => row !== undefined && holdsAddress(row, where);
  const classes = [holds(executing) ? 'executing' : '', holds(next) ? 'next' : ''].join(' ').trim();
  return (
    <li className={classes || undefined} aria-current={holds(executing) ? 'step' : undefined}>
      {row?.kind === 'code' ? (
        <Button
          look="bare"
          className="number"
          data-bench
          aria-pressed={stop !== undefined}
          aria-label={`${number}: breakpoint at ${place}`}
          onClick={toggle}
        >
          {number}
        </Button>
      ) : (
        <span className="number">{number}</span>
      )}
      <span className="address">{address === undefined ? '' : shownDigits(address, addressWidth, machine)}</span>
      <span className="words">
        {(row?.words ?? [])
          .slice(0, WORDS)
          .map((each) => shownDigits(each, width, machine))
          .join(' ')}
      </span>
      <code>{text}</code>
    </li>
  );
}
