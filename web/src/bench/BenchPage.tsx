/** The bench: write, assemble, run, watch. Lays the panels out and listens to the keys. */
import { Flex } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { openedEarly } from '../app/early';
import { Failure } from '../documents/Failure';
import { Shell } from '../app/Shell';
import { EditorContext, EditorHandle } from '../editor/handle';
import { Fault } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { Hint, Notice } from '../ui/Panel';
import { Controls } from './Controls';
import { lookForNewerMachine, useDocument } from './document';
import { KeyList } from './KeyList';
import { actFor, usesKey } from './keys';
import { followLink } from './link';
import { LayoutWindow } from './LayoutWindow';
import { setStartingOver, useLooks } from './looks';
import { openProgram, startAnew, takeMachineVersion } from './opening';
import { Panels } from './Panels';
import { PlaceMenu } from './PlaceMenu';
import { Paper } from './Paper';
import { PointedAt } from './Pointed';
import { watchPredictions } from './predictions';
import { useRun } from './run';
import { FollowBar, ShareBar } from './sharing/Bars';
import { StartOver } from './StartOver';

const { begin, open } = openedEarly((program) => void openProgram(program));
export { begin };

export function BenchPage() {
  const { program } = useParams();
  const [editor] = useState(() => new EditorHandle());
  const [help, setHelp] = useState(false);
  useEffect(() => open(program), [program]);
  // A link to this very page changes only what stands behind the mark.
  useEffect(() => {
    const follow = (): void => void followLink();
    window.addEventListener('hashchange', follow);
    return () => window.removeEventListener('hashchange', follow);
  }, []);
  // What was said is judged whichever tool is open.
  useEffect(watchPredictions, []);
  const startingOver = useLooks((state) => state.startingOver);
  const projecting = useLooks((state) => state.projecting);
  useKeys(editor, () => setHelp(true));
  useEffect(() => {
    const look = (): void => void lookForNewerMachine();
    window.addEventListener('focus', look);
    return () => window.removeEventListener('focus', look);
  }, []);
  return (
    <EditorContext value={editor}>
      <Shell title="Bench" crowded bare={projecting} controls={<Controls openHelp={() => setHelp(true)} />}>
        <Flex direction="column" height="100%" onClick={returnFocus}>
          <NewerVersion />
          <Crash />
          <ShareBar />
          <FollowBar />
          <Failed />
          <Filled />
        </Flex>
        <PlaceMenu />
        <PointedAt />
        <StartOver open={startingOver} close={() => setStartingOver(false)} />
        <Paper />
        <LayoutWindow />
        <KeyList open={help} close={() => setHelp(false)} />
      </Shell>
    </EditorContext>
  );
}

/** Panels are drawn when there is something to show in them, in one go; they stay, whatever is opened next. */
function Filled() {
  const [begun, setBegun] = useState(false);
  const filled = useRun((state) => state.view !== undefined || state.crash !== undefined);
  const failed = useDocument((state) => state.failure !== undefined);
  if (!begun && (filled || failed)) setBegun(true);
  return begun ? <Panels /> : null;
}

/** After a click on one of the bench's own buttons the keys belong to the bench again. */
function returnFocus(event: React.MouseEvent): void {
  const own = (event.target as HTMLElement).closest('[data-bench]');
  if (own && event.detail > 0) (document.activeElement as HTMLElement | null)?.blur();
}

function useKeys(editor: EditorHandle, openHelp: () => void): void {
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
      if (event.ctrlKey || event.metaKey || event.altKey || usesKey(event.target, event.key)) return;
      if (event.key === '?') openHelp();
      const found = actFor(event);
      if (!found && event.key !== '?') return;
      event.preventDefault();
      found?.act(editor);
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [editor, openHelp]);
}

function Failed() {
  const failure = useDocument((state) => state.failure);
  const { program } = useParams();
  const machine = useDocument((state) => (state.machine ? undefined : state.program?.machine));
  const navigate = useNavigate();
  return (
    <Failure failure={failure} again={() => void openProgram(program)}>
      {machine && (
        <Button onClick={() => void navigate(`/machines/${machine}`)} data-testid="open-machine">
          Open the machine
        </Button>
      )}
    </Failure>
  );
}

function Crash() {
  const crash = useRun((state) => state.crash);
  if (crash === undefined) return null;
  return (
    <Fault
      sentence="The engine has made a mistake of its own, and the run stands still. Your program is kept; nothing you did is to blame."
      text={crash}
      onward={{ words: 'Start over with this program', act: () => void startAnew() }}
    />
  );
}

function NewerVersion() {
  const newer = useDocument((state) => state.newerVersion);
  const name = useDocument((state) => state.machineName);
  const machine = useDocument((state) => state.program?.machine);
  const held = useDocument((state) => state.machineVersion);
  if (!newer || !machine) return null;
  return (
    <Notice role="status">
      {name} {newer} has been saved; the bench still runs version {held}.
      <Button look="tone" onClick={() => void takeMachineVersion(machine, newer)} data-testid="use-newer">
        Use version {newer}
      </Button>
      <Hint>The run starts over; program and input queue stay.</Hint>
    </Notice>
  );
}
