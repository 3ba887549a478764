/** Say it first: what a class thinks that the next step will bring, and whether it did; with a calculator to work it out. */
import { Box, Table } from '@chakra-ui/react';
import { Check as Right, X as Wrong } from 'lucide-react';
import { useState, type FormEvent } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { BASE_WORDS } from '@zettak/core/text/number';
import { Button } from '../../ui/Button';
import { Calculator } from '../../ui/Calculator';
import { Choice } from '../../ui/Choice';
import { Entry } from '../../ui/Field';
import { Controls, Heading, Hint } from '../../ui/Panel';
import { useDocument } from '../document';
import { addPrediction, countAnew, dropPrediction, sayOf, usePredictions, type Prediction } from '../predictions';
import { command } from '../run';

export function SayFirstTab() {
  const machine = useDocument((state) => state.machine);
  const list = usePredictions((state) => state.list);
  if (!machine) return <Hint as="p">Load a program first.</Hint>;
  return (
    <Box data-testid="say-first" css={{ '& > section': { breakInside: 'avoid' } }}>
      <Predictions machine={machine} />
      <Judged />
      <Calculator
        key={machine.name}
        machine={machine}
        words="Use the result for"
        uses={list.map(({ id, place }) => ({ id: String(id), says: place }))}
        use={(id, result) => void sayOf(Number(id), result, machine.base)}
      />
    </Box>
  );
}

function Predictions({ machine }: { machine: Machine }) {
  const list = usePredictions((state) => state.list);
  const [place, setPlace] = useState('');
  const add = (event: FormEvent): void => {
    event.preventDefault();
    if (place.trim() !== '') addPrediction(place.trim());
    setPlace('');
  };
  const usual = [...machine.registers.filter((each) => each.array === undefined), ...machine.flags].map((each) => each.name);
  const free = usual.filter((each) => !list.some((said) => said.place === each));
  return (
    <section>
      <Heading>After the next step …</Heading>
      {list.map((each) => (
        <PredictionRow key={each.id} machine={machine} said={each} />
      ))}
      <Controls as="form" onSubmit={add}>
        <Choice
          label="A register or flag to say something of"
          value=""
          choose={addPrediction}
          options={[{ value: '', says: 'a register, a flag …' }, ...free.map((value) => ({ value, says: value }))]}
          testId="predict-choice"
        />
        <Entry
          value={place}
          maxLength={60}
          width="130px"
          fontFamily="mono"
          placeholder="level, M[0x40]"
          aria-label="A cell to say something of"
          onChange={(event) => setPlace(event.target.value)}
          data-testid="predict-place"
        />
        <Button type="submit" disabled={place.trim() === ''}>
          Add
        </Button>
        <Button
          look="strong"
          data-bench
          onClick={() => command('instruction')}
          disabled={!list.some((each) => each.value !== undefined)}
          data-testid="predict-step"
        >
          Step, and see
        </Button>
      </Controls>
    </section>
  );
}

function PredictionRow({ machine, said: { id, place, text, reading, value } }: { machine: Machine; said: Prediction }) {
  const { base } = machine;
  return (
    <Controls mt="4px" data-prediction={place}>
      <Box as="b" fontFamily="mono" fontSize="15px" color="ink" minWidth="44px">
        {place}
      </Box>
      <span>will be</span>
      <Entry
        value={text}
        maxLength={60}
        width="110px"
        fontFamily="mono"
        aria-label={`What ${place} will be, in ${BASE_WORDS[base]}`}
        aria-invalid={text !== '' && value === undefined && reading !== ''}
        onChange={(event) => void sayOf(id, event.target.value, base)}
        onKeyDown={(event) => event.key === 'Enter' && value !== undefined && command('instruction')}
      />
      <Hint role="status" flex="1">
        {reading || `in ${BASE_WORDS[base]}${place === 'PC' ? ', or a name' : ''}`}
      </Hint>
      <Button onClick={() => dropPrediction(id)} aria-label={`Say nothing of ${place}`}>
        ×
      </Button>
    </Controls>
  );
}

function Judged() {
  const { judged, right, wrong } = usePredictions();
  return (
    <section>
      <Heading>
        {`Said right: ${right} of ${right + wrong}`}{' '}
        {judged.length > 0 && (
          <Button ms="10px" onClick={countAnew}>
            Count anew
          </Button>
        )}
      </Heading>
      {judged.length === 0 && <Hint as="p">Say what a place will hold, then step: agreement or difference stands here.</Hint>}
      <Table.Root width="auto" data-testid="judged" css={{ '& td': { fontSize: '15px', lineHeight: '23px' } }}>
        <Table.Body>
          {judged.map(({ place, said, came, right: agrees, tick }, at) => (
            <tr key={`${tick} ${place} ${at}`}>
              <Box as="td" color={agrees ? 'ok' : 'problem'} whiteSpace="nowrap">
                {agrees ? <Right size={15} aria-label="right" /> : <Wrong size={15} aria-label="different" />}
              </Box>
              <Box as="td" px="8px">
                <b>{place}</b> {agrees ? `is ${came}, as said` : `is ${came}; said was ${said}`}
              </Box>
              <Box as="td" color="ink3">
                tick {tick}
              </Box>
            </tr>
          ))}
        </Table.Body>
      </Table.Root>
    </section>
  );
}
