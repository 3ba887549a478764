/** One of a few, all of them seen; arrow keys go from one to the next. */
import { SegmentGroup } from '@chakra-ui/react';

interface SegmentsProps<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly choose: (value: T) => void;
  readonly options: readonly T[];
  readonly testId?: string;
}

export function Segments<T extends string>({ label, value, choose, options, testId }: SegmentsProps<T>) {
  return (
    <SegmentGroup.Root
      aria-label={label}
      value={value}
      onValueChange={(change) => change.value !== null && choose(change.value as T)}
      data-testid={testId}
    >
      {options.map((each) => (
        <SegmentGroup.Item key={each} value={each} data-bench>
          <SegmentGroup.ItemText>{each}</SegmentGroup.ItemText>
          <SegmentGroup.ItemHiddenInput />
        </SegmentGroup.Item>
      ))}
    </SegmentGroup.Root>
  );
}
