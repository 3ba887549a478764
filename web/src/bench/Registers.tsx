/** Registers, pairs and packed words with what they hold now; what the last tick wrote shows the old value too. */
import { Box, Table } from '@chakra-ui/react';
import { memo } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { BASE_WORDS, shownDigits, signedReading } from '@zettak/core/text/number';
import { readsRegister, writeOf } from '../datapath/touched';
import { PlainButton } from '../ui/Button';
import { Hint, PanelHead, PanelTitle } from '../ui/Panel';
import { askAbout } from './looks';
import { InHand } from './InHand';
import { useHidden } from './layout';
import { PanelNotes } from './PinnedNotes';
import { boxOf } from './PlaceMenu';
import { readings } from './readings';
import { useLast, useView } from './run';
import { itemAt } from '@zettak/core/text/itemAt';
import { useHeading } from './document';

/** More than these stand in two columns. */
const ONE_COLUMN = 9;

/** Rows are drawn anew at every tick, so they are plain elements, dressed here. */
const look = {
  fontFamily: 'mono',
  fontSize: '15px',
  '& tr > *': { px: '12px', py: '1px', textAlign: 'right', lineHeight: '22px', borderBottom: '1px solid', borderColor: 'line' },
  '& th': { textAlign: 'left', fontWeight: '700', minWidth: '24px' },
  '& .digits': { textAlign: 'left', whiteSpace: 'nowrap' },
  '& s': { color: 'ink3', marginInlineEnd: '8px' },
  '& .written': { bg: 'dataPale', boxShadow: 'inset 4px 0 0 var(--z-colors-data)' },
  '& .read .digits b': {
    textDecoration: 'underline',
    textDecorationColor: 'var(--z-colors-address)',
    textDecorationThickness: '3px',
    textUnderlineOffset: '3px',
  },
};

const twoColumns = {
  ...look,
  '& tbody': { display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) minmax(0, 1fr)' },
  '& tr': { display: 'flex', borderBottom: '1px solid', borderColor: 'line' },
  '& tr > *': { px: '7px', py: '1px', fontSize: '14px', lineHeight: '22px', whiteSpace: 'nowrap' },
  '& tr > td:last-child': { marginInlineStart: 'auto' },
  '& tr > td:nth-of-type(2):not(:last-child)': { display: 'none' },
  '& tr:has(s) > td:last-child': { display: 'none' },
  '@container (max-width: 270px)': { '& tr > *': { px: '4px', fontSize: '13px' } },
};

/** Its frame stays as it is from view to view. */
export function Registers({ machine }: { machine: Machine }) {
  const { radix, base, registers, composites } = machine;
  const hidden = useHidden(machine.name);
  const many = registers.length + composites.length > ONE_COLUMN;
  return (
    <Box flexShrink="0" containerType="inline-size">
      <PanelHead>
        <PanelTitle>{useHeading('registers', 'Registers')}</PanelTitle>
        <Hint ms="auto">{radix === 10 ? 'digits, signed' : `${BASE_WORDS[base]}, unsigned, signed`}</Hint>
      </PanelHead>
      <PanelNotes panel="registers" />
      {!hidden.includes('instruction in hand') && <InHand />}
      <Table.Root data-testid="registers" css={many ? twoColumns : look}>
        <Table.Body>
          <Rows machine={machine} />
        </Table.Body>
      </Table.Root>
    </Box>
  );
}

function Rows({ machine }: { machine: Machine }) {
  const { registers, composites } = machine;
  const hidden = useHidden(machine.name);
  const view = useView();
  const last = useLast();
  return (
    <>
      {registers.map(({ name, title, width, role }, register) => {
        if (hidden.includes(name)) return null;
        const change = writeOf(last, register);
        const whole = change && change.width === width && change.before !== change.value;
        return (
          <Row
            key={name}
            {...{ name, title, width, machine }}
            place={name}
            value={itemAt(view.registers, register)}
            before={whole ? change.before : undefined}
            touch={change ? 'written' : readsRegister(last, register) ? 'read' : ''}
            at={role === 'program counter' ? (view.next.text ?? '').split(' ')[0] : undefined}
          />
        );
      })}
      {composites.map(({ name, title, width }, at) => (
        <Row key={name} {...{ name, title, width, machine }} value={itemAt(view.composites, at)} touch="" />
      ))}
    </>
  );
}

interface RowProps {
  readonly name: string;
  readonly title: string;
  readonly width: number;
  readonly machine: Machine;
  readonly value: number;
  /** As the notation calls it; without it nothing can be done with it. */
  readonly place?: string;
  /** The whole of it before the last tick. */
  readonly before?: number | undefined;
  readonly touch: 'written' | 'read' | '';
  /** What stands where it points, in place of the signed value. */
  readonly at?: string | undefined;
}

const Row = memo(function Row({ name, title, width, machine, value, place, before, touch, at }: RowProps) {
  const { radix } = machine;
  return (
    <tr className={touch} title={`${title}: ${readings(value, width, machine)}`}>
      <th scope="row">
        {place === undefined ? (
          name
        ) : (
          <PlainButton
            data-bench
            onClick={(event) => askAbout({ place, name, cell: false, at: boxOf(event.currentTarget) })}
            title={`${title}: set it, stop at it, or ask who wrote it`}
          >
            {name}
          </PlainButton>
        )}
      </th>
      <td className="digits">
        {before !== undefined && <s>{shownDigits(before, width, machine)}</s>}
        <b data-value={name}>{shownDigits(value, width, machine)}</b>
      </td>
      {radix === 2 && <td>{value}</td>}
      <td>{at ?? String(signedReading(value, width, radix)).replace('-', '−')}</td>
    </tr>
  );
});
