/** Values that make each flag of an instruction once 0 and once 1, found by trying; they can be tried by a press. */
import { Table } from '@chakra-ui/react';
import { memo, useEffect, useState } from 'react';
import { NOTHING_GIVEN, placeKey } from '@zettak/core/engine/sample/bed';
import type { CaseInput, CaseRow, Cases as Found } from '@zettak/core/engine/sample/cases';
import { patchBetween, patched } from '@zettak/core/text/patch';
import { shownDigits, signedReading } from '@zettak/core/text/number';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Hint } from '../ui/Panel';
import { machineIn, useDefined, useDefining, useNotation, useSteady, type Notation } from './defining';
import { Card } from './Card';

/** Plain elements: there are a hundred of them. */
const TABLE = {
  '& td, & th': { fontFamily: 'mono', textAlign: 'left', fontWeight: '400', px: '6px', py: '2px', verticalAlign: 'baseline' },
  '& th': { color: 'ink3' },
  '& tbody tr': { borderTop: '1px solid', borderColor: 'line' },
  '& .set': { fontWeight: '700' },
  '& .acts': { textAlign: 'right' },
  '& small': { color: 'ink3', fontSize: '12px', ms: '5px' },
};

interface CasesProps {
  readonly name: string;
  readonly at: number;
  /** It sets flags. */
  readonly sets: boolean;
  readonly old: boolean;
}

/** Searched anew when nothing has been typed for so long. */
const PAUSE = 350;

export const Cases = memo(function Cases({ name, at, sets, old }: CasesProps) {
  const notation = useNotation();
  const defining = useDefining();
  const [found, setFound] = useState<Found>();
  const [searching, setSearching] = useState(false);
  const given = useDefined((state) => state.given[name]?.[at]) ?? NOTHING_GIVEN;
  useEffect(() => {
    if (!sets) return setFound(undefined);
    let live = true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let asked = 0;
    const search = (): void => {
      clearTimeout(timer);
      setSearching(true);
      const own = ++asked;
      timer = setTimeout(async () => {
        const cases = await engine.definition.cases(name, at);
        if (!live || own !== asked) return;
        if (cases === 'given up') return search();
        setFound((before) => patched(before, patchBetween(before, cases)));
        setSearching(false);
      }, PAUSE);
    };
    search();
    // Of each text that gives a machine, without being drawn anew at each.
    const stop = defining.store.subscribe((now, before) => now.sound?.text !== before.sound?.text && search());
    return () => {
      live = false;
      clearTimeout(timer);
      stop();
    };
  }, [name, at, sets, defining]);
  const tryRow = ({ values }: CaseRow): void => {
    const machine = machineIn(defining.state);
    if (!found || !machine) return;
    const pairs = found.inputs.map((each, index) => [each, values[index] ?? 0] as const);
    const places = Object.fromEntries(pairs.flatMap(([each, value]) => ('place' in each ? [[placeKey(machine, each.place), value]] : [])));
    const operands = Object.fromEntries(
      pairs.flatMap(([each, value]) => ('operand' in each ? [[each.operand, valueOf(each, value)]] : [])),
    );
    defining.give(name, at, {
      ...given,
      seed: given.seed ?? 1,
      operands: { ...given.operands, ...operands },
      places: { ...given.places, ...places },
    });
  };
  const trySteady = useSteady(tryRow);
  if (!sets) return null;
  return (
    <Card data-testid="cases" aria-busy={searching} isolation="isolate">
      <header>
        <h3>All the cases</h3>
        <Hint>{searching ? 'looking for values …' : found ? saysHow(found, old) : 'it works with nothing that could be varied'}</Hint>
      </header>
      {found && <CaseTable {...{ found, notation }} tryRow={trySteady} />}
      {found && found.never.length > 0 && (
        <Hint as="p" pt="4px" data-testid="never">
          {`${found.never.map((each) => `${each.flag} was never ${each.value}`).join(', ')}: ${
            found.exhaustive ? 'all values there are were tried.' : `${found.tried.toLocaleString('en-US')} values were tried.`
          }`}
        </Hint>
      )}
    </Card>
  );
});

interface CaseTableProps {
  readonly found: Found;
  readonly notation: Notation;
  readonly tryRow: (row: CaseRow) => void;
}

/** Left alone while another search goes on. */
const CaseTable = memo(function CaseTable({ found, notation, tryRow }: CaseTableProps) {
  const { flags, inputs, rows, result } = found;
  return (
    <Table.Root css={TABLE}>
      <thead>
        <tr>
          {inputs.map((each) => (
            <th key={each.name}>{each.name}</th>
          ))}
          {result && <th>{`${result.name} after`}</th>}
          {flags.map((each) => (
            <th key={each}>{each}</th>
          ))}
          <th />
        </tr>
      </thead>
      <tbody>
        {rows.map((row, index) => (
          <tr key={index}>
            {inputs.map((each, column) => (
              <td key={each.name}>
                <Number notation={notation} value={row.values[column] ?? 0} width={each.width} radix={each.radix} />
              </td>
            ))}
            {result && (
              <td>
                <Number notation={notation} value={row.result ?? 0} width={result.width} radix={notation.radix} />
              </td>
            )}
            {row.flags.map((flag, column) => (
              <td key={flags[column]} className={flag ? 'set' : undefined}>
                {flag}
              </td>
            ))}
            <td className="acts">
              <Button look="link" onClick={() => tryRow(row)} aria-label={`Try row ${index + 1}`} data-testid="try-case">
                try
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </Table.Root>
  );
});

const saysHow = ({ tried, exhaustive, never }: Found, old: boolean): string =>
  `${never.length === 0 ? 'each flag once 0 and once 1' : exhaustive ? 'all values tried' : 'many values tried'}, ${tried.toLocaleString('en-US')} tried${
    old ? '; as the machine was before the present errors' : ''
  }`;

const valueOf = (input: CaseInput, value: number): number =>
  'operand' in input && input.signed ? signedReading(value, input.width, input.radix) : value;

/** In the machine's base; with its sign where that reads otherwise. */
function Number({ notation, value, width, radix }: { notation: Notation; value: number; width: number; radix: number }) {
  const signed = signedReading(value, width, radix);
  return (
    <>
      {shownDigits(value, width, { radix: radix === 10 ? 10 : 2, base: notation.base })}
      {width > 1 && signed !== value && <small>{`(${String(signed).replace('-', '−')})`}</small>}
    </>
  );
}
