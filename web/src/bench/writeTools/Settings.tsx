/** The strip above the source while writing: where the program lies, how unmarked numbers are read, its columns. */
import { useState } from 'react';
import { readNumber, shownNumber } from '@zettak/core/text/number';
import { programSpaceOf, type Machine } from '@zettak/core/machine/model/machine';
import { engine } from '../../session/engine';
import { useEditor, type EditorHandle } from '../../editor/handle';
import { useText } from '../text';
import { Button } from '../../ui/Button';
import { Entry, Label } from '../../ui/Field';
import { Controls } from '../../ui/Panel';
import { Choice } from '../../ui/Choice';
import { Flex } from '@chakra-ui/react';

const line = (name: string): RegExp => new RegExp(`^([ \\t]*)\\.${name}[ \\t]+([^;\\n]*?)[ \\t]*(;.*)?$`, 'im');

/** The text before the first line that takes cells: remarks, constants and settings. */
const headOf = (text: string): string =>
  /^(?:[ \t]*(?:;.*|\.(?:origin|base|case|include|start|input|output)\b.*|[\p{L}_][\p{L}\p{M}\p{Nd}_]*[ \t]*:?[ \t]*=.*)?(?:\n|$))*/iu.exec(
    text,
  )![0];

/** Writes a directive over the first one of its name, or before the first line that is more than a remark. */
function setDirective({ view }: EditorHandle, name: string, value: string): void {
  if (!view) return;
  const text = view.state.doc.toString();
  const found = line(name).exec(name === 'origin' ? headOf(text) : text);
  if (found) {
    const from = found.index + found[0].indexOf(found[2]!, found[1]!.length + name.length + 1);
    view.dispatch({ changes: { from, to: from + found[2]!.length, insert: value } });
    return;
  }
  const first = name === 'base' ? (/^[ \t]*[^;\s]/m.exec(text)?.index ?? text.length) : headOf(text).length;
  view.dispatch({ changes: { from: first, insert: `        .${name.padEnd(6)} ${value}\n` } });
}

const BASES: Readonly<Record<number, string>> = { 2: 'binary', 8: 'octal', 10: 'decimal', 16: 'hexadecimal' };

export function Settings({ machine }: { machine: Machine }) {
  const source = useText((state) => state.source);
  const editor = useEditor();
  const base = useText((state) => state.listing.base);
  const arrange = async (): Promise<void> => {
    const text = await engine.texts.inColumns(source);
    if (useText.getState().source === source) editor.replaceText(text);
  };
  return (
    <Controls mt="0" px="12px" py="5px" borderBottom="1px solid" borderColor="line" flexShrink="0" data-testid="settings">
      <OriginField machine={machine} source={source} base={base} />
      <Label>
        unmarked numbers
        <Choice
          label="Base of unmarked numbers"
          testId="base"
          value={base}
          choose={(value) => setDirective(editor, 'base', value)}
          options={(machine.radix === 10 ? [10] : [10, 16, 2, 8]).map((value) => ({ value, says: BASES[value]! }))}
        />
      </Label>
      <Button onClick={() => void arrange()} data-testid="columns">
        Put into columns
      </Button>
    </Controls>
  );
}

/** Shows both readings of a number without a mark before it is taken. */
function OriginField({ machine, source, base }: { machine: Machine; source: string; base: number }) {
  const present = line('origin').exec(headOf(source))?.[2] ?? '';
  const editor = useEditor();
  const [typed, setTyped] = useState<string>();
  const text = (typed ?? present).trim();
  const { cells, addressWidth } = programSpaceOf(machine);
  const bare = /^[0-9A-Fa-f_]+$/.test(text) && !/^0[xXbBoOdD]/.test(text) && machine.radix === 2;
  const decimal = bare ? readNumber(`0d${text}`) : undefined;
  const hex = bare ? readNumber(`0x${text}`) : undefined;
  const value = readNumber(text, { base, suffixes: machine.assembly.suffixes });
  const shown = (address: number | undefined): string =>
    address === undefined
      ? 'no number'
      : address < cells
        ? `cell ${address} = ${shownNumber(address, addressWidth, machine)}`
        : `${address}: past the end`;
  const take = (written: string): void => {
    if (written !== '' && written !== present) setDirective(editor, 'origin', written);
    setTyped(undefined);
  };
  return (
    <Flex
      as="form"
      align="center"
      gap="8px"
      onSubmit={(event) => {
        event.preventDefault();
        if (value !== undefined && value < cells) take(text);
      }}
    >
      <Label>
        origin
        <Entry
          room="word"
          aria-label="Origin: where the program lies"
          data-testid="origin"
          placeholder="0"
          value={typed ?? present}
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => event.key === 'Escape' && setTyped(undefined)}
        />
      </Label>
      {typed !== undefined && text !== '' && (
        <Flex as="span" gap="6px" role="status" data-testid="origin-readings">
          {bare && decimal !== hex ? (
            <>
              {decimal !== undefined && (
                <Button disabled={decimal >= cells} onClick={() => take(`0d${text}`)}>
                  decimal: {shown(decimal)}
                </Button>
              )}
              <Button disabled={hex === undefined || hex >= cells} onClick={() => take(`0x${text.toUpperCase()}`)}>
                hexadecimal: {shown(hex)}
              </Button>
            </>
          ) : (
            shown(value)
          )}
        </Flex>
      )}
    </Flex>
  );
}
