/** Trials: one program, many data sets; every result kept and compared. */
import { Box, Flex } from '@chakra-ui/react';
import { Ellipsis, Play, Redo2, Square, Undo2 } from 'lucide-react';
import { lazy, Suspense, useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { BASE_WORDS, type Base } from '@zettak/core/text/number';
import { writeSetsCsv, writeRowsCsv, writeJunit } from '@zettak/core/trials/sets/csv';
import { writeTable } from '@zettak/core/trials/sets/table';
import { openedEarly } from '../app/early';
import { Failure } from '../documents/Failure';
import { Shell } from '../app/Shell';
import { kept, keep } from '../app/preferences';
import { ConflictBar, SaveMark } from '../documents/SaveMark';
import type { Differing } from '../editor/Difference';
import { ActionMenu } from '../ui/ActionMenu';
import { Button } from '../ui/Button';
import { Calculator } from '../ui/Calculator';
import { Check } from '../ui/Check';
import { Choice } from '../ui/Choice';
import { FileButton } from '../ui/FileButton';
import { Hint, Notice, Outcome, Panel, PanelHead, PanelTitle } from '../ui/Panel';
import { saveFile } from '../ui/saveFile';
import { Split } from '../ui/Split';
import { BySize } from './BySize';
import { takeOther } from './reading';
import { edit, enter, importSets, redo, undo } from './editing';
import { callOff, runSets, setAgain } from './running';
import { lookAgain, openAgain, openTrials } from './opening';
import { Chosen } from './Chosen';
import { NeverTried } from './NeverTried';
import { Reading } from './Reading';
import { SetGrid } from './SetGrid';
import { columnsOf, sayHere, useTrials } from './state';

const Difference = lazy(() => import('../editor/Difference').then((each) => ({ default: each.Difference })));

const { begin, open } = openedEarly((program) => void openTrials(program));
export { begin };

export function TrialsPage() {
  const { program } = useParams();
  useEffect(() => open(program), [program]);
  useEffect(() => {
    const look = (): void => void lookAgain();
    window.addEventListener('focus', look);
    return () => window.removeEventListener('focus', look);
  }, []);
  const [differing, setDiffering] = useState<Differing>();
  const failure = useTrials((state) => state.failure);
  // A table without its columns would be laid out twice.
  const read = useTrials((state) => state.tried !== undefined || state.failure !== undefined);
  const saveState = useTrials((state) => state.saveState);
  const draft = useTrials((state) => state.draft);
  const [sizes, setSizes] = useState<readonly (number | string)[]>(() => JSON.parse(kept('trials.sizes') || '[72, 28]') as number[]);
  const [heights, setHeights] = useState<readonly (number | string)[]>(() => JSON.parse(kept('trials.heights') || '[62, 38]') as number[]);
  return (
    <Shell title="Trials" controls={<BarControls />}>
      <Flex direction="column" height="100%">
        <Failure failure={failure} again={() => void openAgain(program)} />
        <ProgramErrors />
        <ConflictBar state={saveState} draft={draft} take={takeOther} compare={(mine, theirs) => setDiffering({ mine, theirs })} />
        <Said />
        <Box flex="1" minHeight="0">
          <Split
            way="horizontal"
            panels={[
              { id: 'sets', says: 'the sets', least: '420px' },
              { id: 'side', says: 'what was never tried', least: '250px', folded: '0px' },
            ]}
            sizes={sizes}
            change={(now) => {
              setSizes(now);
              keep('trials.sizes', JSON.stringify(now));
            }}
          >
            <Split
              way="vertical"
              panels={[
                { id: 'table', says: 'the table of sets', least: '170px' },
                { id: 'chosen', says: 'the chosen set', least: '110px', folded: '0px' },
              ]}
              sizes={heights}
              change={(now) => {
                setHeights(now);
                keep('trials.heights', JSON.stringify(now));
              }}
            >
              <Panel label="Sets" height="100%">
                {read && (
                  <>
                    <TableHead />
                    <SetGrid />
                  </>
                )}
              </Panel>
              <Panel label="The chosen set" height="100%" overflow="auto" tabIndex={0}>
                <Chosen />
              </Panel>
            </Split>
            <Panel label="Beside the sets" height="100%" overflow="auto" borderLeft="1px solid" borderColor="line" tabIndex={0}>
              <NeverTried />
              <BySize />
              <ByHand />
            </Panel>
          </Split>
        </Box>
      </Flex>
      {differing && (
        <Suspense fallback={null}>
          <Difference texts={differing} close={() => setDiffering(undefined)} />
        </Suspense>
      )}
    </Shell>
  );
}

function BarControls() {
  const programs = useTrials((state) => state.programs);
  const program = useTrials((state) => state.program);
  const machineName = useTrials((state) => state.machineName);
  const version = useTrials((state) => state.machineVersion);
  const count = useTrials((state) => state.table.sets.length);
  const runs = useTrials((state) => state.tried?.facts !== undefined);
  const work = useTrials((state) => state.work);
  const navigate = useNavigate();
  return (
    <>
      <Flex align="center" gap="4px" color="onBar2" whiteSpace="nowrap" minWidth="0">
        <Box as="span" hideBelow="xl">
          {machineName ? `${machineName} ${version} /` : ''}
        </Box>
        <Choice
          look="bar"
          label="Program"
          testId="trials-program"
          value={program?.id ?? ''}
          choose={(id) => void navigate(`/trials/${id}`)}
          options={[
            ...(program ? [] : [{ value: '', says: 'choose a program' }]),
            ...programs.map((each) => ({ value: each.id, says: each.name })),
          ]}
        />
        {program && (
          <Button look="barLine" onClick={() => void navigate(`/bench/${program.id}`)}>
            Bench
          </Button>
        )}
      </Flex>
      <Flex flex="1" justify="flex-end" align="center" gap="8px" color="onBar2" minWidth="0">
        <Working />
        <Button
          look="barLine"
          onClick={() => void navigate(`/trials/${program?.id ?? ''}/sheet`)}
          disabled={!program}
          data-testid="record-sheet"
        >
          Record sheet
        </Button>
        {work ? (
          <Button look="go" onClick={callOff} data-testid="call-off">
            <Square size={13} aria-hidden fill="currentColor" /> Call off
          </Button>
        ) : (
          <Button look="go" onClick={() => void runSets()} disabled={!runs || count === 0} data-testid="run-all">
            <Play size={13} aria-hidden fill="currentColor" /> Run all sets
          </Button>
        )}
      </Flex>
    </>
  );
}

function Working() {
  const work = useTrials((state) => state.work);
  const rows = useTrials((state) => state.rows);
  const sets = useTrials((state) => state.table.sets);
  const old = useTrials((state) => state.old);
  if (work)
    return (
      <Box
        as="span"
        role="progressbar"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round((work.done / work.total) * 100)}
        aria-label={work.what}
        truncate
        data-testid="work"
      >
        {work.what} … {work.total === 1 ? `${Math.round(work.done * 100)} %` : `${work.done} of ${work.total}`}
      </Box>
    );
  const own = sets.flatMap((each) => rows.get(each.name)?.row ?? []);
  const holds = own.filter((each) => each.verdict === 'holds').length;
  return (
    <Box as="span" role="status" truncate data-testid="summary">
      {sets.length === 0
        ? ''
        : own.length === 0
          ? `${sets.length} sets`
          : old
            ? 'results of an earlier text'
            : `${holds} of ${own.length} hold`}
    </Box>
  );
}

