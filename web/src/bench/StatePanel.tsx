/** The right of the bench: memory, registers, flags. */
import type { Machine } from '@zettak/core/machine/model/machine';
import { Panel } from '../ui/Panel';
import { useDocument } from './document';
import { Flags } from './Flags';
import { Memory } from './Memory';
import { Registers } from './Registers';
import { useRun } from './run';

export function StatePanel() {
  const machine = useDocument((state) => state.machine);
  return (
    <Panel label="State" borderLeft="1px solid" borderColor="line" overflowY="auto">
      {machine && <State machine={machine} />}
    </Panel>
  );
}

function State({ machine }: { machine: Machine }) {
  const view = useRun((state) => state.view);
  const moving = useRun((state) => state.motion !== undefined);
  if (!view) return null;
  const last = moving ? undefined : view.last;
  return (
    <>
      <Memory {...{ machine, view, last }} />
      <Registers {...{ machine, view, last }} />
      <Flags {...{ machine, view, last }} />
    </>
  );
}
