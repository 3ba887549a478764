/** Say it first: what a class thinks that the next step will bring, and whether it did; with a calculator to work it out. */
import { Box, Table } from '@chakra-ui/react';
import { Check as Right, X as Wrong } from 'lucide-react';
import { useEffect, useState, type FormEvent } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { BASE_WORDS } from '@zettak/core/text/number';
import { expectInSet, setNames } from '../../documents/addToSets';
import { Button } from '../../ui/Button';
import { Calculator } from '../../ui/Calculator';
import { Choice } from '../../ui/Choice';
import { Entry } from '../../ui/Field';
import { Controls, Heading, Hint } from '../../ui/Panel';
import { useDocument } from '../document';
import { addPrediction, countAnew, dropPrediction, sayOf, usePredictions, type Prediction } from '../predictions';
import { usePlaceExamples } from '../placeExamples';
import { command } from '../run';

export function SayFirstTab() {
  const machine = useDocument((state) => state.machine);
  const list = usePredictions((state) => state.list);
  const program = useDocument((state) => state.program);
  const [pinned, setPinned] = useState('');
  const [told, setTold] = useState('');
  const expect = async (place: string, text: string): Promise<void> => {
    if (program) setTold(await expectInSet(program, pinned, place, text));
  };
  if (!machine) return <Hint as="p">Load a program first.</Hint>;
  return (
    <Box data-testid="say-first" css={{ '& > section': { breakInside: 'avoid' } }}>
      <Predictions machine={machine} expect={pinned === '' ? undefined : expect} />
      <Judged />
      <Calculator
        key={machine.name}
        machine={machine}
        words="Use the result for"
        uses={[
          ...list.map(({ id, place }) => ({ id: String(id), says: place })),
          ...(pinned === '' ? [] : list.map(({ place }) => ({ id: `set ${place}`, says: `${place} of “${pinned}”` }))),
        ]}
        use={(id, result) => void (id.startsWith('set ') ? expect(id.slice(4), result) : sayOf(Number(id), result, machine.base))}
      />
      {program && <PinnedSet program={program.id} pinned={pinned} choose={setPinned} told={told} />}
    </Box>
  );
}

/** The set of trials that what is said, or worked out, is expected in at the end of the run. */
function PinnedSet({ program, pinned, choose, told }: { program: string; pinned: string; choose: (name: string) => void; told: string }) {
  const [names, setNamesHere] = useState<readonly string[]>([]);
  useEffect(() => {
    let live = true;
    void setNames(program).then(
      (found) => live && setNamesHere(found),
      () => undefined,
    );
    return () => {
      live = false;
    };
  }, [program, told]);
  const options = [...new Set([...names, 'said first'])];
  return (
    <section>
      <Controls>
        <span>At the end of the run it is expected in</span>
        <Choice
          label="A set of trials that takes what is said"
          value={pinned}
          choose={choose}
          options={[{ value: '', says: 'no set' }, ...options.map((value) => ({ value, says: `the set “${value}”` }))]}
          testId="pin-set"
        />
      </Controls>
      <Hint as="p" role="status" data-testid="pin-told">
        {told}
      </Hint>
    </section>
  );
}

type Expect = ((place: string, text: string) => Promise<void>) | undefined;

function Predictions({ machine, expect }: { machine: Machine; expect: Expect }) {
  const { cells } = usePlaceExamples();
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
        <PredictionRow key={each.id} machine={machine} said={each} expect={expect} />
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
          placeholder={cells}
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

function PredictionRow({
  machine,
  said: { id, place, text, reading, value },
  expect,
}: {
  machine: Machine;
  said: Prediction;
  expect: Expect;
}) {
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
      {expect && value !== undefined && (
        <Button onClick={() => void expect(place, `0d${value}`)} data-testid="pin">
          Expect it
        </Button>
      )}
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
