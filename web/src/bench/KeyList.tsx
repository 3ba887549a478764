/** The keys of the bench: each can be another one, and all of them are printed as a card. */
import { Flex, Table } from '@chakra-ui/react';
import { useState } from 'react';
import { Button } from '../ui/Button';
import { Hint, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';
import { changeKey, KEYS, resetKeys, shownKey, useChangedKeys, type Key } from './keys';

/** Those of the editor stay. */
const EDITOR_KEYS = [
  { shown: 'Ctrl Enter', does: 'assemble and load, from the editor' },
  { shown: 'Tab', does: 'take what is offered, or go to the next column, in the editor' },
  { shown: 'Ctrl space', does: 'offer what may stand here, in the editor' },
  { shown: 'F12', does: 'to the definition of the name at the cursor; with Shift to its uses' },
  { shown: 'F2', does: 'give the name at the cursor another one, everywhere' },
  { shown: 'Alt b', does: 'breakpoint on the line of the cursor, in the editor' },
  { shown: 'Esc', does: 'leave the editor, so that these keys work' },
  { shown: '?', does: 'this list' },
];
const keyCap = { '& kbd': { border: '1px solid', borderColor: 'edge', borderRadius: '5px', px: '8px', py: '2px', fontWeight: '700' } };

export function KeyList({ open, close }: { open: boolean; close: () => void }) {
  const changed = useChangedKeys((state) => state.changed);
  const [asked, setAsked] = useState<Key>();
  const [refused, setRefused] = useState('');
  const take = (event: React.KeyboardEvent): void => {
    if (!asked || ['Shift', 'Control', 'Alt', 'Meta'].includes(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === 'Escape') return setAsked(undefined);
    const why = changeKey(asked, event);
    setRefused(why ?? '');
    if (why === undefined) setAsked(undefined);
  };
  return (
    <Window title="Keys of the bench" testId="keys" {...{ open, close }}>
      <Flex gap="8px" align="center" pb="6px" className="unprinted">
        <Hint flex="1">Press a key cap, then the key that is to do the same.</Hint>
        <Button onClick={() => window.print()} data-testid="print-keys">
          Print
        </Button>
        <Button onClick={resetKeys} disabled={Object.keys(changed).length === 0} data-testid="reset-keys">
          As they come
        </Button>
      </Flex>
      {refused && <Refusal role="alert">{refused}</Refusal>}
      <Table.Root fontSize="14px" css={keyCap} onKeyDownCapture={take}>
        <Table.Body>
          {KEYS.map((each) => (
            <Table.Row key={each.does} data-key={each.shown}>
              <Table.Cell as="th" scope="row" py="2px" paddingInlineEnd="20px" whiteSpace="nowrap">
                <Button
                  look="bare"
                  aria-pressed={asked === each}
                  aria-label={`${shownKey(each, changed)}: ${each.does}. Press to give it another key`}
                  onClick={() => {
                    setAsked(each);
                    setRefused('');
                  }}
                >
                  <kbd>{asked === each ? 'press a key …' : shownKey(each, changed)}</kbd>
                </Button>
              </Table.Cell>
              <Table.Cell>{each.does}</Table.Cell>
            </Table.Row>
          ))}
          {EDITOR_KEYS.map((each) => (
            <Table.Row key={each.shown}>
              <Table.Cell as="th" scope="row" py="2px" paddingInlineEnd="20px" whiteSpace="nowrap">
                <kbd>{each.shown}</kbd>
              </Table.Cell>
              <Table.Cell>{each.does}</Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </Window>
  );
}
