/** Class: what came in for an assignment, checked and explained. */
import { Box, Flex } from '@chakra-ui/react';
import { Ellipsis, Play, Square } from 'lucide-react';
import { lazy, Suspense, useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { keep, kept } from '../app/preferences';
import { Failure } from '../documents/Failure';
import { Shell } from '../app/Shell';
import { courseClient } from '../documents/courseClient';
import { ActionMenu } from '../ui/ActionMenu';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Empty } from '../ui/Empty';
import { Notice, Outcome, Panel, PanelHead } from '../ui/Panel';
import { Split } from '../ui/Split';
import { bringFiles, callOffChecks, checkAgain, dropAssignment, leaveClass, openClass, removeAllHandIns, saveCourse } from './acts';
import { AssignmentFacts } from './AssignmentFacts';
import { AssignmentWindow } from './AssignmentWindow';
import { BringButton, BringWindow } from './Bring';
import { FirstDifference } from './FirstDifference';
import { Groups } from './Groups';
import { droppedFiles } from './files';
import { LinkWindow } from './LinkWindow';
import { Matrix } from './Matrix';
import { NewAssignmentWindow } from './NewAssignmentWindow';
import { Sure } from './Sure';
import { sayHere, useClass } from './state';
import './class.css';

const ClassCharts = lazy(() => import('./ClassCharts'));

type Opened = 'new' | 'link' | 'settings' | 'all' | 'assignment';

export function ClassPage() {
  const { assignment } = useParams();
  useEffect(() => {
    void openClass(assignment);
    return leaveClass;
  }, [assignment]);
  const [open, setOpen] = useState<Opened>();
  const [dropping, setDropping] = useState(false);
  const here = useClass((state) => state.matrix !== undefined);
  return (
    <Shell title="Class" controls={<BarControls open={setOpen} />}>
      <Flex
        direction="column"
        height="100%"
        className={dropping && here ? 'dropping' : ''}
        onDragOver={(event) => {
          event.preventDefault();
          setDropping(true);
        }}
        onDragLeave={() => setDropping(false)}
        onDrop={(event) => {
          event.preventDefault();
          setDropping(false);
          if (here) void droppedFiles(event.dataTransfer).then(bringFiles);
        }}
      >
        <Messages />
        {here ? <Screen settings={() => setOpen('settings')} /> : <Nothing make={() => setOpen('new')} />}
      </Flex>
      <BringWindow />
      {open === 'new' && <NewAssignmentWindow close={() => setOpen(undefined)} />}
      {open === 'link' && here && <LinkWindow close={() => setOpen(undefined)} />}
      {open === 'settings' && <AssignmentWindow close={() => setOpen(undefined)} />}
      <DeleteWindows open={open} close={() => setOpen(undefined)} />
    </Shell>
  );
}

function Messages() {
  const failure = useClass((state) => state.failure);
  const said = useClass((state) => state.said);
  const wrong = useClass((state) => state.matrix?.wrong);
  const { assignment } = useParams();
  return (
    <>
      <Failure failure={failure} again={() => void openClass(assignment)} />
      {wrong !== undefined && (
        <Notice tone="problem" role="alert" data-testid="assignment-wrong">
          Nothing can be checked. {wrong}
        </Notice>
      )}
      <Hindrance />
      {said !== undefined && said !== '' && (
        <Outcome role="status" data-testid="said">
          {said}
          <Button look="link" onClick={() => sayHere('')}>
            Done
          </Button>
        </Outcome>
      )}
    </>
  );
}

function Nothing({ make }: { make: () => void }) {
  const opened = useClass((state) => state.opened);
  const failure = useClass((state) => state.failure);
  if (!opened || failure !== undefined) return null;
  return (
    <Empty title="There is no assignment yet" testId="no-assignment">
      <Box mb="10px">
        An assignment is made of a program of yours: its sets are what hand-ins are checked with, and the program itself is what their runs
        are compared with.
      </Box>
      <Button look="strong" onClick={make} data-testid="first-assignment">
        Make an assignment
      </Button>
    </Empty>
  );
}

const sizesIn = (name: string, usual: string) => JSON.parse(kept(name) || usual) as (number | string)[];

