/** One of several, chosen from a list that opens; typing goes to what begins so. */
import { NativeSelect, type NativeSelectFieldProps } from '@chakra-ui/react';

export interface ChoiceProps extends Omit<NativeSelectFieldProps, 'value' | 'onChange'> {
  readonly value: string | number;
  readonly choose: (value: string) => void;
  readonly options: readonly { readonly value: string | number; readonly says: string }[];
  readonly look?: 'plain' | 'head' | 'bar' | 'barEnd';
  /** Its name, where no label stands beside it. */
  readonly label: string;
  readonly testId?: string | undefined;
}

export function Choice({ value, choose, options, look = 'plain', label, testId, ...props }: ChoiceProps) {
  const variant = { variant: look } as object;
  return (
    <NativeSelect.Root {...variant} width="auto">
      <NativeSelect.Field
        {...props}
        aria-label={label}
        value={String(value)}
        onChange={(event) => choose(event.target.value)}
        {...(testId !== undefined && { 'data-testid': testId })}
      >
        {options.map((each) => (
          <option key={each.value} value={String(each.value)}>
            {each.says}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}
