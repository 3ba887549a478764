import { travel, useRun } from '../run';
import { Box } from '@chakra-ui/react';
import { Button } from '../../ui/Button';
import { Heading, Hint, Item, List, Refusal } from '../../ui/Panel';
/** The calls that have not returned, and what the run did that is seldom meant. */

export function CallsTab() {
  const calls = useRun((state) => state.view?.calls);
  const broken = useRun((state) => state.view?.callsBroken);
  const longRuns = useRun((state) => state.view?.longRuns);
  const remarks = useRun((state) => state.view?.remarks);
  if (!calls || !remarks) return <Hint as="p">Load a program first.</Hint>;
  return (
    <div data-long-runs={longRuns}>
      <Heading>Open calls</Heading>
      {calls.length === 0 && <Hint as="p">None: the run is in the main program.</Hint>}
      <List as="ol" data-testid="calls">
        {calls.toReversed().map((each) => (
          <Item key={`${each.tick} ${each.name}`}>
            <span>
              <b>{each.name}</b>
              {each.from && ` ${each.kind === 'trap' ? 'requested' : 'called'} on ${each.from}`}
            </span>
            {each.tick > 0 && (
              <Button onClick={() => travel(each.tick)} title="Back to the tick of this call">
                tick {each.tick.toLocaleString('en-US')}
              </Button>
            )}
          </Item>
        ))}
      </List>
      {broken && <Refusal>A return has gone to where no call came from, so these calls may not be what they seem.</Refusal>}
      <Heading>Remarks on this run</Heading>
      {longRuns === 'tick' && (
        <Hint as="p">WebAssembly is not allowed here, or cannot carry this machine: long runs are done tick by tick, more slowly.</Hint>
      )}
      {remarks.length === 0 && <Hint as="p">None so far.</Hint>}
      <List data-testid="run-remarks">
        {remarks.map((each) => (
          <Item key={`${each.tick} ${each.sentence}`}>
            <Button onClick={() => travel(each.tick)} title="To the tick that did it">
              tick {each.tick.toLocaleString('en-US')}
            </Button>
            <Box as="span" flex="1" fontSize="14px">
              {each.sentence}
            </Box>
          </Item>
        ))}
      </List>
    </div>
  );
}
