/** The parts of a machine's document: chosen, moved, written once more, removed. Each act is a change of the text, and undone there. */
import { Box, chakra } from '@chakra-ui/react';
import { ArrowDown, ArrowUp, Copy, Trash2 } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import type { OutlinePart, OutlineSection } from '@zettak/core/machine/document/outline';
import type { DocumentEdit } from '@zettak/core/machine/document/tree';
import type { Path } from '@zettak/core/machine/document/yaml';
import type { EditorHandle } from '../editor/handle';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
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
  // Focus stays on the part, wherever it stands after an act.
  useEffect(() => {
    const held = list.current;
    if (held?.contains(document.activeElement) || document.activeElement === document.body)
      held?.querySelector<HTMLElement>('[aria-current=true]')?.focus();
  }, [chosen, sections]);

  const key = (event: React.KeyboardEvent): void => {
    const held = event.ctrlKey || event.metaKey;
    const letter = event.key.toLowerCase();
    if (held && (letter === 'z' || letter === 'y')) {
      editor.turn(letter === 'y' || event.shiftKey ? 'redo' : 'undo');
      return event.preventDefault();
    }
    if (!part || broken) return;
    if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown'))
      void act({ kind: 'move', path: part.path, to: part.at + (event.key === 'ArrowUp' ? -1 : 1) });
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
    if (!broken) editor.showSpan(each.span.start, each.span.end);
  };

  return (
    <Panel label="Parts of the machine" borderRight="1px solid" borderColor="line" data-testid="outline" onKeyDown={key}>
      <PanelHead minHeight="40px" gap="2px">
        <PanelTitle me="auto">Parts</PanelTitle>
        <Acts {...{ part: broken ? undefined : part, act }} />
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

/** What can be done with the chosen part. */
function Acts({ part, act }: { part: OutlinePart | undefined; act: (edit: Act) => Promise<void> }) {
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
  return acts.map(({ words, Icon, off, edit }) => (
    <Button key={words} look="tag" disabled={off} onClick={() => void act(edit)} aria-label={words} tip={words} data-act={edit.kind}>
      <Icon size={15} aria-hidden />
    </Button>
  ));
}
