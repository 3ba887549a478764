/** The listing of the program, or its run instruction by instruction, as a sheet to be printed by itself. */
import '../ui/sheet.css';
import { Box, Flex } from '@chakra-ui/react';
import { Printer } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { RunRow } from '@zettak/core/session/runSoFar';
import { grouped, shownNumber } from '@zettak/core/text/number';
import { itemAt } from '@zettak/core/text/itemAt';
import { ListingTable } from '../editor/ListingTable';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Check } from '../ui/Check';
import { Entry, Label } from '../ui/Field';
import { Hint } from '../ui/Panel';
import { Window } from '../ui/Window';
import { useDocument } from './document';
import { setOnPaper, useLooks, type OnPaper } from './looks';
import { useRun } from './run';
import { useText } from './text';

const TITLES: Readonly<Record<OnPaper, string>> = { listing: 'Listing', run: 'The run' };

export function Paper() {
  const what = useLooks((state) => state.onPaper);
  const machine = useDocument((state) => state.machine);
  return (
    <Window
      title={<span className="unprinted">{what ? `${TITLES[what]}, for print` : ''}</span>}
      open={what !== undefined && machine !== undefined}
      close={() => setOnPaper(undefined)}
      testId="paper"
      wide
    >
      {what && machine && <Sheet what={what} machine={machine} />}
    </Window>
  );
}

/** Instructions that are put on paper at most, about forty pages; and how many at first. */
const [MOST, FIRST] = [2000, 200];

interface Stretch {
  readonly from: string;
  readonly to: string;
}

/** Counted from 1, both in it; nothing where the one is no number, or behind the other. */
function bounds({ from, to }: Stretch, count: number): readonly [number, number] | undefined {
  const [first, last] = [from, to].map((each) => (/^\s*\d{1,9}\s*$/.test(each) ? Number(each) : 0)) as [number, number];
  return first >= 1 && last >= first && first <= count ? [first, Math.min(last, count, first + MOST - 1)] : undefined;
}

function Sheet({ what, machine }: { what: OnPaper; machine: Machine }) {
  const program = useDocument((state) => state.program?.name);
  const name = useDocument((state) => state.machineName);
  const version = useDocument((state) => state.machineVersion);
  const [count, setCount] = useState<number>();
  const [stretch, setStretch] = useState<Stretch>({ from: '1', to: String(FIRST) });
  const [why, setWhy] = useState(true);
  useEffect(() => {
    if (what === 'run') void engine.soFar.count().then(setCount);
  }, [what]);
  const shown = count === undefined ? undefined : bounds(stretch, count);
  return (
    <>
      <Flex className="unprinted" align="center" gap="10px" wrap="wrap" pb="6px">
        {what === 'run' && count !== undefined && (
          <>
            <Label>
              instructions <Bound says="First instruction on paper" of="from" {...{ stretch, setStretch }} wrong={count > 0 && !shown} /> to{' '}
              <Bound says="Last instruction on paper" of="to" {...{ stretch, setStretch }} wrong={count > 0 && !shown} />
            </Label>
            <Hint>
              of {grouped(count)}; at most {grouped(MOST)} go on paper
            </Hint>
            <Check on={why} change={setWhy} testId="paper-why">
              in words
            </Check>
          </>
        )}
        <Button ms="auto" onClick={() => window.print()} data-testid="print-paper">
          <Printer size={14} aria-hidden /> Print
        </Button>
      </Flex>
      <Box
        as="article"
        className="sheet"
        tabIndex={0}
        aria-label={TITLES[what]}
        data-testid="paper-sheet"
        css={{ '&.sheet': { py: '4px' } }}
      >
        <h2>{program}</h2>
        <div className="versions">
          <b>{TITLES[what]}</b>
          <span>
            {name}, version {version}
          </span>
          <span>{new Date().toISOString().slice(0, 10)}</span>
        </div>
        {what === 'listing' ? <Listing machine={machine} /> : <Run {...{ machine, count, shown, why }} />}
      </Box>
    </>
  );
}