function ProgramErrors() {
  const tried = useTrials((state) => state.tried);
  const program = useTrials((state) => state.program);
  const navigate = useNavigate();
  const first = tried && !tried.facts ? tried.problems.find((each) => each.grade === 'error') : undefined;
  if (!first || !program) return null;
  return (
    <Notice tone="problem" role="alert" data-testid="program-errors">
      The program does not assemble, so no set is run. Line {first.line}: {first.sentence}
      <Button look="plain" onClick={() => void navigate(`/bench/${program.id}`)}>
        Mend it on the bench
      </Button>
    </Notice>
  );
}

function Said() {
  const said = useTrials((state) => state.said);
  const past = useTrials((state) => state.past.length);
  if (!said) return null;
  return (
    <Outcome role="status" data-testid="said">
      {said}
      {past > 0 && (
        <Button look="link" onClick={undo}>
          Undo
        </Button>
      )}
      <Button look="link" onClick={() => sayHere('')}>
        Done
      </Button>
    </Outcome>
  );
}

function TableHead() {
  const table = useTrials((state) => state.table);
  const base = useTrials((state) => state.table.base ?? state.tried?.facts?.base ?? 10);
  const decimal = useTrials((state) => state.tried?.facts?.machine.radix === 10);
  const past = useTrials((state) => state.past.length);
  const future = useTrials((state) => state.future.length);
  const again = useTrials((state) => state.again);
  const name = useTrials((state) => state.program?.name ?? 'program');
  const saveState = useTrials((state) => state.saveState);
  const rows = useTrials((state) => state.rows);
  const own = table.sets.flatMap((each) => rows.get(each.name)?.row ?? []);
  return (
    <PanelHead>
      <PanelTitle>Sets</PanelTitle>
      <Reading />
      <SaveMark state={saveState} />
      <Button look="bare" aria-label="Undo" tip="Undo (Ctrl+Z in the table)" onClick={undo} disabled={past === 0} data-testid="undo-sets">
        <Undo2 size={15} aria-hidden />
      </Button>
      <Button look="bare" aria-label="Redo" tip="Redo" onClick={redo} disabled={future === 0} data-testid="redo-sets">
        <Redo2 size={15} aria-hidden />
      </Button>
      {!decimal && (
        <Choice
          look="head"
          label="Entries in"
          testId="sets-base"
          value={base}
          choose={(value) => edit({ ...table, base: Number(value) as Base })}
          options={([16, 10, 2, 8] as const).map((value) => ({ value, says: `in ${BASE_WORDS[value]}` }))}
        />
      )}
      <Check on={again} change={setAgain} testId="run-again">
        run again when the program changes
      </Check>
      <FileButton
        words="Import …"
        label="A file of sets, YAML or CSV"
        accept=".yaml,.yml,.csv"
        testId="import-sets"
        take={(file) => void importSets(file)}
      />
      <ActionMenu
        label="Export"
        look="plain"
        testId="sets-menu"
        actions={[
          {
            id: 'yaml',
            says: 'Save the sets (YAML)',
            act: () => saveFile(`${name}.sets.yaml`, writeTable(table, useTrials.getState().draft?.text)),
          },
          { id: 'csv', says: 'Save the sets (CSV)', act: () => saveFile(`${name}.sets.csv`, writeSetsCsv(table.sets)) },
          { id: 'copy', says: 'Copy the sets for a spreadsheet', act: () => void copySets() },
          { id: 'results', says: 'Save the results (CSV)', act: () => saveFile(`${name}.results.csv`, writeRowsCsv(own)) },
          { id: 'junit', says: 'Save the results (JUnit XML)', act: () => saveFile(`${name}.junit.xml`, writeJunit(name, own)) },
        ]}
      >
        <Ellipsis size={15} aria-hidden />
      </ActionMenu>
    </PanelHead>
  );
}

