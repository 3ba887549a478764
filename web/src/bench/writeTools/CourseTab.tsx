/** What the course keeps for this machine: parts to take in, frames to begin with, snippets to insert. */
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { DocumentDetail } from '@zettak/api/documents';
import { courseKinds, type CourseKind } from '@zettak/api/kinds';
import { useEditor } from '../../editor/handle';
import { passFrozen } from '../../editor/language';
import { keepForCourse, dropFromCourse } from '../course';
import { createProgram, useDocument } from '../document';
import { setUnfrozen, say, sayError, useText } from '../text';
import { Button } from '../../ui/Button';
import { Entry } from '../../ui/Field';
import { Apart, Controls, Heading, Hint, Item, List, Plain } from '../../ui/Panel';
import { Choice } from '../../ui/Choice';
import { Check } from '../../ui/Check';
import { Fold } from '../../ui/Fold';
import { Box } from '@chakra-ui/react';

const SAYS: Readonly<Record<CourseKind, { readonly title: string; readonly hint: string; readonly use: string }>> = {
  part: { title: 'Parts', hint: 'routines that a program takes in by name', use: 'include' },
  frame: { title: 'Frames', hint: 'beginnings of programs; lines that end in ;! stay as they are', use: 'begin with it' },
  snippet: { title: 'Snippets', hint: 'lines to insert at the cursor', use: 'insert' },
};

export function CourseTab() {
  const course = useDocument((state) => state.course);
  const unfrozen = useText((state) => state.unfrozen);
  return (
    <div data-testid="course">
      {courseKinds.map((kind) => (
        <section key={kind}>
          <Heading>{SAYS[kind].title}</Heading>
          <Hint as="p">{SAYS[kind].hint}</Hint>
          <List>
            {course
              .filter((each) => each.kind === kind)
              .map((each) => (
                <CourseItem key={each.id} item={each} kind={kind} />
              ))}
          </List>
          {!course.some((each) => each.kind === kind) && <Hint as="p">none yet</Hint>}
        </section>
      ))}
      <KeepForm />
      <Check on={unfrozen} change={setUnfrozen} testId="unfreeze" mt="8px">
        let me change given lines
      </Check>
    </div>
  );
}

function CourseItem({ item, kind }: { item: DocumentDetail; kind: CourseKind }) {
  const navigate = useNavigate();
  const editor = useEditor();
  const [asks, setAsks] = useState(false);
  const use = async (): Promise<void> => {
    if (kind === 'frame') {
      const id = await createProgram(item.name, item.draft);
      if (id) await navigate(`/bench/${id}`);
      return;
    }
    const { view } = editor;
    if (!view) return;
    const text = kind === 'part' ? `        .include "${item.name}"\n` : `${item.draft.replace(/\n*$/, '')}\n`;
    // A part goes before the first instruction that may need it; a snippet where the cursor is.
    const line = view.state.doc.lineAt(view.state.selection.main.head);
    const at = line.text.trim() === '' ? line.from : Math.min(line.to + 1, view.state.doc.length);
    const lead = at === view.state.doc.length && at > 0 && !view.state.doc.toString().endsWith('\n') ? '\n' : '';
    view.dispatch({
      changes: { from: at, insert: lead + text },
      selection: { anchor: at + lead.length + text.length },
      annotations: passFrozen.of(true),
      scrollIntoView: true,
    });
    view.focus();
  };
  const open = async (): Promise<void> => {
    const id = await createProgram(item.name, item.draft);
    if (id) await navigate(`/bench/${id}`);
  };
  return (
    <Item data-course={item.name} alignItems="flex-start">
      <Box flex="1" minWidth="0">
        <Fold title={<b>{item.name}</b>}>
          <Plain tabIndex={0}>{item.draft}</Plain>
          <Controls>
            {kind !== 'frame' && <Button onClick={() => void open().catch(sayError)}>open as a program</Button>}
            {asks ? (
              <Button look="danger" onClick={() => void dropFromCourse(item).catch(sayError)}>
                Really take “{item.name}” out of the course
              </Button>
            ) : (
              <Button onClick={() => setAsks(true)}>take out …</Button>
            )}
          </Controls>
        </Fold>
      </Box>
      <Button onClick={() => void use().catch(sayError)} aria-label={`${SAYS[kind].use}: ${item.name}`}>
        {SAYS[kind].use}
      </Button>
    </Item>
  );
}

/** The whole program, or what is selected in it, becomes a text of the course. */
function KeepForm() {
  const editor = useEditor();
  const [kind, setKind] = useState<CourseKind>('snippet');
  const [name, setName] = useState('');
  const known = useDocument((state) =>
    state.course.find((each) => each.kind === kind && each.name.toLowerCase() === name.trim().toLowerCase()),
  );
  const keep = async (): Promise<void> => {
    const { view } = editor;
    if (!view) return;
    const { from, to } = view.state.selection.main;
    const text = from === to ? view.state.doc.toString() : view.state.sliceDoc(from, to);
    say(await keepForCourse(kind, name.trim(), text));
    setName('');
  };
  return (
    <Apart
      as="form"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim()) void keep().catch((error: Error) => say(error.message));
      }}
    >
      <b>Keep the selection, or the whole program, as a</b>
      <Controls>
        <Choice
          label="Kind of course text"
          testId="keep-kind"
          value={kind}
          choose={(value) => setKind(value as CourseKind)}
          options={courseKinds.map((each) => ({ value: each, says: each }))}
        />
        <Entry
          aria-label="Its name"
          placeholder="name"
          value={name}
          maxLength={60}
          onChange={(event) => setName(event.target.value)}
          data-testid="keep-name"
        />
        <Button type="submit" disabled={name.trim() === ''}>
          {known ? 'replace' : 'keep'}
        </Button>
      </Controls>
    </Apart>
  );
}