interface BoundProps {
  readonly says: string;
  readonly of: keyof Stretch;
  readonly stretch: Stretch;
  readonly setStretch: (stretch: Stretch) => void;
  readonly wrong: boolean;
}

const Bound = ({ says, of, stretch, setStretch, wrong }: BoundProps) => (
  <Entry
    room="word"
    aria-label={says}
    aria-invalid={wrong}
    value={stretch[of]}
    maxLength={9}
    onChange={(event) => setStretch({ ...stretch, [of]: event.target.value })}
    data-testid={`paper-${of}`}
  />
);

/** Of the text in the editor, loaded or not. */
function Listing({ machine }: { machine: Machine }) {
  const source = useText((state) => state.source);
  const rows = useText((state) => state.listing.rows);
  const errors = useText((state) => state.listing.problems.filter((each) => each.grade === 'error').length);
  return (
    <>
      {errors > 0 && <p>{`The text has ${errors === 1 ? 'an error' : `${errors} errors`}: lines without cells are not assembled.`}</p>}
      <ListingTable {...{ machine, source, rows }} />
    </>
  );
}

interface RunProps {
  readonly machine: Machine;
  /** Instructions of the run; undefined until they are counted. */
  readonly count: number | undefined;
  readonly shown: readonly [number, number] | undefined;
  readonly why: boolean;
}

/** Rows that the engine gives at once. */
const AT_ONCE = 200;

function Run({ machine, count, shown, why }: RunProps) {
  const [rows, setRows] = useState<readonly RunRow[]>();
  const [from, to] = shown ?? [0, -1];
  useEffect(() => {
    let live = true;
    const fetched = async (): Promise<void> => {
      const list: RunRow[] = [];
      while (live && from > 0 && from + list.length <= to) {
        const more = await engine.soFar.rows(from - 1 + list.length, Math.min(AT_ONCE, to + 1 - from - list.length));
        if (more.length === 0) break;
        list.push(...more);
      }
      if (live) setRows(list);
    };
    void fetched();
    return () => {
      live = false;
    };
  }, [from, to]);
  if (count === 0) return <p>No instruction is done yet.</p>;
  if (count === undefined || !rows) return <p>…</p>;
  if (!shown) return <p>{`Give a first and a last instruction between 1 and ${grouped(count)}.`}</p>;
  return (
    <>
      <Given />
      <table className="ran" data-testid="paper-run">
        <thead>
          <tr>
            <th />
            <th>tick</th>
            <th>address</th>
            <th>line</th>
            <th>instruction</th>
            <th>changed</th>
            {why && <th>in words</th>}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, at) => (
            <tr key={at}>
              <td>{grouped(from + at)}</td>
              <td>{grouped(row.tick)}</td>
              <td className="mono address">{row.address}</td>
              <td>{row.line ?? ''}</td>
              <td className="mono">{row.text}</td>
              <td className="mono">{row.changed}</td>
              {why && <td>{row.why}</td>}
            </tr>
          ))}
        </tbody>
      </table>
      {to < count && <p>{`The run goes on: it has ${grouped(count)} instructions.`}</p>}
      <Stands machine={machine} />
    </>
  );
}

/** What was queued for the program. */
function Given() {
  const inputs = useRun((state) => state.view?.inputs) ?? [];
  return inputs.length === 0 ? null : <p>{`Given: ${inputs.join(', ')}`}</p>;
}

/** How the run stands on the bench. */
function Stands({ machine }: { machine: Machine }) {
  const view = useRun((state) => state.view);
  if (!view) return null;
  const registers = machine.registers.map(({ name, width }, at) => `${name} ${shownNumber(itemAt(view.registers, at), width, machine)}`);
  const flags = machine.flags.map(({ name }, at) => `${name} ${itemAt(view.flags, at)}`);
  return (
    <section>
      <h3>{`At tick ${grouped(view.ticks)}`}</h3>
      {view.status !== 'paused' && <p>{view.sentence}</p>}
      <p className="mono">{[...registers, ...flags].join('   ')}</p>
      {view.output !== '' && (
        <>
          <h3>Output</h3>
          <p className="mono">{view.output}</p>
        </>
      )}
    </section>
  );
}
