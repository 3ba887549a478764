/** The middle of the bench: phases with the instruction's own ticks, the sentence that a teacher reads aloud, the drawing. */
import { Flex } from '@chakra-ui/react';
import { Datapath } from '../datapath/Datapath';
import { Panel } from '../ui/Panel';
import { useDocument } from './document';
import { Phases } from './Phases';
import { useRun } from './run';
import { Sentence } from './Sentence';

export function TickPanel() {
  const machine = useDocument((state) => state.machine);
  const view = useRun((state) => state.view);
  const labels = useRun((state) => state.dataLabels);
  const motion = useRun((state) => state.motion);
  return (
    <Panel label="What happens" bg="sea" pt="6px" pb="8px" ps="14px" pe="12px" gap="6px" overflow="hidden">
      {machine && view && (
        <>
          <Phases {...{ machine, view }} moving={motion?.report} />
          <Sentence view={view} />
          <Flex flex="1" minHeight="0">
            <Datapath {...{ machine, view, labels }} moving={motion} />
          </Flex>
        </>
      )}
    </Panel>
  );
}
