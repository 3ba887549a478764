/** How the bench is laid out: lines, the room's view, layouts that are kept for lessons, and what a lesson does without. */
import { Flex, SimpleGrid } from '@chakra-ui/react';
import { useState, type FormEvent } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { Button } from '../ui/Button';
import { Check } from '../ui/Check';
import { Entry } from '../ui/Field';
import { Controls, Heading, Hint, Item, List } from '../ui/Panel';
import { Window } from '../ui/Window';
import { useDocument } from './document';
import { dropLayout, keepLayout, OPTIONAL, resetLayout, setHidden, setWraps, takeLayout, useHidden, useLayout } from './layout';
import { setLayingOut, setProjecting, useLooks } from './looks';
import { setTelling, useTelling } from './telling';

export function LayoutWindow() {
  const open = useLooks((state) => state.layingOut);
  const wraps = useLayout((state) => state.wraps);
  const machine = useDocument((state) => state.machine);
  const close = (): void => setLayingOut(false);
  const project = (): void => {
    close();
    setProjecting(true);
  };
  return (
    <Window title="Layout of the bench" testId="layout" {...{ open, close }}>
      <Check on={wraps} change={setWraps} testId="wraps">
        Long lines of the program go on below
      </Check>
      <Controls>
        <Button onClick={project} data-testid="to-projector">
          For a room <kbd>p</kbd>
        </Button>
        <Button onClick={resetLayout} data-testid="reset-layout">
          As it comes
        </Button>
      </Controls>
      <Hint as="p" pt="6px">
        Drag the edges between panels, or go to one with Tab and move it with the arrows. Enter at an edge folds the program or the state
        beside it away, and opens it again as wide as it was.
      </Hint>
      <Heading>Sentences</Heading>
      <Sentences />
      {machine && <Lesson machine={machine} />}
      <Named />
    </Window>
  );
}

function Sentences() {
  const { untouched, spoken } = useTelling();
  return (
    <>
      <Check on={untouched} change={(on) => setTelling('untouched', on)} testId="tell-untouched">
        name the flags that are left alone, too
      </Check>
      <Check on={spoken} change={(on) => setTelling('spoken', on)} testId="tell-spoken">
        give numbers as they are said
      </Check>
    </>
  );
}

/** What the first lessons on a machine do without. */
function Lesson({ machine }: { machine: Machine }) {
  const hidden = useHidden(machine.name);
  const names = [...OPTIONAL, ...machine.registers.filter((each) => each.array === undefined).map((each) => each.name)];
  return (
    <>
      <Heading>{`Shown of ${machine.name}`}</Heading>
      <SimpleGrid columns={3} gap="2px" maxHeight="180px" overflow="auto" data-testid="lesson">
        {names.map((name) => (
          <Check
            key={name}
            on={!hidden.includes(name)}
            change={(on) => setHidden(machine.name, on ? hidden.filter((each) => each !== name) : [...hidden, name])}
          >
            {name}
          </Check>
        ))}
      </SimpleGrid>
    </>
  );
}

function Named() {
  const named = useLayout((state) => state.named);
  const [name, setName] = useState('');
  const add = (event: FormEvent): void => {
    event.preventDefault();
    if (name.trim() === '') return;
    keepLayout(name.trim());
    setName('');
  };
  return (
    <>
      <Heading>Kept for lessons</Heading>
      <List data-testid="layouts">
        {Object.keys(named).map((each) => (
          <Item key={each}>
            <Flex flex="1" fontWeight="650">
              {each}
            </Flex>
            <Button onClick={() => takeLayout(each)}>Use</Button>
            <Button onClick={() => dropLayout(each)} aria-label={`Forget the layout ${each}`}>
              ×
            </Button>
          </Item>
        ))}
      </List>
      <Controls as="form" onSubmit={add}>
        <Entry
          value={name}
          maxLength={40}
          placeholder="first lesson"
          aria-label="Name for the present layout"
          onChange={(event) => setName(event.target.value)}
          data-testid="layout-name"
        />
        <Button type="submit" disabled={name.trim() === ''}>
          Keep this layout
        </Button>
      </Controls>
    </>
  );
}
