/** The keys of the screen where machines are defined. */
import { Table } from '@chakra-ui/react';
import { Window } from '../ui/Window';

const KEYS: readonly (readonly [shown: string, does: string])[] = [
  ['↑ ↓ Home End', 'from part to part, in the list'],
  ['Enter', 'from the list into the editor of the part'],
  ['Esc', 'from the editor back to the list'],
  ['Insert', 'a new part of the same kind'],
  ['F2', 'another name, everywhere'],
  ['Alt ↑  Alt ↓', 'the part up or down'],
  ['Ctrl D', 'the part once more'],
  ['Delete', 'remove the part'],
  ['← →', 'move the edge of a field, on the ruler'],
  ['← → ↑ ↓', 'from code to code, in the opcode map; Enter presses it'],
  ['Tab', 'take what is offered, in ticks; else to the next field'],
  ['Ctrl space', 'offer what may stand here, in ticks'],
  ['Ctrl Z  Ctrl Y', 'undo and redo, of parts and text alike'],
  ['Ctrl Alt E', 'between parts and text'],
  ['Ctrl S', 'save a version'],
  ['?', 'this list'],
];

const keyCap = { '& kbd': { border: '1px solid', borderColor: 'edge', borderRadius: '5px', px: '8px', py: '2px', fontWeight: '700' } };

export function KeyList({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Window title="Keys for defining a machine" testId="keys" {...{ open, close }}>
      <Table.Root fontSize="14px" css={keyCap}>
        <Table.Body>
          {KEYS.map(([shown, does]) => (
            <Table.Row key={does}>
              <Table.Cell as="th" scope="row" py="4px" paddingInlineEnd="20px" whiteSpace="nowrap">
                <kbd>{shown}</kbd>
              </Table.Cell>
              <Table.Cell>{does}</Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </Window>
  );
}
