/** Say it first: what a class thinks that the next step will bring, and whether it did; with a calculator to work it out. */
import { Box, Table } from '@chakra-ui/react';
import { Check as Right, X as Wrong } from 'lucide-react';
import { useState, type FormEvent } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { entryReading, numberReader } from '@zettak/core/machine/model/numbers';
import { calculate, calculationsOf, type Calculation } from '@zettak/core/session/calculator';
import { BASE_WORDS, shownDigits, shownNumber } from '@zettak/core/text/number';
import { itemAt } from '@zettak/core/text/itemAt';
import { Button } from '../../ui/Button';
import { Check } from '../../ui/Check';
import { Choice } from '../../ui/Choice';
import { Entry } from '../../ui/Field';
import { Controls, Heading, Hint, Refusal } from '../../ui/Panel';
import { useDocument } from '../document';
import { addPrediction, countAnew, dropPrediction, sayOf, usePredictions, type Prediction } from '../predictions';
import { command } from '../run';

export function SayFirstTab() {
  const machine = useDocument((state) => state.machine);
  if (!machine) return <Hint as="p">Load a program first.</Hint>;
  return (
    <Box data-testid="say-first" css={{ '& > section': { breakInside: 'avoid' } }}>
      <Predictions machine={machine} />
      <Judged />
      <Calculator key={machine.name} machine={machine} />
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

function Calculator({ machine }: { machine: Machine }) {
  const [a, setA] = useState('');
  const [b, setB] = useState('');
  const [operator, setOperator] = useState<Calculation>('+');
  const [double, setDouble] = useState(false);
  const predictions = usePredictions((state) => state.list);
  const width = machine.wordWidth * (double ? 2 : 1);
  const { base, radix } = machine;
  const read = (text: string): { value: bigint; says: string } | { refused: string } | undefined => {
    if (text.trim() === '') return undefined;
    const value = numberReader(machine, base)(text.trim());
    if (value === undefined) return { refused: `“${text.trim()}” is no number.` };
    if (BigInt(value) >= BigInt(radix) ** BigInt(width))
      return { refused: `${text.trim()} has more than ${width} ${radix === 10 ? 'digits' : 'bits'}.` };
    const { reads, remark } = entryReading(machine, width, { text, value, base });
    return { value: BigInt(value), says: remark ? `${reads}. ${remark}` : reads };
  };
  const [x, y] = [read(a), read(b)];
  const refused = [x, y].find((each) => each && 'refused' in each);
  const ready = x && y && 'value' in x && 'value' in y ? { x: x.value, y: y.value } : undefined;
  const sum = ready && calculate(machine, { operator, a: ready.x, b: ready.y, width });
  const use = (id: number): void => {
    if (sum) void sayOf(id, shownNumber(sum.result, width, machine), base);
  };
  return (
    <section data-testid="calculator">
      <Heading>{`Calculator, ${width} ${radix === 10 ? 'digits' : 'bits'}, in ${BASE_WORDS[base]}`}</Heading>
      <Controls mt="0">
        <Entry
          value={a}
          maxLength={60}
          width="110px"
          fontFamily="mono"
          aria-label="First number"
          onChange={(event) => setA(event.target.value)}
          data-testid="sum-a"
        />
        <Choice
          label="Operation"
          value={operator}
          choose={(value) => setOperator(value as Calculation)}
          options={calculationsOf(machine).map((value) => ({ value, says: value }))}
          testId="sum-operator"
        />
        <Entry
          value={b}
          maxLength={60}
          width="110px"
          fontFamily="mono"
          aria-label="Second number"
          onChange={(event) => setB(event.target.value)}
          data-testid="sum-b"
        />
        <Check on={double} change={setDouble} testId="sum-double">
          double width
        </Check>
      </Controls>
      {refused && 'refused' in refused && <Refusal role="alert">{refused.refused}</Refusal>}
      {ready && !sum && <Refusal role="alert">Nothing can be divided by 0.</Refusal>}
      {sum && ready && (
        <>
          <Table.Root width="auto" css={WORKED} data-testid="sum">
            <Table.Body>
              {sum.rows.map(({ role, sign, digits, unsigned, signed }, at) => (
                <tr key={at} className={role}>
                  <td>{sign}</td>
                  <td>{digits}</td>
                  <td>
                    {role === 'carry' || radix === 10 || unsigned === ''
                      ? ''
                      : shownDigits(itemAt([ready.x, ready.y, sum.result], Math.min(2, at - (sum.rows.length - 3))), width, machine)}
                  </td>
                  <td>{unsigned}</td>
                  <td>{signed}</td>
                </tr>
              ))}
            </Table.Body>
          </Table.Root>
          {sum.remark && <Hint as="p">{sum.remark}</Hint>}
          {predictions.length > 0 && (
            <Controls>
              <span>Use the result for</span>
              {predictions.map(({ id, place }) => (
                <Button key={id} look="tag" onClick={() => use(id)}>
                  {place}
                </Button>
              ))}
            </Controls>
          )}
        </>
      )}
    </section>
  );
}

const WORKED = {
  fontFamily: 'mono',
  fontSize: '15px',
  mt: '6px',
  '& td': { textAlign: 'right', whiteSpace: 'pre', lineHeight: '21px', paddingInlineEnd: '12px' },
  '& .carry td': { color: 'ink3', fontSize: '13px' },
  '& .carry td:nth-of-type(2)': { fontSize: '15px' },
  '& .result td': { borderTop: '1.5px solid', borderColor: 'ink', fontWeight: '700' },
};
