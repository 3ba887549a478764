/** What the program is given before it runs, and what it finds: the places that it declares, in their own base and unit. */
import { chakra } from '@chakra-ui/react';
import { useState } from 'react';
import type { DeclaredPlace } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import { itemAt } from '@zettak/core/text/itemAt';
import { readingText } from '@zettak/core/text/number';
import { engine } from '../session/engine';
import { Entry } from '../ui/Field';
import { useDocument } from './document';
import { useMeant } from './meant';
import { useRun } from './run';
import { useText } from './text';

/** How an unmarked number is read where a place is declared in a base. */
const BASE_OF: Readonly<Record<string, number>> = { hex: 16, binary: 2, octal: 8 };

const Places = chakra('dl', {
  base: {
    display: 'flex',
    flexWrap: 'wrap',
    alignItems: 'baseline',
    columnGap: '14px',
    rowGap: '3px',
    px: '12px',
    py: '4px',
    fontSize: '13px',
    color: 'ink2',
    flexShrink: '0',
    maxHeight: '68px',
    overflow: 'auto',
    borderTop: '1px solid',
    borderColor: 'line',
    '& div': { display: 'flex', alignItems: 'baseline', gap: '5px' },
    '& dt': { fontFamily: 'mono', fontWeight: '700', color: 'ink' },
    '& dd': { display: 'flex', alignItems: 'baseline', gap: '5px' },
    '& b': { fontFamily: 'mono', fontSize: '15px', color: 'ink' },
    '& .refused': { color: 'problem' },
  },
});

/** Nothing where the program declares nothing. */
export function Given() {
  const machine = useDocument((state) => state.machine);
  const declared = useText((state) => state.listing.declared);
  if (!machine || !declared || declared.length === 0) return null;
  const [inputs, outputs] = [declared.filter((each) => each.way === 'input'), declared.filter((each) => each.way === 'output')];
  return (
    <>
      {inputs.length > 0 && (
        <Places aria-label="What the program is given" data-testid="given">
          {inputs.map((each) => (
            <GivenPlace key={each.name} machine={machine} place={each} />
          ))}
        </Places>
      )}
      {outputs.length > 0 && (
        <Places aria-label="What the program finds" data-testid="found">
          {outputs.map((each) => (
            <FoundPlace key={each.name} machine={machine} place={each} />
          ))}
        </Places>
      )}
    </>
  );
}

/** The inputs alone, for where everything is given. */
export function GivenInputs() {
  const machine = useDocument((state) => state.machine);
  const inputs = useText((state) => state.listing.declared)?.filter((each) => each.way === 'input') ?? [];
  if (!machine || inputs.length === 0) return null;
  return (
    <Places aria-label="Inputs of the program" css={{ border: 'none', px: '0', maxHeight: 'none' }}>
      {inputs.map((each) => (
        <GivenPlace key={each.name} machine={machine} place={each} />
      ))}
    </Places>
  );
}

interface PlaceProps {
  readonly machine: Machine;
  readonly place: DeclaredPlace;
}

/** What lies there now, in the declared base; undefined before a program is loaded. */
function useShown(machine: Machine, { space, address, base }: DeclaredPlace): string | undefined {
  const value = useRun((state) => state.view?.spaces[space]?.cells[address]);
  const { width } = itemAt(machine.spaces, space);
  return value === undefined ? undefined : readingText(base, value, { width, radix: machine.radix });
}

/** Enter takes what is typed; how it is read stands beside it before. */
function GivenPlace({ machine, place }: PlaceProps) {
  const { name, base, unit } = place;
  const shown = useShown(machine, place);
  const [text, setText] = useState<string>();
  const read = machine.radix === 10 ? 10 : (BASE_OF[base] ?? 10);
  const [said, refuse] = useMeant(name, text ?? '', read);
  const give = async (): Promise<void> => {
    if (text === undefined || text.trim() === '') return setText(undefined);
    const refused = await engine.hand.setPlace(name, text, read);
    if (refused) refuse(refused.refused);
    else setText(undefined);
  };
  return (
    <div data-given={name}>
      <dt>{name}</dt>
      <dd>
        <Entry
          value={text ?? shown ?? ''}
          disabled={shown === undefined}
          maxLength={200}
          width="74px"
          fontFamily="mono"
          aria-label={`${name} in ${base}${unit && `, ${unit}`}; Enter takes it`}
          aria-invalid={said?.refused}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter') void give();
            if (event.key === 'Escape') setText(undefined);
          }}
          onBlur={() => setText(undefined)}
        />
        <span role="status" className={said?.refused ? 'refused' : undefined}>
          {said?.says ?? `${base}${unit && `, ${unit}`}`}
        </span>
      </dd>
    </div>
  );
}

function FoundPlace({ machine, place }: PlaceProps) {
  const { name, base, unit, space, address } = place;
  const shown = useShown(machine, place);
  const never = useRun((state) => state.view?.spaces[space]?.marks[address] === 0);
  return (
    <div data-found={name}>
      <dt>{name}</dt>
      <dd>
        <b>{never || shown === undefined ? 'nothing yet' : shown}</b>
        <span>{[never ? '' : unit, never || base === 'decimal' ? '' : `in ${base}`].filter(Boolean).join(', ')}</span>
      </dd>
    </div>
  );
}
