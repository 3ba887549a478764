/** Registers, pairs and packed words with what they hold now; what the last tick wrote shows the old value too. */
import { Box, Table } from '@chakra-ui/react';
import { Fragment, memo, useMemo, useState } from 'react';
import type { Composite, Machine } from '@zettak/core/machine/model/machine';
import { pointedCells, type PointedCell } from '@zettak/core/machine/model/pointers';
import { registersByGroup, servicesWith, type ServiceUse } from '@zettak/core/machine/model/registerUse';
import { NEVER } from '@zettak/core/engine/meaning/state';
import { cellText } from '@zettak/core/engine/watch/places';
import type { View } from '@zettak/core/session/protocol';
import { packedBits } from '@zettak/core/machine/model/packed';
import { digitsAt, shownDigits, shownNumber } from '@zettak/core/text/number';
import { readsRegister, writeOf } from '../../datapath/touched';
import { Button, PlainButton } from '../../ui/Button';
import { Controls, PanelHead, PanelTitle } from '../../ui/Panel';
import { askAbout } from '../looks';
import { COLUMN_WORDS, COLUMNS, columnsOf, headOf, inColumn, turnColumn, useColumns, widthsOf, type Column } from './columns';
import { InHand } from './InHand';
import { useHidden } from '../layout';
import { PanelNotes } from '../PinnedNotes';
import { boxOf } from '../PlaceMenu';
import { readings } from './readings';
import { useLast, useRun, useValued } from '../run';
import { itemAt } from '@zettak/core/text/itemAt';
import { useHeading } from '../document';
import { ValueEntry } from './ValueEntry';

/** More than these stand in two columns. */
const ONE_COLUMN = 9;

/** Rows are drawn anew at every tick, so they are plain elements, dressed here. Long values break, and nothing runs out of the panel. */
const look = {
  fontFamily: 'mono',
  fontSize: '15px',
  '& tr > *': {
    px: '5px',
    py: '1px',
    textAlign: 'right',
    lineHeight: '22px',
    borderBottom: '1px solid',
    borderColor: 'line',
    overflowWrap: 'anywhere',
  },
  '& tr > *:first-child': { paddingInlineStart: '12px' },
  '& tr > *:last-child': { paddingInlineEnd: '12px' },
  '& thead th': {
    fontFamily: 'body',
    fontSize: '13px',
    fontWeight: '400',
    color: 'ink3',
    lineHeight: '18px',
    whiteSpace: 'nowrap',
    overflowWrap: 'normal',
  },
  '& th': { textAlign: 'left', fontWeight: '700', minWidth: '24px' },
  '& .digits': { textAlign: 'left' },
  '& .past': { color: 'ink2' },
  '& .packed td': { textAlign: 'right', whiteSpace: 'nowrap' },
  '& .packed span': {
    display: 'inline-flex',
    flexDirection: 'column',
    alignItems: 'center',
    minWidth: '14px',
    lineHeight: '17px',
    fontWeight: '700',
  },
  '& .packed small': {
    fontSize: '13px',
    fontWeight: '400',
    color: 'ink2',
    fontFamily: 'body',
    lineHeight: '15px',
    px: '1px',
    minHeight: '15px',
    maxWidth: '44px',
    truncate: true,
  },
  '& .packed .fixed': { color: 'ink3', fontWeight: '400' },
  '& .at': { display: 'block', overflow: 'hidden', whiteSpace: 'nowrap' },
  '& .begins > *': { borderTop: '2px solid', borderTopColor: 'ink3' },
  '& th sup': { fontSize: '11px', fontWeight: '400', color: 'ink2', lineHeight: '1', marginInlineStart: '2px', verticalAlign: '4px' },
  '& s': { color: 'ink3', marginInlineEnd: '8px' },
  // A row that gets a ground where none was makes a browser put the panel together anew; each is painted by itself.
  '& tbody tr': { bg: 'paper', isolation: 'isolate' },
  '& .written': { bg: 'dataPale', boxShadow: 'inset 4px 0 0 var(--z-colors-data)' },
  '& .read .digits b': {
    textDecoration: 'underline',
    textDecorationColor: 'var(--z-colors-address)',
    textDecorationThickness: '3px',
    textUnderlineOffset: '3px',
  },
};

