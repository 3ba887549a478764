/** Everything that a program is given before it runs, in one place: its own inputs, any register or cell, the queue, the switches. */
import { Box, Flex } from '@chakra-ui/react';
import { useState, type FormEvent } from 'react';
import { BASE_WORDS, type Base } from '@zettak/core/text/number';
import { engine } from '../../session/engine';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Entry } from '../../ui/Field';
import { Controls, Heading, Hint, Refusal } from '../../ui/Panel';
import { useDocument } from '../document';
import { GivenInputs } from '../Given';
import { forgetGiven, remember, useGivenByHand, type GivenByHand } from '../givenByHand';
import { InputQueue } from '../InputQueue';
import { Switches } from '../Lines';
import { useMeant } from '../meant';
import { usePlaceExamples } from '../placeExamples';
import { useRun } from '../run';

export function GiveTab() {
  const loaded = useRun((state) => state.view !== undefined);
  if (!loaded) return <Hint as="p">Nothing is loaded yet.</Hint>;
  return (
    <Box data-testid="give" css={{ '& > section': { breakInside: 'avoid' } }}>
      <section aria-label="Places and values">
        <GivenInputs />
        <AnyPlace />
        <ByHand />
      </section>
      <section aria-label="Queue and switches">
        <Heading>What it will read</Heading>
        <InputQueue testId="give-queue" takesFocus={false} />
        <Switches />
      </section>
    </Box>
  );
}

const BASES: readonly Base[] = [16, 10, 8, 2];

/** A register, a flag, a port, a name or a cell, and its value; how that is read stands below before it is taken. */
function AnyPlace() {
  const { places } = usePlaceExamples();
  const machine = useDocument((state) => state.machine);
  const program = useDocument((state) => state.program?.id ?? '');
  const [place, setPlace] = useState('');
  const [text, setText] = useState('');
  const [base, setBase] = useState<Base>();
  const read = base ?? machine?.base ?? 10;
  const [said, refuse] = useMeant(place, text, read);
  const give = async (): Promise<void> => {
    if (place.trim() === '' || text.trim() === '') return;
    const refused = await engine.hand.setPlace(place, text, read);
    if (refused) return refuse(refused.refused);
    remember(program, { place: place.trim(), text: text.trim(), base: read });
    setText('');
  };
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    void give();
  };
  return (
    <>
      <Heading>Any place</Heading>
      <Controls as="form" onSubmit={submit}>
        <Entry
          fontFamily="mono"
          value={place}
          maxLength={200}
          width="230px"
          placeholder={places}
          aria-label="Register, flag, name or cell"
          onChange={(event) => setPlace(event.target.value)}
          data-testid="give-place"
        />
        <Entry
          fontFamily="mono"
          value={text}
          maxLength={200}
          width="150px"
          placeholder="value"
          aria-label={`Its value, ${BASE_WORDS[read]} unless it says otherwise`}
          aria-invalid={said?.refused}
          onChange={(event) => setText(event.target.value)}
          data-testid="give-value"
        />
        {machine?.radix === 2 && (
          <Choice
            label="Base of unmarked numbers"
            testId="give-base"
            value={String(read)}
            choose={(value) => setBase(Number(value) as Base)}
            options={BASES.map((each) => ({ value: String(each), says: BASE_WORDS[each] }))}
          />
        )}
        <Button type="submit" disabled={place.trim() === '' || text.trim() === ''} data-testid="give-it">
          Give
        </Button>
      </Controls>
      <Box role="status" minHeight="20px" fontSize="13px" data-testid="give-said">
        {said && (said.refused ? <Refusal as="span">{said.says}</Refusal> : `${place.trim()} ${said.says}`)}
      </Box>
    </>
  );
}

const NONE: readonly GivenByHand[] = [];

/** What was given by hand here, to be given again after a start from the beginning. */
function ByHand() {
  const program = useDocument((state) => state.program?.id ?? '');
  const list = useGivenByHand((state) => state.given[program] ?? NONE);
  const [said, setSaid] = useState('');
  if (list.length === 0) return null;
  const again = async (): Promise<void> => {
    const refused: string[] = [];
    for (const { place, text, base } of list) {
      const answer = await engine.hand.setPlace(place, text, base);
      if (answer) refused.push(`${place}: ${answer.refused}`);
    }
    setSaid(refused.length > 0 ? refused.join(' ') : `Given once more: ${list.map((each) => each.place).join(', ')}.`);
  };
  return (
    <Flex wrap="wrap" gap="6px" align="center" fontSize="13px" data-testid="given-by-hand">
      {list.map(({ place, text, base }) => (
        <Flex key={place} gap="4px" align="center" border="1px solid" borderColor="edge" borderRadius="5px" px="6px" fontFamily="mono">
          {place} = {text} <Hint>{BASE_WORDS[base]}</Hint>
          <Button look="bare" aria-label={`Forget that ${place} was given`} onClick={() => forgetGiven(program, place)}>
            ×
          </Button>
        </Flex>
      ))}
      <Button onClick={() => void again()} data-testid="give-again">
        Give all again
      </Button>
      <Hint role="status">{said}</Hint>
    </Flex>
  );
}
