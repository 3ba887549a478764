/** The bench for a room: phases, sentence, drawing, flags, console and the current lines, half as large again. */
import { Box, Flex, Grid } from '@chakra-ui/react';
import { useMemo } from 'react';
import { Boundary } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { Panel } from '../ui/Panel';
import { Console } from './Console';
import { CurrentLines } from './CurrentLines';
import { useDocument } from './document';
import { Flags } from './state/Flags';
import { setProjecting } from './looks';
import { useRun } from './run';
import { TickPanel } from './TickPanel';

export function Projector() {
  const machine = useDocument((state) => state.machine);
  const shown = useRun((state) => state.view !== undefined);
  const side = useMemo(() => ({ zoom: 1.5 }), []);
  return (
    <Grid flex="1" minHeight="0" templateColumns="minmax(0, 1fr) 410px" data-testid="projector">
      <Boundary what="The drawing">
        <TickPanel large />
      </Boundary>
      <Panel label="Flags, console and current lines" borderLeft="1px solid" borderColor="line" overflow="hidden">
        <Box style={side} display="flex" flexDirection="column" height="100%">
          <Standing />
          {shown && <CurrentLines />}
          {machine && shown && <Flags machine={machine} />}
          <Box flex="1" minHeight="0" display="flex" flexDirection="column">
            <Console />
          </Box>
        </Box>
      </Panel>
    </Grid>
  );
}

/** How the run stands, since there is no bar, and the way back to the bench. */
function Standing() {
  const sentence = useRun((state) => state.told?.sentence ?? 'Nothing is loaded yet');
  return (
    <Flex gap="8px" align="center" px="8px" py="4px" bg="sea">
      <Box flex="1" fontSize="13px" fontWeight="600" role="status" minHeight="36px">
        {sentence}
      </Box>
      <Button
        data-bench
        onClick={() => setProjecting(false)}
        aria-label="Back to the whole bench (p)"
        tip="Back to the whole bench (p)"
        data-testid="leave-projector"
      >
        <kbd>p</kbd>
      </Button>
    </Flex>
  );
}
