/** Calls that have not returned, stacks with what lies on them, routines, vectors of traps, and what the run did that is seldom meant. */
import { Box, Table } from '@chakra-ui/react';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { ShownStack, StackItem } from '@zettak/core/session/protocol';
import { addressText } from '@zettak/core/engine/tell/names';
import { itemAt } from '@zettak/core/text/itemAt';
import { useEditor } from '../../editor/handle';
import { engine } from '../../session/engine';
import { Button } from '../../ui/Button';
import { Heading, Hint, Item, List, Refusal } from '../../ui/Panel';
import { withAddress } from '../breakpoints';
import { useDocument } from '../document';
import { setBreakpoints, travel, useRun } from '../run';
import { say } from '../text';

export function CallsTab() {
  const calls = useRun((state) => state.marked?.calls);
  const broken = useRun((state) => state.marked?.callsBroken);
  const longRuns = useRun((state) => state.marked?.longRuns);
  const remarks = useRun((state) => state.marked?.remarks);
  const stacks = useRun((state) => state.marked?.stacks);
  const machine = useDocument((state) => state.machine);
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
              {each.returnLine !== undefined && `, comes back to line ${each.returnLine}`}
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
      {stacks?.map((each) => (
        <StackShown key={each.name} stack={each} />
      ))}
      {machine && <Routines machine={machine} />}
      {machine && <Vectors machine={machine} />}
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

function StackShown({ stack: { name, title, pointer, full, depth, room, items, popped } }: { stack: ShownStack }) {
  return (
    <Box as="section" breakInside="avoid" data-testid={`stack-${name}`}>
      <Heading>{itemAt(title, 0).toUpperCase() + title.slice(1)}</Heading>
      <Hint as="p">
        {depth} on it, room for {room} more; {pointer} points at {full ? 'the top' : 'the next free place'}.
      </Hint>
      {items.length + popped.length > 0 && (
        <Table.Root
          css={{
            '& td': { fontFamily: 'mono', fontSize: '14px', lineHeight: '21px', px: '6px' },
            '& .popped td': { color: 'ink3', fontStyle: 'italic' },
          }}
        >
          <Table.Body>
            {popped.toReversed().map((each) => (
              <ItemRow key={each.place} item={each} taken />
            ))}
            {items.map((each, at) => (
              <ItemRow key={each.place} item={each} top={at === 0} />
            ))}
          </Table.Body>
        </Table.Root>
      )}
    </Box>
  );
}

function ItemRow({ item: { place, value, what, line }, top = false, taken = false }: { item: StackItem; top?: boolean; taken?: boolean }) {
  const editor = useEditor();
  return (
    <tr className={taken ? 'popped' : undefined} data-item={place}>
      <td className="address">{place}</td>
      <td>
        <b>{value}</b>
      </td>
      <Box as="td" fontFamily="body !important">
        {taken ? 'taken off, still there' : [top ? 'top' : '', what].filter(Boolean).join(', ')}{' '}
        {line !== undefined && <Button onClick={() => editor.goToLine(line)}>{`line ${line}`}</Button>}
      </Box>
    </tr>
  );
}

/** Routines of the program: gone to, stopped at, run to. */
function Routines({ machine }: { machine: Machine }) {
  const routines = useRun((state) => state.routines);
  const stops = useRun((state) => state.breakpoints);
  const editor = useEditor();
  if (routines.length === 0) return null;
  return (
    <Box as="section" breakInside="avoid">
      <Heading>Routines</Heading>
      <List data-testid="routines">
        {routines.map(({ name, from, to, line, part }) => {
          const place = addressText(machine, from);
          const stop = stops.some((each) => each.kind === 'address' && each.text === place);
          return (
            <Item key={name}>
              <b>{name}</b>
              <Hint className="piece">{`${place} to ${addressText(machine, to)}`}</Hint>
              {part === undefined && <Button onClick={() => editor.goToLine(line)}>{`line ${line}`}</Button>}
              <Button aria-pressed={stop} onClick={() => setBreakpoints(withAddress(stops, place))} aria-label={`Stop at ${name}`}>
                stop there
              </Button>
              <Button onClick={() => void runTo(name, line, part)} aria-label={`Run to ${name}`}>
                run to it
              </Button>
            </Item>
          );
        })}
      </List>
    </Box>
  );
}

async function runTo(name: string, line: number, part: string | undefined): Promise<void> {
  if (part !== undefined) return say(`${name} stands in a part: stop there and run.`);
  const refused = await engine.run.runUntil({ line });
  if (refused) say(refused.refused);
}

/** Where traps go: the words of the vector table as they are now. */
function Vectors({ machine }: { machine: Machine }) {
  const { system, routines, programSpace } = machine;
  const cells = useRun((state) => state.marked?.spaces[programSpace]?.cells);
  const labels = useRun((state) => state.labels[programSpace]);
  const vector = system?.vector;
  if (!vector || !cells) return null;
  return (
    <Box as="section" breakInside="avoid">
      <Heading>Vectors of traps</Heading>
      <List data-testid="vectors">
        {routines.map(({ number, name }) => {
          const target = itemAt(cells, vector.at + number);
          return (
            <Item key={number}>
              <Box
                as="span"
                className="piece"
                fontFamily="mono"
              >{`${addressText(machine, vector.at + number)}: ${addressText(machine, target)}`}</Box>
              <b>{name}</b>
              <Hint>{labels?.get(target) ?? ''}</Hint>
            </Item>
          );
        })}
      </List>
    </Box>
  );
}
