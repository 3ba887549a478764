/** The right of the bench: memory, registers, flags. */
import { Panel } from '../../ui/Panel';
import { useDocument } from '../document';
import { Flags } from './Flags';
import { useHidden } from '../layout';
import { Memory } from '../memory/Memory';
import { Registers } from './Registers';
import { useRun } from '../run';

export function StatePanel() {
  const machine = useDocument((state) => state.machine);
  const hidden = useHidden(machine?.name ?? '');
  const shown = useRun((state) => state.view !== undefined);
  return (
    <Panel label="State" height="100%" overflowY="auto">
      {machine && shown && (
        <>
          {!hidden.includes('memory') && <Memory machine={machine} />}
          <Registers machine={machine} />
          {!hidden.includes('flags') && <Flags machine={machine} />}
        </>
      )}
    </Panel>
  );
}
