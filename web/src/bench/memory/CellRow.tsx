/** A row of a window on memory: cells beside each other with their characters, or one cell with all that it can be read as. */
import { memo } from 'react';
import { binaryDigits, signedReading } from '@zettak/core/text/number';
import type { ValueBase } from '../looks';
import { characterNamed, inBase, lengthIn, NOTHING, showsBits } from './cells';
import type { Editing } from './editing';

/** Of each row, in px. */
export const ROW = 22;

/** A cell, or a pair, as it is drawn. */
export interface ShownCell {
  readonly at: number;
  readonly value: number;
  readonly never: boolean;
  readonly classes: string;
  readonly chosen: 'head' | 'range' | undefined;
}

interface RowProps {
  /** From 0. */
  readonly index: number;
  readonly address: string;
  readonly base: ValueBase;
  readonly radix: 2 | 10;
  /** Digits of a cell, or of a pair. */
  readonly width: number;
  readonly list: boolean;
  readonly cells: readonly ShownCell[];
  /** What stands beside them: plain text, the small name of a control code, plain text, and so on. */
  readonly characters: readonly string[] | undefined;
  readonly label: string | undefined;
  /** The chosen cell that is typed into, where it stands in this row, and what is typed. */
  readonly head: number | undefined;
  readonly typed: string | undefined;
  readonly editing: Editing;
}

const sameCell = (one: ShownCell, other: ShownCell | undefined): boolean =>
  one.at === other?.at &&
  one.value === other.value &&
  one.never === other.never &&
  one.classes === other.classes &&
  one.chosen === other.chosen;

/** Views bring every row anew; one that shows the same is left alone. What is done with it goes to the window that it stands in. */
const sameRow = (one: RowProps, other: RowProps): boolean =>
  one.index === other.index &&
  one.base === other.base &&
  one.width === other.width &&
  one.list === other.list &&
  one.label === other.label &&
  one.head === other.head &&
  one.typed === other.typed &&
  one.editing.of === other.editing.of &&
  one.cells.length === other.cells.length &&
  one.cells.every((each, at) => sameCell(each, other.cells[at])) &&
  one.characters?.join('\n') === other.characters?.join('\n');

export const CellRow = memo(function CellRow(row: RowProps) {
  const { index, address, base, radix, width, list, cells, characters, label, head, typed, editing } = row;
  return (
    <tr role="row" aria-rowindex={index + 1}>
      <th role="rowheader" className="place">
        {address}
      </th>
      {cells.map(({ at, value, never, classes, chosen }, column) => {
        const entry = at === head ? typed : undefined;
        return (
          <td
            key={column}
            id={at === head ? `${editing.id}-${at}` : undefined}
            role="gridcell"
            className={['cell', classes, chosen, entry !== undefined && 'typing'].filter(Boolean).join(' ')}
            aria-selected={chosen !== undefined}
            data-at={at}
          >
            {entry !== undefined ? (
              <Entry {...{ editing }} typed={entry} room={lengthIn(width, radix, base)} />
            ) : never ? (
              NOTHING
            ) : (
              inBase(value, width, radix, base)
            )}
          </td>
        );
      })}
      {characters && (
        <td className="characters" aria-hidden>
          {characters.map((each, at) => (at % 2 === 1 ? <small key={at}>{each}</small> : each))}
        </td>
      )}
      {list && cells[0] && <Readings {...cells[0]} {...{ radix, width, label }} />}
    </tr>
  );
}, sameRow);

function Entry({ typed, editing, room }: { typed: string; editing: Editing; room: number }) {
  return (
    <input
      value={typed}
      maxLength={60}
      autoFocus
      spellCheck={false}
      style={{ width: `${Math.max(typed.length, room) + 1}ch` }}
      aria-label="Value of the cell"
      onChange={(event) => editing.type(event.target.value)}
      onBlur={() => editing.give('leave')}
      data-testid="cell-entry"
    />
  );
}

interface ReadingsProps {
  readonly value: number;
  readonly never: boolean;
  readonly width: number;
  readonly radix: 2 | 10;
  readonly label: string | undefined;
}

function Readings({ value, never, width, radix, label }: ReadingsProps) {
  const { text, small } = characterNamed(value);
  return (
    <>
      <td role="gridcell" className="unsigned">
        {never ? '' : value}
      </td>
      <td role="gridcell" className="signed">
        {never ? '' : String(signedReading(value, width, radix)).replace('-', '−')}
      </td>
      {showsBits(width, radix) && (
        <td role="gridcell" className="bits">
          {never ? '' : binaryDigits(value, width)}
        </td>
      )}
      <td role="gridcell" className="character">
        {never ? '' : small ? <small>{text}</small> : text}
      </td>
      <td role="gridcell" className="name">
        {label ?? ''}
      </td>
    </>
  );
}