/** Columns that stay where they are, whatever comes to stand in them. */
const steady = { ...look, tableLayout: 'fixed' };

/** More readings than three: all as wide as each other. */
const dense = {
  ...steady,
  fontSize: '13px',
  '& tr > *': { ...look['& tr > *'], px: '2px', fontSize: '13px' },
  '& tr > *:first-child': { paddingInlineStart: '10px', width: '46px' },
  '& tr > *:last-child': { paddingInlineEnd: '8px' },
  '& thead th': { ...look['& thead th'], fontSize: '13px', overflow: 'hidden', textOverflow: 'clip' },
};

const twoColumns = {
  ...look,
  '& thead': { display: 'none' },
  // Lines between groups would end in the middle of a row.
  '& .begins > *': { borderTop: 'none' },
  '& tbody': { display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) minmax(0, 1fr)' },
  '& tr': { display: 'flex', gap: '3px', borderBottom: '1px solid', borderColor: 'line' },
  '& th': { flexShrink: '0' },
  '& tr.packed': { gridColumn: '1 / -1', justifyContent: 'flex-end' },
  '& tr.wide': { gridColumn: '1 / -1' },
  '& tr > *': { px: '7px', py: '1px', fontSize: '14px', lineHeight: '22px', whiteSpace: 'nowrap' },
  '& tr > td:last-child': { marginInlineStart: 'auto' },
  '& tr > td:nth-of-type(2):not(:last-child)': { display: 'none' },
  '& tr.moved:not(.wide) > td:last-child, & tr.full > td:last-child': { display: 'none' },
  // The value before and the one after stand closer where both are long.
  '& tr.long.moved': {
    gap: '0',
    '& > *': { px: '3px', fontSize: '13px' },
    '& > th': { paddingInlineStart: '7px' },
    '& s': { marginInlineEnd: '4px' },
  },
  // Half of a panel holds a name, sixteen bits in hex and their negative reading; longer ones come smaller.
  '@container (max-width: 310px)': {
    '& tr > *': { px: '4px' },
    '& tr > *:first-child': { paddingInlineStart: '8px' },
    '& tr > *:last-child': { paddingInlineEnd: '6px' },
    '& tr > th': { minWidth: '20px' },
    '& tr.tight > *': { fontSize: '12px' },
  },
  '@container (max-width: 270px)': { '& tr > *': { px: '3px', fontSize: '13px' } },
};

/** Its frame stays as it is from view to view. */
export function Registers({ machine }: { machine: Machine }) {
  const { registers, composites } = machine;
  const hidden = useHidden(machine.name);
  const chosen = useColumns((state) => state.chosen);
  const [choosing, setChoosing] = useState(false);
  const columns = columnsOf(machine, chosen);
  // Many stand in two columns, as long as nobody asks for other readings than the usual ones.
  const many = registers.length + composites.length > ONE_COLUMN && columns.every((each) => USUAL.includes(each));
  const widths = widthsOf(machine, columns);
  return (
    <Box flexShrink="0" containerType="inline-size">
      <PanelHead>
        <PanelTitle>{useHeading('registers', 'Registers')}</PanelTitle>
        <Button
          look="link"
          ms="auto"
          minWidth="0"
          flexShrink="1"
          aria-expanded={choosing}
          onClick={() => setChoosing(!choosing)}
          data-testid="register-columns"
        >
          <Box as="span" truncate>
            {columns.map((each) => headOf(each, machine)).join(', ')}
          </Box>
        </Button>
      </PanelHead>
      {choosing && <ChooseColumns machine={machine} columns={columns} />}
      <PanelNotes panel="registers" />
      {!hidden.includes('instruction in hand') && <InHand />}
      <Table.Root data-testid="registers" css={many ? twoColumns : columns.length > 3 ? dense : steady}>
        {!many && columns.length <= 3 && (
          <colgroup>
            {widths.map((each, at) => (
              <col key={at} style={{ width: `${each}%` }} />
            ))}
          </colgroup>
        )}
        <Table.Header>
          <tr>
            <th scope="col" aria-label="register" />
            {columns.map((each) => (
              <th key={each} scope="col" className={each === 'own' ? 'digits' : undefined}>
                {headOf(each, machine)}
              </th>
            ))}
          </tr>
        </Table.Header>
        <Table.Body>
          <Rows machine={machine} columns={columns} beside={many} />
        </Table.Body>
      </Table.Root>
    </Box>
  );
}

