/** The bits of a value, each turned by a press, with the names of the fields that they belong to. */
import { chakra } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { engine } from '../session/engine';
import { PlainButton } from '../ui/Button';
import { Hint } from '../ui/Panel';
import { useRun } from './run';

const Row = chakra('div', {
  base: {
    display: 'flex',
    flexWrap: 'wrap',
    gap: '8px',
    maxWidth: '330px',
    '& .field': { display: 'flex', flexDirection: 'column', alignItems: 'center', borderBottom: '2px solid', borderColor: 'edge' },
    '& .field > span': { display: 'flex', gap: '2px' },
    '& button': {
      width: '19px',
      height: '24px',
      border: '1px solid',
      borderColor: 'edge',
      borderRadius: '3px',
      fontFamily: 'mono',
      fontSize: '15px',
      cursor: 'pointer',
      _hover: { bg: 'sea2' },
    },
    '& button[aria-pressed=true]': { bg: 'ink', color: 'paper', fontWeight: '700' },
    '& .field button': { textAlign: 'center' },
    '& small': { fontSize: '13px', color: 'ink2' },
  },
});

interface Field {
  readonly name: string;
  readonly high: number;
  readonly low: number;
}

/** Fields of a value from the top down; what no field has in between stands without a name. */
function fieldsOf(machine: Machine, place: string, width: number): Field[] {
  const parts = machine.registers.find((each) => each.name === place)?.parts ?? new Map();
  const named = [...parts].map(([name, { high, low }]) => ({ name, high, low })).sort((a, b) => b.high - a.high);
  const list: Field[] = [];
  let top = width - 1;
  for (const each of named) {
    // A field within another one is told by the larger.
    if (each.high > top) continue;
    if (each.high < top) list.push({ name: '', high: top, low: each.high + 1 });
    list.push(each);
    top = each.low - 1;
  }
  if (top >= 0) list.push({ name: '', high: top, low: 0 });
  // Without names, in groups of four.
  return list.flatMap((each) => (each.name !== '' ? [each] : inFours(each)));
}

function inFours({ high, low }: Field): Field[] {
  const list: Field[] = [];
  for (let top = high; top >= low;) {
    const bottom = Math.max(low, top - (top % 4));
    list.push({ name: '', high: top, low: bottom });
    top = bottom - 1;
  }
  return list;
}

export function Bits({ machine, place }: { machine: Machine; place: string }) {
  const ticks = useRun((state) => state.view?.ticks);
  const [held, setHeld] = useState<{ readonly value: number; readonly width: number }>();
  const [turned, setTurned] = useState(0);
  const [refused, setRefused] = useState<string>();
  useEffect(() => {
    let live = true;
    void engine.hand.valueAt(place).then((found) => live && setHeld(found));
    return () => {
      live = false;
    };
  }, [place, ticks, turned]);
  if (!held || machine.radix !== 2) return null;
  const { value, width } = held;
  const bitOf = (bit: number): number => Math.floor(value / 2 ** bit) % 2;
  const turn = async (bit: number): Promise<void> => {
    const answer = await engine.hand.setPlace(place, String(value + (bitOf(bit) ? -1 : 1) * 2 ** bit), 10);
    setRefused(answer?.refused);
    setTurned((count) => count + 1);
  };
  return (
    <>
      <Row data-testid="bits">
        {fieldsOf(machine, place, width).map(({ name, high, low }) => (
          <span key={high} className="field">
            <span>
              {Array.from({ length: high - low + 1 }, (_, at) => high - at).map((bit) => (
                <PlainButton
                  key={bit}
                  aria-pressed={bitOf(bit) === 1}
                  aria-label={`Bit ${bit} of ${place}`}
                  onClick={() => void turn(bit)}
                  data-bit={bit}
                >
                  {bitOf(bit)}
                </PlainButton>
              ))}
            </span>
            {name !== '' && <small>{name}</small>}
          </span>
        ))}
      </Row>
      {refused !== undefined && <Hint role="alert">{refused}</Hint>}
    </>
  );
}
