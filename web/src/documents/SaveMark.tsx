/** Says whether what was typed is kept, and asks where two pages have saved different texts. */
import { Flex, Text } from '@chakra-ui/react';
import { CircleAlert, CloudOff } from 'lucide-react';
import type { Draft, SaveState } from './drafts';
import { Button } from '../ui/Button';

/** One word where all is well, a sentence and a sign where it is not. */
export function SaveMark({ state }: { state: SaveState }) {
  const words = {
    saved: 'saved',
    saving: 'saving …',
    unreachable: 'server not reached, kept in this browser',
    conflict: 'saved elsewhere meanwhile',
    refused: 'not saved',
  };
  const trouble = state.kind !== 'saved' && state.kind !== 'saving';
  return (
    <Flex as="span" align="center" gap="1" color={trouble ? 'problem' : 'ink3'} fontSize="13px" data-testid="save-state" role="status">
      {trouble && <CloudOff size={14} aria-hidden />}
      {words[state.kind]}
    </Flex>
  );
}

interface ConflictProps {
  readonly state: SaveState;
  readonly draft: Draft | undefined;
  /** Gets the other text where that is chosen. */
  readonly take: (text: string) => void;
  /** Shows the two beside each other. */
  readonly compare: (mine: string, theirs: string) => void;
}

export function ConflictBar({ state, draft, take, compare }: ConflictProps) {
  if (state.kind === 'refused') return <Bar>{state.sentence}</Bar>;
  if (state.kind !== 'conflict' || !draft) return null;
  const settle = async (choice: 'mine' | 'theirs') => {
    await draft.resolve(choice, state.theirs, state.revision);
    if (choice === 'theirs') take(state.theirs);
  };
  return (
    <Bar>
      <span>
        This text was saved from another page too: there {state.theirs.split('\n').length} lines, here {draft.text.split('\n').length}.
        Nothing is overwritten until you choose.
      </span>
      <Button onClick={() => compare(draft.text, state.theirs)} data-testid="show-difference">
        Show the difference
      </Button>
      <Button onClick={() => void settle('mine')}>Keep this one</Button>
      <Button onClick={() => void settle('theirs')}>Take the other</Button>
    </Bar>
  );
}

const Bar = ({ children }: { children: React.ReactNode }) => (
  <Flex
    role="alert"
    align="center"
    gap="3"
    px="3"
    py="1.5"
    bg="problemPale"
    color="ink"
    borderBottom="1px solid"
    borderColor="problem"
    wrap="wrap"
  >
    <CircleAlert size={16} aria-hidden />
    <Text as="span" display="contents">
      {children}
    </Text>
  </Flex>
);