const USUAL: readonly Column[] = ['own', 'unsigned', 'signed'];

function ChooseColumns({ machine, columns }: { machine: Machine; columns: readonly Column[] }) {
  return (
    <Controls mt="0" px="12px" py="4px" role="group" aria-label="Readings of the registers">
      {columnsOf(machine, COLUMNS).map((each) => (
        <Button
          key={each}
          look="tag"
          aria-pressed={columns.includes(each)}
          title={COLUMN_WORDS[each]}
          onClick={() => turnColumn(each)}
          data-column={each}
        >
          {headOf(each, machine)}
        </Button>
      ))}
    </Controls>
  );
}

function Rows({ machine, columns, beside }: { machine: Machine; columns: readonly Column[]; beside: boolean }) {
  const { registers, composites } = machine;
  const hidden = useHidden(machine.name);
  const view = useValued();
  const last = useLast();
  const labels = useRun((state) => state.labels);
  const pointed = pointedCells(machine, view.registers);
  /** Where a register or a pair points, and what lies there. */
  const points = (name: string): string => {
    const cell = pointed.find((each) => each.name === name);
    return cell ? pointsAt(machine, view, cell, labels[cell.space]?.get(cell.address)) : '';
  };
  const groups = useMemo(
    () => registersByGroup(machine).map((group) => group.filter((at) => !hidden.includes(itemAt(machine.registers, at).name))),
    [machine, hidden],
  );
  return (
    <>
      {groups.flat().map((register) => {
        const { name, title, width, role, parts } = itemAt(registers, register);
        const change = writeOf(last, register);
        const whole = change && change.width === width && change.before !== change.value;
        return (
          <Row
            key={name}
            {...{ name, title, width, machine, columns, beside }}
            place={name}
            value={itemAt(view.registers, register)}
            old={whole ? change.before : undefined}
            before={columns.includes('before') ? view.registersBefore[register] : undefined}
            start={columns.includes('start') ? view.registersAtStart[register] : undefined}
            touch={change ? 'written' : readsRegister(last, register) ? 'read' : ''}
            at={role === 'program counter' ? (view.next.text ?? '').split(' ')[0] : undefined}
            instruction={role === 'instruction'}
            parts={parts}
            begins={groups.some((group, at) => at > 0 && group[0] === register)}
            register={register}
            points={points(name)}
          />
        );
      })}
      {composites.map((composite, at) => {
        const { name, title, width } = composite;
        const value = itemAt(view.composites, at);
        return (
          <Fragment key={name}>
            <Row {...{ name, title, width, machine, columns, beside }} value={value} touch="" instruction={false} points={points(name)} />
            {composite.packed && <Packed {...{ machine, composite, value }} columns={columns.length + 1} />}
          </Fragment>
        );
      })}
    </>
  );
}

/** A word of flags bit by bit, each under the name of its flag; those that are always the same are grey. */
const Packed = memo(function Packed({
  machine,
  composite,
  value,
  columns,
}: {
  machine: Machine;
  composite: Composite;
  value: number;
  columns: number;
}) {
  const bits = packedBits(composite) ?? [];
  return (
    <tr className="packed" data-packed={composite.name}>
      <td colSpan={columns}>
        {bits.map((each, at) => {
          const bit = bits.length - 1 - at;
          const name = 'flag' in each ? itemAt(machine.flags, each.flag).name : '';
          return (
            <span
              key={bit}
              className={name === '' ? 'fixed' : undefined}
              title={name === '' ? `Bit ${bit} is always ${'fixed' in each ? each.fixed : 0}` : `Bit ${bit}: ${name}`}
            >
              <small>{name || ' '}</small>
              {digitsAt(value, bit, 1, 2)}
            </span>
          );
        })}
      </td>
    </tr>
  );
});

interface RowProps {
  readonly name: string;
  readonly title: string;
  readonly width: number;
  readonly machine: Machine;
  readonly columns: readonly Column[];
  /** Two stand beside each other. */
  readonly beside: boolean;
  readonly value: number;
  /** As the notation calls it; without it nothing can be done with it. */
  readonly place?: string;
  /** The whole of it before the last tick, where that was another. */
  readonly old?: number | undefined;
  readonly before?: number | undefined;
  readonly start?: number | undefined;
  readonly touch: 'written' | 'read' | '';
  /** What stands where it points, in place of the signed value. */
  readonly at?: string | undefined;
  readonly instruction: boolean;
  readonly parts?: Machine['registers'][number]['parts'];
  /** The first of its group. */
  readonly begins?: boolean;
  readonly register?: number;
  /** “points at DATA[2, 0x13], level, which holds 0x5”; empty where it says where no cell is. */
  readonly points?: string;
}

