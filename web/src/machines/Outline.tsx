/** The parts of a machine's document: chosen, moved, written once more, removed. Each act is a change of the text, and undone there. */
import { Box, chakra } from '@chakra-ui/react';
import { ArrowDown, ArrowUp, Copy, Pencil, Trash2 } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import type { OutlinePart, OutlineSection } from '@zettak/core/machine/document/outline';
import type { DocumentEdit } from '@zettak/core/machine/document/tree';
import type { Path } from '@zettak/core/machine/document/yaml';
import type { EditorHandle } from '../editor/handle';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Entry } from '../ui/Field';
import { Hint, Panel, PanelHead, PanelTitle, Refusal } from '../ui/Panel';

type Act = DocumentEdit | { readonly kind: 'duplicate'; readonly path: Path };

const keyOf = (path: Path): string => path.join(' / ');

const Parts = chakra('div', {
  base: {
    overflow: 'auto',
    flex: '1',
    pb: '8px',
    '& h3': { px: '12px', pt: '8px', pb: '2px', fontSize: '12.5px', fontWeight: '700', color: 'ink3' },
    '& button': {
      display: 'flex',
      gap: '8px',
      width: '100%',
      px: '12px',
      py: '1px',
      textAlign: 'left',
      fontSize: '13px',
      lineHeight: '20px',
      whiteSpace: 'nowrap',
      overflow: 'hidden',
      borderLeft: '3px solid transparent',
      _hover: { bg: 'sea' },
      '&[aria-current=true]': { bg: 'nowPale', borderColor: 'now' },
      '& b': { fontFamily: 'mono', fontWeight: '600', flexShrink: '0' },
      '& span': { color: 'ink3', overflow: 'hidden', textOverflow: 'ellipsis' },
    },
  },
});

/** `text` is what the editor holds. */
export function Outline({ text, editor }: { text: string; editor: EditorHandle }) {
  const [sections, setSections] = useState<readonly OutlineSection[]>();
  const [broken, setBroken] = useState(false);
  const [chosen, setChosen] = useState('');
  const [refused, setRefused] = useState('');
  const [renaming, setRenaming] = useState(false);
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let live = true;
    void engine.texts.outline(text).then((found) => {
      if (!live) return;
      setBroken(found === undefined);
      // The parts of the last sound text stay in sight.
      if (found) setSections(found);
    });
    return () => {
      live = false;
    };
  }, [text]);
  const all = (sections ?? []).flatMap((each) => each.parts);
  const part = all.find((each) => keyOf(each.path) === chosen);

  const act = async (edit: Act): Promise<void> => {
    const now = editor.view?.state.doc.toString() ?? text;
    const made = await engine.texts.edit(now, edit);
    if ('refused' in made) return setRefused(made.refused);
    setRefused('');
    if (editor.view?.state.doc.toString() === now) editor.applyEdits(made.changes);
    if (edit.kind !== 'remove') return setChosen(keyOf(made.path));
    // The neighbour is next: whoever removes several goes on.
    const siblings = all.filter((each) => keyOf(each.path.slice(0, -1)) === keyOf(edit.path.slice(0, -1)));
    const at = siblings.findIndex((each) => keyOf(each.path) === keyOf(edit.path));
    const next = siblings[at + 1] ?? siblings[at - 1];
    setChosen(next ? keyOf(next.path) : '');
  };
  const focusChosen = (): void => list.current?.querySelector<HTMLElement>('[aria-current=true]')?.focus();
  // Focus stays on the part, wherever it stands after an act.
  useEffect(() => {
    const held = list.current;
    if (held?.contains(document.activeElement) || document.activeElement === document.body) focusChosen();
  }, [chosen, sections]);
  const keepName = (): void => {
    setRenaming(false);
    setRefused('');
    focusChosen();
  };

  const rename = async (name: string): Promise<void> => {
    if (!part) return;
    const now = editor.view?.state.doc.toString() ?? text;
    const made = await engine.texts.renamePart(now, part.path, name);
    if ('refused' in made) return setRefused(made.refused);
    if (editor.view?.state.doc.toString() === now) editor.applyEdits(made.changes);
    setRefused('');
    setRenaming(false);
    setChosen(keyOf(made.path));
  };
  const key = (event: React.KeyboardEvent): void => {
    // What is typed into a name is not an act.
    if (renaming) return;
    const held = event.ctrlKey || event.metaKey;
    const letter = event.key.toLowerCase();
    if (held && (letter === 'z' || letter === 'y')) {
      editor.turn(letter === 'y' || event.shiftKey ? 'redo' : 'undo');
      return event.preventDefault();
    }
    if (!part || broken) return;
    if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown'))
      void act({ kind: 'move', path: part.path, to: part.at + (event.key === 'ArrowUp' ? -1 : 1) });
    else if (event.key === 'F2') setRenaming(true);
    else if (event.key === 'Delete') void act({ kind: 'remove', path: part.path });
    else if (held && letter === 'd') void act({ kind: 'duplicate', path: part.path });
    else if (!event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      const at = all.indexOf(part) + (event.key === 'ArrowUp' ? -1 : 1);
      const next = all[at];
      if (next) setChosen(keyOf(next.path));
    } else return;
    event.preventDefault();
  };
  const choose = (each: OutlinePart): void => {
    setChosen(keyOf(each.path));
    setRefused('');
    setRenaming(false);
    if (!broken) editor.showSpan(each.span.start, each.span.end);
  };

  return (
    <Panel label="Parts of the machine" borderRight="1px solid" borderColor="line" data-testid="outline" onKeyDown={key}>
      <PanelHead minHeight="40px" gap="1px" ps="12px" pe="4px">
        <PanelTitle me="auto">Parts</PanelTitle>
        <Acts {...{ part: broken ? undefined : part, act }} rename={() => setRenaming(true)} />
      </PanelHead>
      {broken && (
        <Hint as="p" px="12px" py="6px">
          The text has a mistake, so parts can be looked at only. Mend it on the right.
        </Hint>
      )}
      {refused && (
        <Refusal role="alert" px="12px">
          {refused}
        </Refusal>
      )}
      {renaming && part && !broken && <NewName key={keyOf(part.path)} {...{ part, text, rename }} cancel={keepName} />}
      <Parts ref={list}>
        {(sections ?? []).map(({ name, parts }) => (
          <Box as="section" key={name} aria-label={name}>
            <h3>{name}</h3>
            {parts.map((each) => (
              <chakra.button
                key={each.name}
                type="button"
                tabIndex={(part ?? all[0]) === each ? 0 : -1}
                aria-current={part === each}
                onClick={() => choose(each)}
                title={each.says}
                data-part={keyOf(each.path)}
              >
                <b>{each.name === '' ? '(none)' : each.name}</b>
                <span>{each.says}</span>
              </chakra.button>
            ))}
          </Box>
        ))}
      </Parts>
    </Panel>
  );
}

