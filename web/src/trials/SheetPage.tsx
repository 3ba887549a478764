/** The record sheet of a program and its sets: problem, method, flow, listing, sets, results, flags; in the teacher's order, to be printed. */
import { Box, Flex } from '@chakra-ui/react';
import { Printer } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import type { Trace } from '@zettak/core/trials/trace';
import type { FlowChart } from '@zettak/core/assembler/assist/flowChart';
import { SHEET_PARTS, type MethodStep, type SheetPart, type SheetTexts } from '@zettak/core/trials/sets/table';
import { sentencesOf } from '@zettak/core/trials/sets/csv';
import { Failure } from '../documents/Failure';
import { Shell } from '../app/Shell';
import { ListingTable } from '../editor/ListingTable';
import { trialEngine } from '../session/trialEngine';
import { Button } from '../ui/Button';
import { Check } from '../ui/Check';
import { Entry, TextEntry } from '../ui/Field';
import { Controls, Heading, Hint } from '../ui/Panel';
import { edit } from './editing';
import { runSets } from './running';
import { openAgain, openTrials } from './opening';
import { FlowDrawing } from './FlowDrawing';
import { columnsOf, useTrials } from './state';
import '../ui/sheet.css';

const TITLES: Readonly<Record<SheetPart, string>> = {
  problem: 'Problem',
  method: 'Method',
  flow: 'Flow',
  listing: 'Listing',
  sets: 'Data sets',
  results: 'Results',
  flags: 'Flags',
  'trace sheet': 'Trace sheet, to be filled in',
  'trace key': 'Trace sheet, filled in',
};

export function SheetPage() {
  const { program } = useParams();
  const navigate = useNavigate();
  const opened = useTrials((state) => state.program?.id);
  const failure = useTrials((state) => state.failure);
  const runs = useTrials((state) => state.tried?.facts !== undefined);
  const read = useTrials((state) => state.tried !== undefined || state.failure !== undefined);
  const sets = useTrials((state) => state.table.sets.length);
  useEffect(() => {
    if (useTrials.getState().program?.id !== program) void openTrials(program);
  }, [program]);
  return (
    <Shell
      title="Record sheet"
      controls={
        <Flex flex="1" gap="8px" justify="flex-end">
          <Button look="barLine" onClick={() => void navigate(`/trials/${opened ?? ''}`)}>
            Back to the sets
          </Button>
          <Button look="barLine" onClick={() => void runSets()} disabled={!runs || sets === 0}>
            Run all sets
          </Button>
          <Button look="go" onClick={() => window.print()} data-testid="print">
            <Printer size={14} aria-hidden /> Print
          </Button>
        </Flex>
      }
    >
      <Failure failure={failure} again={() => void openAgain(program)} />
      <Flex height="100%" className="sheet-room" visibility={read ? undefined : 'hidden'}>
        <Writing />
        <Box flex="1" overflow="auto" bg="#fff" px="14mm" tabIndex={0} role="region" aria-label="The sheet">
          <Sheet />
        </Box>
      </Flex>
    </Shell>
  );
}

function change(sheet: Partial<SheetTexts>): void {
  const { table } = useTrials.getState();
  edit({ ...table, sheet: { ...table.sheet, ...sheet } });
}

/** What is typed is taken when the field is left: one undo for each. */
function useText(value: string, take: (text: string) => void) {
  const [typed, setTyped] = useState<string>();
  return {
    value: typed ?? value,
    onChange: (event: React.ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) => setTyped(event.target.value),
    onBlur: () => {
      if (typed !== undefined && typed !== value) take(typed);
      setTyped(undefined);
    },
  };
}

