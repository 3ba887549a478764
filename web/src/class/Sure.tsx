/** Asks before something is done that cannot be undone. */
import { Box } from '@chakra-ui/react';
import { Button } from '../ui/Button';
import { Window } from '../ui/Window';

interface SureProps {
  readonly open: boolean;
  readonly close: () => void;
  readonly title: string;
  readonly does: string;
  readonly act: () => Promise<void>;
  readonly children: React.ReactNode;
}

export const Sure = ({ open, close, title, does, act, children }: SureProps) => (
  <Window title={title} open={open} close={close} closes="Keep it" testId="sure">
    <Box mb="12px">{children}</Box>
    <Button look="danger" onClick={() => void act().then(close)} data-testid="sure-act">
      {does}
    </Button>
  </Window>
);
