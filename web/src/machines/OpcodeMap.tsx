/** Every value of the first cell and what it means: a grid for cells of up to 8 bits, a count beyond. A press goes to the form. */
import { chakra } from '@chakra-ui/react';
import { Fragment, useMemo } from 'react';
import { formOf } from '@zettak/core/machine/model/encode';
import { mapColumns, opcodeMap } from '@zettak/core/machine/model/opcodeMap';
import type { Form, Machine } from '@zettak/core/machine/model/machine';
import { shownDigits, shownNumber } from '@zettak/core/text/number';
import { Hint } from '../ui/Panel';
import { spelledBy } from '@zettak/core/machine/model/encode';

const tone = (ground: string, edge: string) => ({ bg: ground, borderColor: edge });

const Map = chakra('div', {
  base: {
    px: '12px',
    py: '8px',
    borderTop: '1px solid',
    borderColor: 'line',
    '& h3': { fontWeight: '700', color: 'ink2', mb: '4px' },
    '& .grid': { display: 'grid', gap: '1px', fontFamily: 'mono', fontSize: '13px', lineHeight: '18px' },
    '& .head': { color: 'address', textAlign: 'center' },
    '& .free': { bg: 'sea', minHeight: '18px' },
    '& .grid button': {
      fontWeight: '700',
      textAlign: 'center',
      borderRadius: '2px',
      borderStyle: 'solid',
      borderWidth: '0 0 3px',
      lineHeight: '15px',
      cursor: 'pointer',
    },
    '& .family0': tone('addressPale', 'address'),
    '& .family1': tone('sand2', 'wire'),
    '& .family2': tone('dataPale', 'data'),
    '& .family3': tone('sea2', 'ink3'),
    '& .legend': { display: 'flex', flexWrap: 'wrap', columnGap: '12px', rowGap: '2px', fontSize: '13px', mt: '5px' },
    '& .legend b': { px: '5px', borderRadius: '2px' },
  },
});

/** A sign a family, so that colour is not needed to tell them apart. */
const SIGNS = ['▸', '+', '◆', '#', '↺', '!', '~', '○'];

/** `goTo` gets the form of the cell that was pressed. */
export function OpcodeMap({ machine, goTo }: { machine: Machine; goTo: (form: Form) => void }) {
  const { width, size, used, free } = useMemo(() => opcodeMap(machine), [machine]);
  const families = [...new Set(machine.forms.map((each) => each.family))];
  const columns = mapColumns(machine, size);
  return (
    <Map data-testid="opcode-map">
      <h3>
        Opcode map <Hint>{`${used} used, ${free} free`}</Hint>
      </h3>
      {size <= 256 && (
        <div className="grid" style={{ gridTemplateColumns: `26px repeat(${columns}, 1fr)` }}>
          <span />
          {Array.from({ length: columns }, (_, column) => (
            <span key={column} className="head">
              {column.toString(16).toUpperCase()}
            </span>
          ))}
          {Array.from({ length: Math.ceil(size / columns) }, (_, row) => (
            <Fragment key={row}>
              <span className="head">{shownDigits(row * columns, width, machine)}</span>
              {Array.from({ length: columns }, (_each, column) => (
                <Cell key={column} {...{ machine, families, goTo, width }} cell={row * columns + column} />
              ))}
            </Fragment>
          ))}
        </div>
      )}
      <p className="legend">
        {families.map((family, at) => (
          <span key={family}>
            <b className={`family${at % 4}`}>{SIGNS[at % SIGNS.length]}</b> {family}
          </span>
        ))}
      </p>
    </Map>
  );
}

interface CellParts {
  readonly machine: Machine;
  readonly families: readonly string[];
  readonly cell: number;
  readonly width: number;
  readonly goTo: (form: Form) => void;
}

function Cell({ machine, families, cell, width, goTo }: CellParts) {
  const form = formOf(machine, cell);
  if (!form) return <span className="free" />;
  const family = families.indexOf(form.family);
  const words = `${shownNumber(cell, width, machine)}: ${spelledBy(machine, form, cell)}, ${form.title}`;
  return (
    <chakra.button type="button" className={`family${family % 4}`} title={words} aria-label={words} onClick={() => goTo(form)}>
      {SIGNS[family % SIGNS.length]}
    </chakra.button>
  );
}