function Writing() {
  const sheet = useTrials((state) => state.table.sheet);
  const label = useText(sheet.label, (text) => change({ label: text }));
  const problem = useText(sheet.problem, (text) => change({ problem: text }));
  const steps = (method: readonly MethodStep[]): void => change({ method });
  return (
    <Box
      className="sheet-writing"
      width="330px"
      flexShrink="0"
      overflow="auto"
      px="12px"
      py="10px"
      bg="paper"
      borderRight="1px solid"
      borderColor="line"
    >
      <Heading>Label</Heading>
      <Entry {...label} room="wide" maxLength={200} placeholder="bench 07" aria-label="Label of the sheet" data-testid="sheet-label" />
      <Heading>Problem</Heading>
      <TextEntry
        {...problem}
        rows={5}
        maxLength={20_000}
        aria-label="The problem in words"
        placeholder="What the program is to do"
        data-testid="sheet-problem"
      />
      <Heading>Method, step by step</Heading>
      {sheet.method.map((each, at) => (
        <StepFields
          key={at}
          at={at}
          step={each}
          take={(step) => steps(sheet.method.map((one, index) => (index === at ? step : one)))}
          drop={() => steps(sheet.method.filter((_, index) => index !== at))}
        />
      ))}
      <Controls mt="4px">
        <Button onClick={() => steps([...sheet.method, { text: '', lines: '' }])} data-testid="add-step">
          Add a step
        </Button>
      </Controls>
      <Heading>Parts and their order</Heading>
      {[...sheet.parts, ...SHEET_PARTS.filter((each) => !sheet.parts.includes(each))].map((each) => (
        <PartLine key={each} part={each} parts={sheet.parts} />
      ))}
    </Box>
  );
}

function StepFields({ at, step, take, drop }: { at: number; step: MethodStep; take: (step: MethodStep) => void; drop: () => void }) {
  const text = useText(step.text, (now) => take({ ...step, text: now }));
  const lines = useText(step.lines, (now) => take({ ...step, lines: now.trim() }));
  return (
    <Flex gap="4px" mb="4px" align="flex-start">
      <TextEntry {...text} rows={2} maxLength={2000} flex="1" aria-label={`Step ${at + 1}`} data-testid={`step-${at}`} />
      <Entry {...lines} width="62px" maxLength={40} placeholder="lines" aria-label={`Lines of step ${at + 1}`} />
      <Button look="bare" aria-label={`Take step ${at + 1} out`} onClick={drop}>
        ×
      </Button>
    </Flex>
  );
}

function PartLine({ part, parts }: { part: SheetPart; parts: readonly SheetPart[] }) {
  const at = parts.indexOf(part);
  const move = (by: 1 | -1): void => {
    const list = parts.filter((each) => each !== part);
    list.splice(at + by, 0, part);
    change({ parts: list });
  };
  return (
    <Flex align="center" gap="4px" py="1px">
      <Check
        on={at >= 0}
        change={(on) => change({ parts: on ? [...parts, part] : parts.filter((each) => each !== part) })}
        testId={`part-${part}`}
      >
        {TITLES[part]}
      </Check>
      <Box flex="1" />
      {at >= 0 && (
        <>
          <Button look="bare" aria-label={`${TITLES[part]} earlier`} disabled={at === 0} onClick={() => move(-1)}>
            ↑
          </Button>
          <Button look="bare" aria-label={`${TITLES[part]} later`} disabled={at === parts.length - 1} onClick={() => move(1)}>
            ↓
          </Button>
        </>
      )}
    </Flex>
  );
}

function Sheet() {
  const { table, program, machineName, machineVersion } = useTrials();
  const { sheet } = table;
  const old = useTrials((state) => state.old);
  const tried = useTrials((state) => state.tried);
  const chart = useFlow();
  // What is on the way would move what has come.
  if (!program || !tried || (!chart && sheet.parts.includes('flow'))) return null;
  const version = program.versions.at(-1)?.number;
  return (
    <article className="sheet" data-testid="sheet">
      <h2>{program.name}</h2>
      <div className="versions">
        {sheet.label !== '' && <b>{sheet.label}</b>}
        <span>
          {machineName}, version {machineVersion}
        </span>
        <span>{version === undefined ? 'no version kept yet' : `program version ${version}`}</span>
        <span>{new Date().toISOString().slice(0, 10)}</span>
      </div>
      {sheet.parts.map((each) => (
        <section key={each} data-sheet-part={each} className={isUnwritten(each, sheet) ? 'unwritten' : undefined}>
          <h3>{TITLES[each]}</h3>
          {old && (each === 'results' || each === 'flags') ? (
            <p>These results are of an earlier text: run the sets again.</p>
          ) : (
            <Part part={each} chart={chart} />
          )}
        </section>
      ))}
    </article>
  );
}

