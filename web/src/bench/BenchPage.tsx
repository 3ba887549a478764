/** The bench: write, assemble, run, watch. Lays the panels out and listens to the keys. */
import { useEffect, useState } from 'react';
import { useParams } from 'react-router';
import { Boundary, Fault } from '../ui/Boundary';
import { EditorContext, EditorHandle } from '../editor/handle';
import { Shell } from '../app/Shell';
import { Window } from '../ui/Window';
import { Console } from './Console';
import { Controls } from './Controls';
import { KEYS, usesKey } from './keys';
import { PlaceMenu } from './PlaceMenu';
import { ProgramPanel } from './ProgramPanel';
import { RunPanel } from './run/RunPanel';
import { StartOver } from './StartOver';
import { StatePanel } from './StatePanel';
import { TickPanel } from './TickPanel';
import { Wake } from './Wake';
import { WritePanel } from './write/WritePanel';
import { lookForNewerMachine, useDocument } from './document';
import { useLooks, setStartingOver } from './looks';
import { openProgram, takeMachineVersion, startAnew } from './opening';
import { useRun } from './run';

export function BenchPage() {
  const [editor] = useState(() => new EditorHandle());
  const { program } = useParams();
  const [help, setHelp] = useState(false);
  const failure = useDocument((state) => state.failure);
  useEffect(() => void openProgram(program), [program]);
  const writing = useLooks((state) => state.writing);
  const controlling = useLooks((state) => state.controlling);
  const startingOver = useLooks((state) => state.startingOver);
  useKeys(editor, () => setHelp(true));
  useEffect(() => {
    const look = (): void => void lookForNewerMachine();
    window.addEventListener('focus', look);
    return () => window.removeEventListener('focus', look);
  }, []);
  return (
    <EditorContext value={editor}>
      <Shell title="Bench" controls={<Controls openHelp={() => setHelp(true)} />}>
        <div className="bench" onClick={returnFocus}>
          <NewerVersion />
          <Crash />
          {failure && (
            <p className="notice problem" role="alert">
              {failure}
            </p>
          )}
          <div className={writing || controlling ? 'columns writing' : 'columns'}>
            <div className="left">
              <Boundary what="The program">
                <ProgramPanel />
              </Boundary>
              <Boundary what="The console">
                <Console />
              </Boundary>
            </div>
            <Boundary key={writing ? 'write' : controlling ? 'run' : 'ticks'} what={writing || controlling ? 'This tool' : 'The drawing'}>
              {writing ? <WritePanel /> : controlling ? <RunPanel /> : <TickPanel />}
            </Boundary>
            <Boundary what="The state of the machine">
              <StatePanel />
            </Boundary>
          </div>
          <Boundary what="The run so far">
            <Wake />
          </Boundary>
        </div>
        <PlaceMenu />
        <StartOver open={startingOver} close={() => setStartingOver(false)} />
        <KeyList open={help} close={() => setHelp(false)} />
      </Shell>
    </EditorContext>
  );
}

/** After a click on one of the bench's own buttons the keys belong to the bench again. */
function returnFocus(event: React.MouseEvent): void {
  const button = (event.target as HTMLElement).closest<HTMLElement>('[data-bench]');
  if (button && event.detail > 0) button.blur();
}

function useKeys(editor: EditorHandle, openHelp: () => void): void {
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
      if (event.ctrlKey || event.metaKey || event.altKey || usesKey(event.target, event.key)) return;
      if (event.key === '?') openHelp();
      const found = KEYS.find((each) => each.key === event.key && (each.shift ?? false) === (event.shiftKey && event.key !== '+'));
      if (!found && event.key !== '?') return;
      event.preventDefault();
      found?.act(editor);
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [editor, openHelp]);
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
    <p className="notice" role="status">
      {name} {newer} has been saved; the bench still runs version {held}.
      <button type="button" onClick={() => void takeMachineVersion(machine, newer)} data-testid="use-newer">
        Use version {newer}
      </button>
      <span className="hint">The run starts over; program and input queue stay.</span>
    </p>
  );
}

function KeyList({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Window title="Keys of the bench" testId="keys" {...{ open, close }}>
      <table className="keys">
        <tbody>
          {[
            ...KEYS,
            { shown: 'Ctrl Enter', does: 'assemble and load, from the editor' },
            { shown: 'Tab', does: 'take what is offered, or go to the next column, in the editor' },
            { shown: 'Ctrl space', does: 'offer what may stand here, in the editor' },
            { shown: 'F12', does: 'to the definition of the name at the cursor; with Shift to its uses' },
            { shown: 'F2', does: 'give the name at the cursor another one, everywhere' },
            { shown: 'Alt b', does: 'breakpoint on the line of the cursor, in the editor' },
            { shown: 'Esc', does: 'leave the editor, so that these keys work' },
            { shown: '?', does: 'this list' },
          ].map((each) => (
            <tr key={each.shown}>
              <th scope="row">
                <kbd>{each.shown}</kbd>
              </th>
              <td>{each.does}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Window>
  );
}
