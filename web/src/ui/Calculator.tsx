/** Sums as somebody works them by hand, in the width and base of a machine, with what is carried. */
import { Table } from '@chakra-ui/react';
import { useState } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { entryReading, numberReader } from '@zettak/core/machine/model/numbers';
import { calculate, calculationsOf, type Calculation } from '@zettak/core/session/calculator';
import { BASE_WORDS, shownDigits, shownNumber } from '@zettak/core/text/number';
import { itemAt } from '@zettak/core/text/itemAt';
import { Button } from './Button';
import { Check } from './Check';
import { Choice } from './Choice';
import { Entry } from './Field';
import { Controls, Heading, Hint, Refusal } from './Panel';

/** What the result can be used for. */
export interface ResultUse {
  readonly id: string;
  readonly says: string;
}

interface CalculatorProps {
  readonly machine: Machine;
  readonly words: string;
  readonly uses: readonly ResultUse[];
  /** `result` in the machine's base, marked; `digits` of it. */
  readonly use: (id: string, result: string, digits: number) => void;
}

export function Calculator({ machine, words, uses, use }: CalculatorProps) {
  const [a, setA] = useState('');
  const [b, setB] = useState('');
  const [operator, setOperator] = useState<Calculation>('+');
  const [double, setDouble] = useState(false);
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
          {uses.length > 0 && (
            <Controls>
              <span>{words}</span>
              {uses.map(({ id, says }) => (
                <Button key={id} look="tag" onClick={() => use(id, shownNumber(sum.result, width, machine), width)}>
                  {says}
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
