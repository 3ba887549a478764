/** The lines of a device, each a switch that a hand can set; a change holds from the present tick on. */
import { Flex } from '@chakra-ui/react';
import type { ShownDevice } from '@zettak/core/session/protocol';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { useDocument } from './document';
import { useRun } from './run';

/** Nothing for devices that a hand cannot set. `inset`: with the margins of a panel. */
export function Lines({ device, inset = false }: { device: ShownDevice; inset?: boolean }) {
  const { name, title, kind, value, width, lines } = device;
  const radix = useDocument((state) => state.machine?.radix ?? 2);
  if (kind !== 'switches') return null;
  const named = lines.length > 0 ? lines : Array.from({ length: width }, (_, bit) => [String(bit), bit, String(bit)] as const);
  return (
    <Flex
      wrap="wrap"
      gap="4px"
      px={inset ? '12px' : '0'}
      py={inset ? '4px' : '2px'}
      role="group"
      aria-label={title}
      data-testid={`switches-${name}`}
    >
      {named.map(([line, bit, called]) => {
        const unit = radix ** bit;
        const on = Math.floor(value / unit) % radix !== 0;
        return (
          <Button key={line} look="tag" data-bench aria-pressed={on} onClick={() => void engine.hand.setLine(name, bit, !on)}>
            {on ? '●' : '○'} {called}
          </Button>
        );
      })}
    </Flex>
  );
}

/** Switches that a hand can set. */
export function Switches() {
  const devices = useRun((state) => state.view?.devices);
  return (devices ?? []).map((each) => <Lines key={each.name} device={each} inset />);
}
