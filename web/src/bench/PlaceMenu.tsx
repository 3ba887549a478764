/** What can be done with a value that somebody points at: set it, stop at it, ask who wrote it. */
import { Flex, Popover, Portal } from '@chakra-ui/react';
import { useState, type FormEvent } from 'react';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Entry, Label } from '../ui/Field';
import { Hint, Refusal } from '../ui/Panel';
import { Bits } from './Bits';
import { nextId } from './breakpoints';
import type { BreakSpec } from '@zettak/core/session/protocol';
import { useDocument } from './document';
import { baseRead, type Pointed, useLooks, askAbout } from './looks';
import { BASE_WORDS } from '@zettak/core/text/number';
import { useMeant } from './meant';
import { setBreakpoints, useRun } from './run';
import { say } from './text';

/** Where an element stands in the window, in pixels. */
export const boxOf = (element: Element): Pointed['at'] => {
  const { x, y, width, height } = element.getBoundingClientRect();
  return { x, y, width, height };
};

/** Stands beside the place that is pointed at, as long as one is. */
export function PlaceMenu() {
  const pointed = useLooks((state) => state.pointed);
  return (
    <Popover.Root
      open={pointed !== undefined}
      onOpenChange={({ open }) => !open && askAbout(undefined)}
      positioning={{ placement: 'left-start', getAnchorRect: () => pointed?.at ?? null }}
      lazyMount
      unmountOnExit
    >
      <Portal>
        <Popover.Positioner>
          <Popover.Content width="auto" data-testid="place-menu">
            {pointed && <Choices key={pointed.place} pointed={pointed} />}
          </Popover.Content>
        </Popover.Positioner>
      </Portal>
    </Popover.Root>
  );
}

function Choices({ pointed: { place, name, cell } }: { pointed: Pointed }) {
  const [value, setValue] = useState('');
  const [refused, setRefused] = useState<string>();
  const close = (): void => askAbout(undefined);
  const machine = useDocument((state) => state.machine);
  const shownBase = useLooks((state) => state.base);
  // Registers are shown in the machine's own base, cells in that of the memory.
  const base = machine ? (cell ? baseRead(machine, shownBase) : machine.base) : 10;
  const [meant] = useMeant(place, value, base);
  const set = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    const answer = await engine.hand.setPlace(place, value, base);
    if (answer) setRefused(answer.refused);
    else close();
  };
  const stop = (kind: BreakSpec['kind'], print = ''): void => {
    const { breakpoints: stops } = useRun.getState();
    const known = stops.some((each) => each.kind === kind && each.text === place && each.print === print);
    if (!known) setBreakpoints([...stops, { id: nextId(stops), kind, text: place, enabled: true, ignore: 0, print }]);
    const when = kind === 'read' ? 'is read' : kind === 'write' ? 'is written' : 'changes';
    say(
      print
        ? `Whenever ${name} changes it is written into the wake.`
        : `The run stops after ${name} ${when}. “Run tools”, Stops, has the list.`,
      { done: true },
    );
    close();
  };
  const lastWritten = async (): Promise<void> => {
    close();
    const answer = await engine.past.ask({ kind: 'written', place });
    say('sentence' in answer ? answer.sentence : 'none' in answer ? answer.none : answer.refused, { done: true });
  };
  return (
    <>
      <Popover.Title>{name}</Popover.Title>
      <Flex as="form" gap="8px" align="center" onSubmit={(event) => void set(event)}>
        <Label>
          set to{' '}
          <Entry
            room="value"
            value={value}
            maxLength={200}
            autoFocus
            aria-invalid={refused !== undefined}
            onChange={(event) => {
              setValue(event.target.value);
              setRefused(undefined);
            }}
            data-testid="place-value"
          />
        </Label>
        <Button type="submit" disabled={value.trim() === ''}>
          Set
        </Button>
      </Flex>
      {!refused && (
        <Hint as="p" role="status" maxWidth="420px" data-testid="place-reading">
          {meant?.says ?? `read as ${BASE_WORDS[base]}`}
        </Hint>
      )}
      {refused && (
        <Refusal role="alert" data-testid="place-refused">
          {refused}
        </Refusal>
      )}
      {machine && <Bits machine={machine} place={place} />}
      <Button onClick={() => stop('change')} data-testid="place-change">
        Stop after a change
      </Button>
      <Button onClick={() => stop('write')} data-testid="place-write">
        Stop after any write
      </Button>
      {cell && (
        <Button onClick={() => stop('read')} data-testid="place-read">
          Stop after a read
        </Button>
      )}
      <Button onClick={() => stop('change', place)} data-testid="place-print">
        Write each change into the wake
      </Button>
      <Button onClick={() => void lastWritten()} data-testid="place-last">
        Go to where it was last written
      </Button>
    </>
  );
}