interface NewNameProps {
  readonly part: OutlinePart;
  readonly text: string;
  readonly rename: (name: string) => Promise<void>;
  readonly cancel: () => void;
}

/** Another name for a part, with what it would touch before it is taken. */
function NewName({ part, text, rename, cancel }: NewNameProps) {
  const [name, setName] = useState(part.name);
  const [touches, setTouches] = useState('');
  useEffect(() => {
    let live = true;
    if (name === part.name) return setTouches('');
    void engine.texts.renamePart(text, part.path, name).then((made) => {
      if (live)
        setTouches(
          'refused' in made ? made.refused : `${made.places === 1 ? 'one place names' : `${made.places} places name`} it, and follow`,
        );
    });
    return () => {
      live = false;
    };
  }, [name, part, text]);
  return (
    <Box
      as="form"
      px="12px"
      py="6px"
      onSubmit={(event: React.FormEvent) => {
        event.preventDefault();
        if (name === part.name) cancel();
        else void rename(name);
      }}
    >
      <Entry
        autoFocus
        width="100%"
        fontFamily="mono"
        aria-label={`Another name for ${part.name}`}
        value={name}
        maxLength={40}
        onFocus={(event) => event.currentTarget.select()}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && cancel()}
        data-testid="new-name"
      />
      <Hint as="output" display="block" pt="4px" data-testid="touches">
        {touches}
      </Hint>
    </Box>
  );
}

/** What can be done with the chosen part. */
function Acts({ part, act, rename }: { part: OutlinePart | undefined; act: (edit: Act) => Promise<void>; rename: () => void }) {
  const path = part?.path ?? [];
  const acts = [
    { words: 'Move up (Alt ↑)', Icon: ArrowUp, off: !part || part.at === 0, edit: { kind: 'move', path, to: (part?.at ?? 0) - 1 } },
    {
      words: 'Move down (Alt ↓)',
      Icon: ArrowDown,
      off: !part || part.at === part.of - 1,
      edit: { kind: 'move', path, to: (part?.at ?? 0) + 1 },
    },
    { words: 'Write once more (Ctrl D)', Icon: Copy, off: !part, edit: { kind: 'duplicate', path } },
    { words: 'Remove (Delete)', Icon: Trash2, off: !part, edit: { kind: 'remove', path } },
  ] as const;
  return (
    <>
      <Button
        look="tag"
        disabled={!part}
        onClick={rename}
        aria-label="Rename everywhere (F2)"
        tip="Rename everywhere (F2)"
        data-act="rename"
      >
        <Pencil size={15} aria-hidden />
      </Button>
      {acts.map(({ words, Icon, off, edit }) => (
        <Button key={words} look="tag" disabled={off} onClick={() => void act(edit)} aria-label={words} tip={words} data-act={edit.kind}>
          <Icon size={15} aria-hidden />
        </Button>
      ))}
    </>
  );
}