function pointsAt(machine: Machine, view: View, { space, address }: PointedCell, label: string | undefined): string {
  const { cells, marks } = itemAt(view.spaces, space);
  const holds =
    marks[address] === NEVER
      ? 'which was never written'
      : `which holds ${shownNumber(cells[address] ?? 0, itemAt(machine.spaces, space).width, machine)}`;
  return `points at ${cellText(machine, space, address)},${label ? ` ${label},` : ''} ${holds}`;
}

/** Digits more than which the value before needs room of its own. */
const LONG = 5;
/** Signs of a name, its digits and its last reading that half of a panel has room for. */
const BESIDE = 12;
/** Signs that half of a panel has room for: of a name and its digits; with the last reading, in small letters; with the value before. */
const HALF = 13;
const HALF_READ = 13;
const HALF_MOVED = 15;

/** The value before, with as many of its last digits as there is room for. */
const shortened = (digits: string, room: number): string => (digits.length > room ? `…${digits.slice(1 - room)}` : digits);

const NO_SERVICES: ServiceUse = { reads: [], brings: [] };

const Row = memo(function Row({
  name,
  title,
  width,
  machine,
  columns,
  beside,
  value,
  place,
  old,
  before,
  start,
  touch,
  at,
  instruction,
  parts,
  begins = false,
  register,
  points = '',
}: RowProps) {
  const [entering, setEntering] = useState(false);
  const shown = { value, width, before, start, instruction };
  const fields = [...(parts ?? [])].map(
    ([part, { high, low }]) => `${part} ${shownDigits(digitsAt(value, low, high - low + 1, machine.radix), high - low + 1, machine)}`,
  );
  const { reads, brings } = useMemo(() => (register === undefined ? NO_SERVICES : servicesWith(machine, register)), [machine, register]);
  const services = [
    ...(reads.length > 0 ? [`read by the services ${reads.join(', ')}`] : []),
    ...(brings.length > 0 ? [`brought by ${brings.join(', ')}`] : []),
  ];
  const digits = shownDigits(value, width, machine);
  const reading = at ?? inColumn(columns.at(-1) ?? 'own', machine, shown);
  const wide = name.length + digits.length > HALF;
  const signs = name.length + digits.length + reading.length;
  const tight = !wide && signs > BESIDE;
  const full = !wide && signs > HALF_READ;
  const long = !wide && digits.length > LONG;
  const room = beside && !wide ? Math.max(3, HALF_MOVED - name.length - digits.length) : Infinity;
  return (
    <tr
      className={[touch, begins && 'begins', long && 'long', old !== undefined && 'moved', tight && 'tight', full && 'full', wide && 'wide']
        .filter(Boolean)
        .join(' ')}
      title={[`${title}: ${readings(value, width, machine)}`, ...(points ? [points] : []), ...fields, ...services].join('; ')}
    >
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
        {services.length > 0 && (
          <sup aria-label={services.join('; ')} role="img">
            {reads.length > 0 ? '↗' : ''}
            {brings.length > 0 ? '↙' : ''}
          </sup>
        )}
      </th>
      {columns.map((column) =>
        column === 'own' ? (
          <td key={column} className="digits" onDoubleClick={() => setEntering(place !== undefined)}>
            {entering && place !== undefined ? (
              <ValueEntry {...{ machine, place, width, value }} done={() => setEntering(false)} />
            ) : (
              <>
                {old !== undefined && <s>{shortened(shownDigits(old, width, machine), room)}</s>}
                <wbr />
                <b data-value={name}>{digits}</b>
              </>
            )}
          </td>
        ) : (
          <td key={column} className={column === 'before' || column === 'start' ? 'past' : undefined}>
            {column === 'signed' && at !== undefined ? <span className="at">{at}</span> : inColumn(column, machine, shown)}
          </td>
        ),
      )}
    </tr>
  );
});
