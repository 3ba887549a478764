/** A format on a ruler: its fields from left to right, each as wide as its digits, with the number of each edge. */
import { Box, Flex } from '@chakra-ui/react';
import { programSpaceOf, type Format, type Machine } from '@zettak/core/machine/model/machine';

/** A run of digits of an instruction: of a field, or some of its digits, fixed at 0, or not used. */
interface Run {
  readonly name: string;
  readonly high: number;
  readonly low: number;
}

/** High to low, gaps included. */
function runsOf({ fields, zeros, cells }: Format, cellWidth: number): Run[] {
  const placed = [
    ...fields.flatMap(({ name, pieces }) =>
      pieces.map(({ high, low, at }): Run => ({ name: pieces.length > 1 ? `${name}[${at + high - low}:${at}]` : name, high, low })),
    ),
    ...zeros.map(({ high, low }): Run => ({ name: '0', high, low })),
  ].sort((a, b) => b.high - a.high);
  const runs: Run[] = [];
  let next = cells * cellWidth - 1;
  for (const run of placed) {
    if (run.high < next) runs.push({ name: 'any', high: next, low: run.high + 1 });
    runs.push(run);
    next = run.low - 1;
  }
  return next >= 0 ? [...runs, { name: 'any', high: next, low: 0 }] : runs;
}

export function Ruler({ machine, format }: { machine: Machine; format: Format }) {
  const { width } = programSpaceOf(machine);
  const runs = runsOf(format, width);
  const words = runs.map(({ name, high, low }) => `${name} ${high - low + 1}`).join(', ');
  return (
    <Box minWidth="220px" maxWidth="440px" flex="1 1 260px" role="img" aria-label={`${format.name}: ${words}`}>
      <Box fontSize="12.5px" color="ink2">
        {format.name}
        {format.cells > 1 && `, ${format.cells} cells`}
        {format.onlyIf !== undefined && `, only if ${format.onlyIf}`}
      </Box>
      <Flex border="1px solid" borderColor="edge" borderRadius="3px" fontFamily="mono" fontSize="12px" lineHeight="15px">
        {runs.map((run, at) => (
          <Box
            key={run.high}
            flex={`${run.high - run.low + 1} 1 0`}
            minWidth="24px"
            px="2px"
            textAlign="center"
            borderLeft={at > 0 ? '1px solid' : undefined}
            borderColor="edge"
            bg={run.name === 'any' || run.name === '0' ? 'sea' : undefined}
            overflow="hidden"
          >
            <Box truncate>{run.name}</Box>
            <Flex justify={run.high === run.low ? 'center' : 'space-between'} fontSize="10px" color="ink3" aria-hidden>
              {run.high !== run.low && <span>{run.high}</span>}
              <span>{run.low}</span>
            </Flex>
          </Box>
        ))}
      </Flex>
    </Box>
  );
}
