/** Every button of the screens, and what is shown of it while somebody points at it. */
import { Button as ChakraButton, Portal, Tooltip, type ButtonProps as ChakraButtonProps } from '@chakra-ui/react';

export type ButtonLook = 'plain' | 'strong' | 'tone' | 'danger' | 'bar' | 'go' | 'barIcon' | 'barLine' | 'link' | 'bare' | 'row' | 'tag';

export interface ButtonProps extends Omit<ChakraButtonProps, 'variant' | 'size'> {
  readonly look?: ButtonLook;
  /** More words on what it does. */
  readonly tip?: string | undefined;
  /** After a press with the mouse the keys belong to the bench again. */
  readonly 'data-bench'?: boolean;
  readonly ref?: React.Ref<HTMLButtonElement>;
  readonly 'data-testid'?: string | undefined;
}

/** With `tip` the words are shown in a moment while it is pointed at or has the focus. */
export function Button({ look = 'plain', tip, ...props }: ButtonProps) {
  const variant = { variant: look } as object;
  const button = <ChakraButton {...variant} {...props} />;
  return tip === undefined ? button : <Tip words={tip}>{button}</Tip>;
}

/** For what is drawn anew at every tick: an element as it is, dressed once for all by the style sheet. */
export const PlainButton = ({ className = '', ...props }: React.ComponentProps<'button'>) => (
  <button type="button" {...props} className={`plain-button ${className}`} />
);

function Tip({ words, children }: { words: string; children: React.ReactElement }) {
  return (
    <Tooltip.Root openDelay={500} closeDelay={0} positioning={{ placement: 'bottom' }} lazyMount unmountOnExit>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Portal>
        <Tooltip.Positioner>
          <Tooltip.Content>{words}</Tooltip.Content>
        </Tooltip.Positioner>
      </Portal>
    </Tooltip.Root>
  );
}
