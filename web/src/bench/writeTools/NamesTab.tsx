/** Names of the program: what they stand for, where they are defined and used, and renaming them everywhere. */
import { useState } from 'react';
import { placeText, type CellPlace } from '@zettak/core/machine/model/describe';
import type { ProgramSymbol } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import { shownNumber } from '@zettak/core/text/number';
import { engine } from '../../session/engine';
import { useEditor, type EditorHandle } from '../../editor/handle';
import { useDocument } from '../document';
import { say, useText } from '../text';
import { Table } from '@chakra-ui/react';
import { Button } from '../../ui/Button';
import { Entry } from '../../ui/Field';
import { Heading, Hint, List } from '../../ui/Panel';
import { itemAt } from '@zettak/core/text/itemAt';

/** What a name stands for: a number, or a place with its memory where there are several. */
export function valueText(machine: Machine, { kind, value, space, at }: ProgramSymbol): string {
  if (kind === 'constant') return String(value);
  const own = space ?? machine.programSpace;
  if (at !== undefined) return placeIn(machine, { space: own, address: at });
  return `${nameOf(machine, own)}${shownNumber(value, itemAt(machine.spaces, own).addressWidth, machine)}`;
}

/** Where a name is defined in a text: the first whole word on its line. */
function placeOf(source: string, { line, name }: ProgramSymbol): number | undefined {
  const lines = source.split('\n');
  const own = name.slice(name.lastIndexOf('.') + 1);
  const column = lines[line - 1]?.search(new RegExp(`(?<![\\p{L}\\p{M}\\p{Nd}_.])${own}(?![\\p{L}\\p{M}\\p{Nd}_])`, 'iu')) ?? -1;
  return column === -1 ? undefined : lines.slice(0, line - 1).reduce((sum, each) => sum + each.length + 1, 0) + column;
}

/** Renames in the editor, as one step of undo; what cannot be is said. */
export async function renameName(symbol: ProgramSymbol, name: string, editor: EditorHandle): Promise<void> {
  const { source } = useText.getState();
  const offset = placeOf(source, symbol);
  if (offset === undefined) return say(`“${symbol.name}” is defined elsewhere.`);
  const result = await engine.texts.rename(source, offset, name);
  if ('refused' in result) return say(result.refused);
  if (useText.getState().source === source) editor.applyEdits(result.edits);
}

export function NamesTab() {
  const symbols = useText((state) => state.symbols);
  const machine = useDocument((state) => state.machine);
  const declared = useText((state) => state.listing.declared);
  const [renaming, setRenaming] = useState<string>();
  if (!machine || symbols.length === 0)
    return <Hint as="p">This program defines no names yet. A label before an instruction or a .cells line is one.</Hint>;
  const sorted = symbols.toSorted((a, b) => a.name.localeCompare(b.name, 'en'));
  return (
    <>
      <NameTable {...{ machine, sorted, renaming, setRenaming }} />
      {declared && declared.length > 0 && (
        <section data-testid="declared">
          <Heading>Given and found</Heading>
          <List>
            {declared.map((each) => (
              <li key={`${each.way} ${each.name}`}>
                <b>{each.name}</b>, {each.way} at {placeIn(machine, each)}, {each.base}
                {each.unit && `, in ${each.unit}`} <LineButton line={each.line} />
              </li>
            ))}
          </List>
        </section>
      )}
    </>
  );
}

/** A place with its memory, where there are several. */
const placeIn = (machine: Machine, place: CellPlace): string => nameOf(machine, place.space) + placeText(machine, place);

const nameOf = ({ spaces }: Machine, space: number): string => (spaces.length > 1 ? `${itemAt(spaces, space).name} ` : '');

interface Table {
  readonly machine: Machine;
  readonly sorted: readonly ProgramSymbol[];
  readonly renaming: string | undefined;
  readonly setRenaming: (name: string | undefined) => void;
}

function NameTable({ machine, sorted, renaming, setRenaming }: Table) {
  return (
    <Table.Root data-testid="names">
      <Table.Header>
        <Table.Row>
          <Table.ColumnHeader scope="col">name</Table.ColumnHeader>
          <Table.ColumnHeader scope="col">stands for</Table.ColumnHeader>
          <Table.ColumnHeader scope="col">lines</Table.ColumnHeader>
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {sorted.map((each) => (
          <Table.Row key={`${each.part ?? ''} ${each.name}`} data-name={each.name}>
            <Table.Cell as="th" scope="row">
              {renaming === each.name ? (
                <NameEntry symbol={each} done={() => setRenaming(undefined)} />
              ) : (
                <Button
                  look="bare"
                  onClick={() => each.part === undefined && setRenaming(each.name)}
                  title={each.part === undefined ? 'Rename it everywhere' : `of the part “${each.part}”`}
                >
                  {each.name}
                </Button>
              )}
            </Table.Cell>
            <Table.Cell fontFamily="mono">{valueText(machine, each)}</Table.Cell>
            <Table.Cell>
              {each.part === undefined ? <LineButton line={each.line} defines /> : <Hint>{each.part}</Hint>}
              {each.uses.map((line) => (
                <LineButton key={line} line={line} />
              ))}
              {each.uses.length === 0 && <Hint>not used</Hint>}
            </Table.Cell>
          </Table.Row>
        ))}
      </Table.Body>
    </Table.Root>
  );
}

function LineButton({ line, defines = false }: { line: number; defines?: boolean }) {
  const editor = useEditor();
  return (
    <Button
      look="bare"
      className={defines ? 'line defines' : 'line'}
      onClick={() => editor.goToLine(line)}
      title={`${defines ? 'Defined' : 'Used'} on line ${line}`}
    >
      {line}
    </Button>
  );
}

function NameEntry({ symbol, done }: { symbol: ProgramSymbol; done: () => void }) {
  const editor = useEditor();
  const [name, setName] = useState(symbol.name.slice(symbol.name.lastIndexOf('.') + 1));
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void renameName(symbol, name.trim(), editor).then(done);
      }}
    >
      <Entry
        autoFocus
        aria-label={`New name for ${symbol.name}`}
        value={name}
        maxLength={60}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && done()}
        onBlur={done}
      />
    </form>
  );
}
