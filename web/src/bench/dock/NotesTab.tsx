/** Notes of this program: pinned to the line or tick that the run stands at, or to a panel. */
import { useState, type FormEvent } from 'react';
import { useEditor } from '../../editor/handle';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { TextEntry } from '../../ui/Field';
import { Controls, Heading, Hint, Item, List } from '../../ui/Panel';
import { useDocument } from '../document';
import { dropNote, lineNow, NOTED_PANELS, pinNote, useNotes, type Note, type NotePlace, type NotedPanel } from '../notes';
import { useLooks } from '../looks';
import { useRun } from '../run';
import { useText } from '../text';
import { itemAt } from '@zettak/core/text/itemAt';

const PANEL_WORDS: Readonly<Record<NotedPanel, string>> = {
  program: 'the program',
  console: 'the console',
  ticks: 'ticks and drawing',
  memory: 'the memory',
  registers: 'the registers',
  flags: 'the flags',
};

export function NotesTab() {
  const notes = useNotes((state) => state.notes);
  return (
    <div data-testid="notes">
      <section>
        <Heading>Pinned in this program</Heading>
        {notes.length === 0 && <Hint as="p">Nothing is pinned yet. A note comes up by itself whenever its line or its tick does.</Hint>}
        <List>
          {notes.map((each) => (
            <NoteRow key={each.id} note={each} />
          ))}
        </List>
      </section>
      <AddNote />
    </div>
  );
}

function NoteRow({ note }: { note: Note }) {
  const source = useText((state) => state.source);
  const editor = useEditor();
  const { at } = note;
  const line = at.kind === 'line' ? lineNow(at, source) : undefined;
  return (
    <Item lined>
      <b>{line !== undefined ? <Button onClick={() => editor.goToLine(line)}>{`line ${line}`}</Button> : wordsOf(at)}</b>
      <span style={{ flex: 1 }}>{note.text}</span>
      <Button onClick={() => dropNote(note.id)} aria-label={`Take the note “${note.text}” away`}>
        ×
      </Button>
    </Item>
  );
}

function wordsOf(at: NotePlace): string {
  switch (at.kind) {
    case 'line':
      return `line ${at.line}`;
    case 'tick':
      return at.step === 0 ? at.mnemonic : `${at.mnemonic}, tick ${at.step}`;
    case 'panel':
      return PANEL_WORDS[at.panel];
    default:
      return at satisfies never;
  }
}

function AddNote() {
  const [text, setText] = useState('');
  const [chosen, setChosen] = useState('line');
  const source = useText((state) => state.source);
  const cursor = useLooks((state) => state.cursorLine);
  const executing = useRun((state) => state.marked?.executing?.line);
  const step = useRun((state) => state.marked?.last?.step ?? 0);
  const form = useRun((state) => state.marked?.last?.form);
  const mnemonic = useDocument((state) => (form === undefined ? undefined : state.machine?.forms[form]?.mnemonic));
  const line = executing ?? cursor;
  const words = source.split('\n')[line - 1] ?? '';
  const places: { value: string; says: string; at: NotePlace }[] = [
    { value: 'line', says: `line ${line}`, at: { kind: 'line', line, words } },
    ...(mnemonic
      ? [
          { value: 'tick', says: `${mnemonic}, tick ${step}`, at: { kind: 'tick', mnemonic, step } as const },
          { value: 'instruction', says: `${mnemonic}, every tick`, at: { kind: 'tick', mnemonic, step: 0 } as const },
        ]
      : []),
    ...NOTED_PANELS.map((panel) => ({ value: panel, says: PANEL_WORDS[panel], at: { kind: 'panel', panel } as const })),
  ];
  const place = places.find((each) => each.value === chosen) ?? itemAt(places, 0);
  const add = (event: FormEvent): void => {
    event.preventDefault();
    if (text.trim() === '') return;
    pinNote(text.trim(), place.at);
    setText('');
  };
  return (
    <form onSubmit={add}>
      <Heading>Pin a note</Heading>
      <TextEntry
        value={text}
        maxLength={400}
        rows={2}
        width="100%"
        placeholder="Why is the borrow 1 here?"
        aria-label="Note"
        onChange={(event) => setText(event.target.value)}
        data-testid="note-text"
      />
      <Controls>
        <Choice label="Where the note is pinned" value={place.value} choose={setChosen} options={places} testId="note-place" />
        <Button type="submit" disabled={text.trim() === ''} data-testid="note-add">
          Pin
        </Button>
      </Controls>
    </form>
  );
}
