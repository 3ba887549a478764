/** The memories of a machine as strips, with what has its place in them: the system program, stacks, devices. */
import { Box, chakra } from '@chakra-ui/react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { shownNumber } from '@zettak/core/text/number';
import { spaceWords } from '@zettak/core/machine/model/describe';
import { Hint } from '../ui/Panel';
import { Card } from './Card';

interface Region {
  readonly name: string;
  readonly says: string;
  readonly from: number;
  readonly to: number;
  readonly kind: 'system' | 'stack' | 'device';
}

const Strip = chakra('div', {
  base: {
    position: 'relative',
    height: '26px',
    bg: 'sea2',
    border: '1px solid',
    borderColor: 'edge',
    borderRadius: '3px',
    my: '3px',
    '& > span': {
      position: 'absolute',
      top: '0',
      bottom: '0',
      minWidth: '4px',
      overflow: 'hidden',
      fontSize: '12px',
      lineHeight: '20px',
      textAlign: 'center',
      whiteSpace: 'nowrap',
      borderBottom: '4px solid',
    },
    '& .system': { bg: 'sand2', borderColor: 'wire' },
    '& .stack': { bg: 'addressPale', borderColor: 'address' },
    '& .device': { bg: 'dataPale', borderColor: 'data' },
    '& .marked': { outline: '2px solid', outlineColor: 'ink', zIndex: '1' },
  },
});

function regionsOf(machine: Machine, space: number): Region[] {
  const { system, stacks, devices, programSpace } = machine;
  const own =
    system && space === programSpace ? [{ name: 'system program', says: 'system program', ...system, kind: 'system' as const }] : [];
  return [
    ...own,
    ...stacks
      .filter((each) => each.space === space)
      .map((each): Region => ({ name: each.name, says: `stack ${each.name}`, from: each.from, to: each.to, kind: 'stack' })),
    ...devices.flatMap((each): Region[] =>
      [each.data, each.status].flatMap((place) =>
        place && 'space' in place && place.space === space
          ? [{ name: each.name, says: each.name, from: place.address, to: place.address, kind: 'device' as const }]
          : [],
      ),
    ),
  ];
}

/** `marked`: the part that is looked at. */
export function MemoryMap({ machine, marked }: { machine: Machine; marked?: string }) {
  const ports = machine.devices.flatMap((each) =>
    [each.data, each.status].flatMap((place) =>
      place && 'port' in place ? [`${machine.ports?.name ?? 'port'}[${place.port}] ${each.name}`] : [],
    ),
  );
  return (
    <Card aria-label="Where things lie" data-testid="memory-map">
      {machine.spaces.map((space, at) => {
        const size = space.cells * space.banks;
        const regions = regionsOf(machine, at);
        return (
          <Box key={space.name} fontSize="13px">
            <b>{space.name}</b> <Hint>{spaceWords(machine, space)}</Hint>
            <Strip className={marked === space.name ? 'marked' : ''}>
              {regions.map((each, index) => (
                <span
                  key={index}
                  className={`${each.kind} ${marked === each.name ? 'marked' : ''}`}
                  style={{ left: `${(100 * each.from) / size}%`, width: `${Math.max(0.8, (100 * (each.to - each.from + 1)) / size)}%` }}
                  title={`${each.says}: ${range(machine, each, space.addressWidth)}`}
                >
                  {(each.to - each.from) / size > 0.08 ? each.says : ''}
                </span>
              ))}
            </Strip>
            {regions.length > 0 && (
              <Hint as="p">{regions.map((each) => `${each.says}: ${range(machine, each, space.addressWidth)}`).join(' · ')}</Hint>
            )}
          </Box>
        );
      })}
      {ports.length > 0 && <Hint as="p">{ports.join(' · ')}</Hint>}
    </Card>
  );
}

/** First to last, and how many cells. */
function range(machine: Machine, { from, to }: Region, width: number): string {
  if (from === to) return shownNumber(from, width, machine);
  return `${shownNumber(from, width, machine)} to ${shownNumber(to, width, machine)}, ${(to - from + 1).toLocaleString('en-US')} cells`;
}