/** What nobody has written is asked for on the screen, and not printed. */
const isUnwritten = (part: SheetPart, { problem, method }: SheetTexts): boolean =>
  (part === 'problem' && problem.trim() === '') || (part === 'method' && method.length === 0);

function Part({ part, chart }: { part: SheetPart; chart: FlowChart | 'none' | undefined }) {
  switch (part) {
    case 'problem':
      return <Problem />;
    case 'method':
      return <Method />;
    case 'flow':
      return chart === undefined || chart === 'none' ? (
        <p>The program has errors, or is too large to be drawn.</p>
      ) : (
        <FlowDrawing chart={chart} />
      );
    case 'listing':
      return <Listing />;
    case 'sets':
      return <SetsPart />;
    case 'results':
      return <ResultsPart />;
    case 'flags':
      return <FlagsPart />;
    case 'trace sheet':
      return <TracePart filled={false} />;
    case 'trace key':
      return <TracePart filled />;
    default:
      return part satisfies never;
  }
}

function Problem() {
  const problem = useTrials((state) => state.table.sheet.problem);
  return problem.trim() === '' ? <Hint as="p">Write at the left what the program is to do.</Hint> : <p>{problem.trim()}</p>;
}

function Method() {
  const method = useTrials((state) => state.table.sheet.method);
  const source = useTrials((state) => state.source);
  if (method.length === 0) return <Hint as="p">Add steps at the left, each with the lines that do it.</Hint>;
  const lines = source.split('\n');
  const first = (text: string): string =>
    lines[Number(/\d+/.exec(text)?.[0] ?? 0) - 1]?.replace(/;.*/, '').trim().replace(/\s+/g, ' ') ?? '';
  return (
    <ol className="steps">
      {method.map(({ text, lines: at }, index) => (
        <li key={index}>
          {text} {at !== '' && <span>{`lines ${at}${first(at) ? `, from ${first(at)}` : ''}`}</span>}
        </li>
      ))}
    </ol>
  );
}

/** The flow of the program; the one before stays until it is known. */
function useFlow(): FlowChart | 'none' | undefined {
  const tried = useTrials((state) => state.tried);
  const [chart, setChart] = useState<FlowChart | 'none'>();
  useEffect(() => {
    let live = true;
    const take = (found: FlowChart | undefined): void => {
      if (live) setChart(found ?? 'none');
    };
    // A sheet without its flow is better than none.
    if (tried) void trialEngine.flow().then(take, () => take(undefined));
    return () => {
      live = false;
    };
  }, [tried]);
  return chart;
}

function Listing() {
  const source = useTrials((state) => state.source);
  const facts = useTrials((state) => state.tried?.facts);
  return facts ? <ListingTable machine={facts.machine} source={source} rows={facts.rows} /> : <p>The program has errors.</p>;
}

