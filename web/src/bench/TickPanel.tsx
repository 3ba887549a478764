/** The middle of the bench: phases with the instruction's own ticks, the sentence that a teacher reads aloud, the drawing. */
import { Box, Flex } from '@chakra-ui/react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { Datapath } from '../datapath/Datapath';
import { engine } from '../session/engine';
import { Panel } from '../ui/Panel';
import { useDocument } from './document';
import { useHidden } from './layout';
import { Phases } from './Phases';
import { MomentNotes, PanelNotes } from './PinnedNotes';
import { useDrawn, useRun } from './run';
import { Sentence } from './Sentence';

/** `large`: for a room. */
export function TickPanel({ large = false }: { large?: boolean }) {
  const machine = useDocument((state) => state.machine);
  const shown = useRun((state) => state.view !== undefined);
  return (
    <Panel label="What happens" height="100%" bg="sea" pt="6px" pb="8px" ps="14px" pe="12px" gap="6px" overflow="hidden">
      {machine && shown && (
        <>
          <Box style={{ zoom: large ? 1.5 : 1 }} containerType="inline-size" flexShrink="0" display="flex" flexDirection="column" gap="6px">
            <Phases machine={machine} />
            <Sentence />
            <MomentNotes />
            <PanelNotes panel="ticks" />
          </Box>
          <Flex flex="1" minHeight="0">
            <Drawing machine={machine} />
          </Flex>
        </>
      )}
    </Panel>
  );
}

const press = (device: string, bit: number, on: boolean): void => void engine.hand.setLine(device, bit, on);

function Drawing({ machine }: { machine: Machine }) {
  const view = useDrawn();
  const labels = useRun((state) => state.dataLabels);
  const motion = useRun((state) => state.motion);
  const hidden = useHidden(machine.name);
  return <Datapath {...{ machine, view, labels, hidden }} moving={motion} press={press} />;
}