/** Names, what is given and what is expected, as rows with tabs between: pasted on a name they come back. */
async function copySets(): Promise<void> {
  const { table, more } = useTrials.getState();
  const [given, expected] = [columnsOf(table, more, 'given'), columnsOf(table, more, 'expected')];
  const cell = (list: (typeof table.sets)[number]['given'], place: string): string => list.find((each) => each.place === place)?.text ?? '';
  const lines = table.sets.map((each) =>
    [each.name, ...given.map((place) => cell(each.given, place)), ...expected.map((place) => cell(each.expected, place))].join('\t'),
  );
  try {
    await navigator.clipboard.writeText(lines.join('\n'));
    sayHere(`${lines.length} sets are copied.`);
  } catch {
    sayHere('The browser gives no clipboard here. “Save the sets (CSV)” makes a file of them.');
  }
}

function ByHand() {
  const machine = useTrials((state) => state.tried?.facts?.machine);
  const table = useTrials((state) => state.table);
  const more = useTrials((state) => state.more);
  const chosen = useTrials((state) => state.chosen);
  const usual = useTrials((state) => state.tried?.facts?.base);
  const base = table.base ?? usual ?? 10;
  const at = table.sets.findIndex((each) => each.name === chosen);
  if (!machine) return <Hint />;
  const places = columnsOf(table, more, 'expected').filter((each) => !['output', 'end'].includes(each));
  return (
    <Box as="section" aria-label="Worked by hand" px="12px" py="8px" borderTop="1px solid" borderColor="line">
      <Calculator
        key={`${machine.name} ${base}`}
        machine={{ ...machine, base }}
        words={at < 0 ? 'Choose a set to expect the result.' : `Expect it of ${chosen} in`}
        uses={at < 0 ? [] : places.map((each) => ({ id: each, says: each }))}
        use={(place, result) => enter(at, 'expected', place, result)}
      />
    </Box>
  );
}
