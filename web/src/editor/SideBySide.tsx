/** Two texts beside each other, what differs marked, what is the same folded away. */
import { MergeView } from '@codemirror/merge';
import { EditorState } from '@codemirror/state';
import { EditorView, lineNumbers } from '@codemirror/view';
import { Box } from '@chakra-ui/react';
import { useEffect, useRef } from 'react';

interface Side {
  readonly name: string;
  readonly text: string;
}

export function SideBySide({ left, right }: { left: Side; right: Side }) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!place.current) return;
    const side = ({ name, text }: Side) => ({
      doc: text,
      extensions: [
        lineNumbers(),
        EditorState.readOnly.of(true),
        EditorView.editable.of(false),
        EditorView.contentAttributes.of({ 'aria-label': name, role: 'textbox', 'aria-readonly': 'true', tabindex: '0' }),
      ],
    });
    const view = new MergeView({ a: side(left), b: side(right), parent: place.current, collapseUnchanged: { margin: 3, minSize: 6 } });
    return () => view.destroy();
    // Texts are compared, not objects.
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, [left.text, right.text, left.name, right.name]);
  return <Box ref={place} maxHeight="60vh" overflow="auto" border="1px solid" borderColor="line" data-testid="compared" />;
}
