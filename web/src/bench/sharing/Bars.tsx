/** What stands over the bench while it is shared, and over one that follows. */
import { Box, Flex } from '@chakra-ui/react';
import { Button } from '../../ui/Button';
import { Entry } from '../../ui/Field';
import { Hint, Notice } from '../../ui/Panel';
import { comeBack, letGo, useFollow } from './follow';
import { endShare, useShare } from './share';

export function ShareBar() {
  const { link, followers, paused, failure } = useShare();
  if (link === undefined && failure === undefined) return null;
  return (
    <Notice role="status" data-testid="share-bar">
      {link !== undefined && (
        <>
          <Box whiteSpace="nowrap">{followers === 1 ? 'One browser follows' : `${followers} browsers follow`} this bench.</Box>
          {paused && <b>Paused: a hidden set stands here.</b>}
          <Entry
            aria-label="The link for the class"
            readOnly
            value={link}
            room="wide"
            onFocus={(event) => event.target.select()}
            data-testid="share-link"
          />
          <Button onClick={() => void endShare()} data-testid="share-end">
            End it
          </Button>
        </>
      )}
      {failure !== undefined && <Box color="problem">{failure}</Box>}
    </Notice>
  );
}

export function FollowBar() {
  const { follows, along, shared, away, failure } = useFollow();
  if (!follows) return null;
  const says =
    failure ??
    (shared?.ended
      ? 'The bench is not shared any more. What stands here is yours.'
      : away
        ? 'The shared bench cannot be heard just now; this page goes on by itself and listens again.'
        : shared?.paused
          ? 'The teacher looks at something else just now.'
          : along
            ? 'This page follows the teacher’s bench.'
            : 'You are on your own way; the class goes on.');
  return (
    <Notice role="status" data-testid="follow-bar">
      <Flex flex="1" align="center" gap="10px">
        {says}
        {!along && shared && <Hint>there: tick {shared.tick.toLocaleString('en-US')}</Hint>}
      </Flex>
      {!failure && !shared?.ended && (
        <Button look={along ? 'plain' : 'strong'} onClick={() => (along ? letGo() : void comeBack())} data-testid="follow-turn">
          {along ? 'Try by yourself' : 'Back to the class'}
        </Button>
      )}
    </Notice>
  );
}
