/** Words on a card. */
import { chakra } from '@chakra-ui/react';

/** px of a line. */
const HIGH = 18;

interface LinesProps {
  /** Lines that have room, whether their words have come yet or not: no card moves another under the hand. */
  readonly most: number;
  readonly children: string | undefined;
  readonly color?: string;
  readonly [data: `data-${string}`]: string | number | undefined;
}

export function Lines({ most, children, color = 'ink3', ...data }: LinesProps) {
  return (
    <chakra.p
      fontSize="13px"
      lineHeight={`${HIGH}px`}
      height={`${most * HIGH}px`}
      lineClamp={most}
      color={color}
      title={children}
      {...data}
    >
      {children}
    </chakra.p>
  );
}
