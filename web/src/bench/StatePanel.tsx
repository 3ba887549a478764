/** The right of the bench: memory, registers, flags. */
import { Panel } from '../ui/Panel';
import { useDocument } from './document';
import { Flags } from './Flags';
import { Memory } from './Memory';
import { Registers } from './Registers';
import { useRun } from './run';

export function StatePanel() {
  const machine = useDocument((state) => state.machine);
  const shown = useRun((state) => state.view !== undefined);
  return (
    <Panel label="State" borderLeft="1px solid" borderColor="line" overflowY="auto">
      {machine && shown && (
        <>
          <Memory machine={machine} />
          <Registers machine={machine} />
          <Flags machine={machine} />
        </>
      )}
    </Panel>
  );
}
