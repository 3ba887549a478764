/** Two programs beside each other, what differs marked. */
import { MergeView } from '@codemirror/merge';
import { EditorState } from '@codemirror/state';
import { EditorView, lineNumbers } from '@codemirror/view';
import { Box, Flex } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import type { DocumentSummary } from '@zettak/api/documents';
import { client } from '../documents/client';
import { Choice } from '../ui/Choice';
import { Hint, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';

interface CompareProps {
  readonly one: DocumentSummary;
  readonly other: DocumentSummary | undefined;
  readonly programs: readonly DocumentSummary[];
  readonly close: () => void;
}

export function Compare({ one, other, programs, close }: CompareProps) {
  const others = programs.filter((each) => each.id !== one.id);
  const [chosen, setChosen] = useState(other?.id ?? others[0]?.id ?? '');
  const [said, setSaid] = useState('');
  const [same, setSame] = useState(false);
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let live = true;
    let view: MergeView | undefined;
    setSaid('');
    if (chosen !== '')
      Promise.all([client.get('program', chosen), client.get('program', one.id)]).then(
        ([left, right]) => {
          if (!live || !place.current) return;
          const extensions = (label: string) => [
            lineNumbers(),
            EditorState.readOnly.of(true),
            EditorView.editable.of(false),
            EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
          ];
          setSame(left.draft === right.draft);
          view = new MergeView({
            a: { doc: left.draft, extensions: extensions(left.name) },
            b: { doc: right.draft, extensions: extensions(right.name) },
            parent: place.current,
            collapseUnchanged: { margin: 3, minSize: 6 },
          });
        },
        (error: Error) => live && setSaid(error.message),
      );
    return () => {
      live = false;
      view?.destroy();
    };
  }, [chosen, one.id]);
  return (
    <Window title="Two programs beside each other" open close={close} testId="compare" wide>
      <Flex gap="10px" align="center" pb="8px">
        <Choice
          label="Left"
          value={chosen}
          choose={setChosen}
          options={others.map((each) => ({ value: each.id, says: each.name }))}
          testId="compare-with"
        />
        <Hint>left, and right:</Hint>
        <b>{one.name}</b>
        {same && <Hint role="status">They say the same.</Hint>}
      </Flex>
      {said && <Refusal role="alert">{said}</Refusal>}
      <Box ref={place} maxHeight="60vh" overflow="auto" border="1px solid" borderColor="line" data-testid="compared" />
    </Window>
  );
}