function SetsPart() {
  const table = useTrials((state) => state.table);
  const given = columnsOf(table, { given: [], expected: [] }, 'given');
  return (
    <table>
      <thead>
        <tr>
          <th>set</th>
          <th>for</th>
          {given.map((each) => (
            <th key={each} className="mono">
              {each}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {table.sets.map((one) => (
          <tr key={one.name}>
            <th scope="row">{one.name}</th>
            <td>
              {one.purpose}
              {one.script.trim() !== '' && <div className="mono">{one.script.trim()}</div>}
            </td>
            {given.map((place) => (
              <td key={place} className="mono">
                {one.given.find((each) => each.place === place)?.text ?? ''}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The first rows of a blank sheet are filled in, so that it says how it is meant. */
const SHOWN_FIRST = 1;

/** The run of the chosen set, or of the first, an instruction a row. */
function TracePart({ filled }: { filled: boolean }) {
  const table = useTrials((state) => state.table);
  const chosen = useTrials((state) => state.chosen);
  const tried = useTrials((state) => state.tried);
  const [trace, setTrace] = useState<Trace>();
  const at = Math.max(
    0,
    table.sets.findIndex((each) => each.name === chosen),
  );
  useEffect(() => {
    let live = true;
    void trialEngine.trace(table, at).then((found) => live && setTrace(found));
    return () => {
      live = false;
    };
  }, [table, at, tried]);
  if (!trace) return null;
  if (trace.rows.length === 0) return <p>There is no run to trace: the program or the set has mistakes.</p>;
  return (
    <>
      {table.sets[at] && <p>{`With the set “${table.sets[at].name}”, after each instruction:`}</p>}
      <table className="trace">
        <thead>
          <tr>
            <th />
            <th>address</th>
            <th>instruction</th>
            {trace.columns.map((each) => (
              <th key={each}>{each}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {trace.rows.map((row, index) => {
            const shows = filled || index < SHOWN_FIRST;
            return (
              <tr key={index}>
                <td>{index + 1}</td>
                <td className="mono">{shows ? row.address : ''}</td>
                <td className="mono">{shows ? row.text : ''}</td>
                {row.values.map((value, column) => (
                  <td key={column} className="mono">
                    {shows ? value : ''}
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
      {trace.more && <p>The run goes on from there.</p>}
    </>
  );
}

const VERDICTS = { holds: 'holds', differs: 'differs', ran: 'ran', unread: 'cannot be read' } as const;

function ResultsPart() {
  const table = useTrials((state) => state.table);
  const rows = useTrials((state) => state.rows);
  const columns = columnsOf(table, { given: [], expected: [] }, 'expected');
  // Of what is expected there is a column already.
  const counts = (['instructions', 'ticks'] as const).filter((each) => !columns.some((column) => column.toLowerCase() === each));
  return (
    <table data-testid="sheet-results">
      <thead>
        <tr>
          <th>set</th>
          {columns.map((each) => (
            <th key={each} className="mono">
              {each}
            </th>
          ))}
          {counts.map((each) => (
            <th key={each}>{each}</th>
          ))}
          <th>verdict</th>
        </tr>
      </thead>
      <tbody>
        {table.sets.map((one) => {
          const row = rows.get(one.name)?.row;
          return (
            <tr key={one.name}>
              <th scope="row">{one.name}</th>
              {columns.map((column) => {
                const seen = row?.seen.find((each) => each.column === column);
                return (
                  <td key={column} className={seen?.holds === false ? 'mono differs' : 'mono'}>
                    {seen?.seen ?? ''}
                    {seen?.holds === false ? ` (expected ${seen.expected})` : ''}
                  </td>
                );
              })}
              {counts.map((each) => (
                <td key={each}>{row?.[each] ?? ''}</td>
              ))}
              <td className={row?.verdict === 'differs' ? 'differs' : ''}>
                {row ? VERDICTS[row.verdict] : 'not run'}
                {row && (row.shouldHalt || row.verdict === 'unread') ? ` ${sentencesOf(row)[0] ?? ''}` : ''}
                {row?.remarks.map((each) => (
                  <div key={each}>! {each}</div>
                ))}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function FlagsPart() {
  const sets = useTrials((state) => state.table.sets);
  const rows = useTrials((state) => state.rows);
  const flags = useTrials((state) => state.tried?.facts?.machine.flags) ?? [];
  if (flags.length === 0) return <p>The machine has no flags.</p>;
  return (
    <table>
      <thead>
        <tr>
          <th>set</th>
          {flags.map((each) => (
            <th key={each.name}>{each.name}</th>
          ))}
          <th>set last by</th>
        </tr>
      </thead>
      <tbody>
        {sets.map((one) => {
          const row = rows.get(one.name)?.row;
          const setters = [...new Set(row?.flags.flatMap((each) => each.by ?? []))];
          return (
            <tr key={one.name}>
              <th scope="row">{one.name}</th>
              {flags.map(({ name }) => (
                <td key={name} className="mono">
                  {row?.flags.find((each) => each.name === name)?.value ?? ''}
                </td>
              ))}
              <td>{setters.join('; ')}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
