/** An instruction that is tried, in the drawing, tick by tick. */
import { Box, Flex } from '@chakra-ui/react';
import { ArrowLeft, ArrowRight } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { Given } from '@zettak/core/engine/sample/bed';
import type { View } from '@zettak/core/session/protocol';
import { Datapath } from '../datapath/Datapath';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Hint } from '../ui/Panel';
import { Window } from '../ui/Window';
import { machineIn, useDefined } from './defining';

interface DrawnProps {
  readonly name: string;
  readonly at: number;
  readonly given: Given;
  readonly close: () => void;
}

const NO_LABELS: readonly ReadonlyMap<number, string>[] = [];

export function Drawn({ name, at, given, close }: DrawnProps) {
  const machine = useDefined(machineIn);
  const [tick, setTick] = useState(1);
  const [found, setFound] = useState<{ view: View; ticks: number }>();
  useEffect(() => {
    let live = true;
    void engine.definition.drawing(name, at, given, tick).then((made) => live && setFound(made));
    return () => {
      live = false;
    };
  }, [name, at, given, tick]);
  const ticks = found?.ticks ?? 1;
  const key = (event: React.KeyboardEvent): void => {
    if (event.key === 'ArrowRight' || event.key === '.') setTick((each) => Math.min(ticks, each + 1));
    else if (event.key === 'ArrowLeft' || event.key === ',') setTick((each) => Math.max(0, each - 1));
    else return;
    event.preventDefault();
  };
  const sentence = found?.view.lastSentence.map((each) => each.text).join('') ?? '';
  return (
    <Window title={`${name}, tick by tick`} open close={close} testId="drawing" wide>
      <Box onKeyDown={key}>
        <Flex gap="8px" align="center" pb="6px">
          <Button onClick={() => setTick(tick - 1)} disabled={tick <= 0} aria-label="Tick back (←)" data-testid="drawn-back">
            <ArrowLeft size={15} aria-hidden />
          </Button>
          <Button onClick={() => setTick(tick + 1)} disabled={tick >= ticks} aria-label="Tick (→)" data-testid="drawn-on" autoFocus>
            <ArrowRight size={15} aria-hidden />
          </Button>
          <b data-testid="drawn-tick">{tick === 0 ? 'before the first tick' : `after tick ${tick} of ${ticks}`}</b>
          <Hint role="status" flex="1" fontSize="15px" color="ink">
            {tick === 0 ? '' : sentence}
          </Hint>
        </Flex>
        <Flex height="min(56vh, 480px)" bg="sea">
          {found && machine && <Datapath machine={machine} view={found.view} labels={NO_LABELS} moving={undefined} />}
        </Flex>
      </Box>
    </Window>
  );
}