function Screen({ settings }: { settings: () => void }) {
  const [widths, setWidths] = useState<readonly (number | string)[]>(() => sizesIn('class.widths', '[20, 51, 29]'));
  const [heights, setHeights] = useState<readonly (number | string)[]>(() => sizesIn('class.heights', '[68, 32]'));
  return (
    <Box flex="1" minHeight="0">
      <Split
        way="horizontal"
        panels={[
          { id: 'assignment', says: 'the assignment', least: '200px', folded: '0px' },
          { id: 'hand-ins', says: 'the hand-ins', least: '380px' },
          { id: 'difference', says: 'the first difference', least: '250px', folded: '0px' },
        ]}
        sizes={widths}
        change={(now) => {
          setWidths(now);
          keep('class.widths', JSON.stringify(now));
        }}
      >
        <Panel label="Assignment" height="100%" overflow="auto" tabIndex={0}>
          <AssignmentFacts settings={settings} />
          <Groups />
        </Panel>
        <Split
          way="vertical"
          panels={[
            { id: 'matrix', says: 'the hand-ins', least: '160px' },
            { id: 'charts', says: 'the charts', least: '120px', folded: '0px' },
          ]}
          sizes={heights}
          change={(now) => {
            setHeights(now);
            keep('class.heights', JSON.stringify(now));
          }}
        >
          <Panel label="Hand-ins" height="100%">
            <Matrix />
          </Panel>
          <Panel label="Charts" height="100%" overflow="auto" tabIndex={0}>
            <Suspense fallback={<PanelHead />}>
              <ClassCharts />
            </Suspense>
          </Panel>
        </Split>
        <Panel label="The chosen hand-in" height="100%" overflow="auto" tabIndex={0}>
          <FirstDifference />
        </Panel>
      </Split>
    </Box>
  );
}

/** Why checks that wait do not go on. */
function Hindrance() {
  const hindrance = useClass((state) => state.progress?.hindrance);
  if (hindrance === undefined) return null;
  return (
    <Notice role="status" data-testid="hindrance">
      {hindrance}
    </Notice>
  );
}

function BarControls({ open }: { open: (what: Opened) => void }) {
  const courses = useClass((state) => state.courses);
  const matrix = useClass((state) => state.matrix);
  const navigate = useNavigate();
  const waiting = useClass((state) => state.progress?.waiting ?? 0);
  const id = matrix?.assignment.id;
  return (
    <>
      <Flex align="center" gap="4px" color="onBar2" whiteSpace="nowrap" minWidth="0">
        <Choice
          look="bar"
          label="Assignment"
          testId="class-assignment"
          maxWidth="260px"
          value={id ?? ''}
          choose={(wanted) => void navigate(`/class/${wanted}`)}
          options={[
            ...(id === undefined ? [{ value: '', says: 'choose an assignment' }] : []),
            ...courses.flatMap((course) => course.assignments.map((each) => ({ value: each.id, says: `${course.name}: ${each.name}` }))),
          ]}
        />
        <ActionMenu
          label="More of assignments"
          look="barLine"
          testId="class-menu"
          actions={[
            { id: 'new', says: 'New assignment …', act: () => open('new') },
            ...(id === undefined
              ? []
              : [
                  { id: 'settings', says: 'Settings of this assignment …', act: () => open('settings') },
                  { id: 'print', says: 'A page for each hand-in, to print', act: () => void navigate(`/class/${id}/pages`) },
                  { id: 'save', says: 'Save the course (ZIP)', act: () => void saveCourse() },
                  { id: 'all', says: 'Delete all hand-ins …', act: () => open('all') },
                  { id: 'drop', says: 'Delete this assignment …', act: () => open('assignment') },
                ]),
          ]}
        >
          <Ellipsis size={15} aria-hidden />
        </ActionMenu>
      </Flex>
      <Flex flex="1" justify="flex-end" align="center" gap="8px" color="onBar2" minWidth="0">
        {id !== undefined && (
          <>
            <Button look="barLine" onClick={() => open('link')} data-testid="hand-in-link">
              Hand-in link
            </Button>
            <BringButton />
            <Button look="barLine" asChild>
              <a href={courseClient.marks(id)} download data-testid="marks">
                Marks as CSV
              </a>
            </Button>
            {waiting > 0 ? (
              <Button look="go" onClick={() => void callOffChecks()} data-testid="call-off">
                <Square size={13} aria-hidden fill="currentColor" /> Call off
              </Button>
            ) : (
              <Button look="go" onClick={() => void checkAgain()} data-testid="check-again">
                <Play size={13} aria-hidden fill="currentColor" /> Check again
              </Button>
            )}
          </>
        )}
      </Flex>
    </>
  );
}

function DeleteWindows({ open, close }: { open: Opened | undefined; close: () => void }) {
  const name = useClass((state) => state.matrix?.assignment.name ?? '');
  const count = useClass((state) => state.matrix?.rows.length ?? 0);
  const navigate = useNavigate();
  const drop = async (): Promise<void> => {
    if (await dropAssignment()) await navigate('/class');
  };
  return (
    <>
      <Sure open={open === 'all'} close={close} title={`Delete all hand-ins of ${name}?`} does="Delete for good" act={removeAllHandIns}>
        {count === 1 ? 'One label has' : `${count} labels have`} handed in. All of it, earlier hand-ins and verdicts too, is deleted and
        cannot be brought back.
      </Sure>
      <Sure open={open === 'assignment'} close={close} title={`Delete ${name}?`} does="Delete for good" act={drop}>
        The assignment is deleted with everything that came in for it, and cannot be brought back. The program that it was made of stays.
      </Sure>
    </>
  );
}
