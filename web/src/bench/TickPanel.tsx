/** The middle of the bench: phases with the instruction's own ticks, the sentence that a teacher reads aloud, the drawing. */
import { Flex } from '@chakra-ui/react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { Datapath } from '../datapath/Datapath';
import { Panel } from '../ui/Panel';
import { useDocument } from './document';
import { Phases } from './Phases';
import { useRun, useView } from './run';
import { Sentence } from './Sentence';

export function TickPanel() {
  const machine = useDocument((state) => state.machine);
  const shown = useRun((state) => state.view !== undefined);
  return (
    <Panel label="What happens" bg="sea" pt="6px" pb="8px" ps="14px" pe="12px" gap="6px" overflow="hidden">
      {machine && shown && (
        <>
          <Phases machine={machine} />
          <Sentence />
          <Flex flex="1" minHeight="0">
            <Drawing machine={machine} />
          </Flex>
        </>
      )}
    </Panel>
  );
}

function Drawing({ machine }: { machine: Machine }) {
  const view = useView();
  const labels = useRun((state) => state.dataLabels);
  const motion = useRun((state) => state.motion);
  return <Datapath {...{ machine, view, labels }} moving={motion} />;
}
