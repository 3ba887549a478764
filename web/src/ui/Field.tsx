/** Fields to type into. */
import { chakra, Input, Textarea, type InputProps } from '@chakra-ui/react';

export interface EntryProps extends Omit<InputProps, 'variant' | 'size'> {
  /** Room for: a word, a count, a value, a whole line; `wide` takes what there is. */
  readonly room?: 'word' | 'count' | 'value' | 'wide' | 'line' | 'free';
  readonly look?: 'plain' | 'bar';
  readonly ref?: React.Ref<HTMLInputElement>;
  readonly 'data-testid'?: string;
}

/** `room` says what is typed there, and so how wide it is. */
export function Entry({ room = 'free', look = 'plain', ...props }: EntryProps) {
  const variants = { variant: look, size: room } as object;
  return <Input {...variants} {...props} />;
}

export { Textarea as TextEntry };

/** Words beside a field, which belong to it. */
export const Label = chakra('label', { base: { display: 'inline-flex', alignItems: 'center', gap: '6px' } });
