/** Notes where they are pinned: under the sentence while their line or tick is there, and under the head of a panel. */
import { chakra } from '@chakra-ui/react';
import { StickyNote } from 'lucide-react';
import { useMemo } from 'react';
import { useDocument } from './document';
import { notesAt, useNotes, type Note, type NotedPanel } from './notes';
import { useRun } from './run';
import { useText } from './text';

const Pinned = chakra('ul', {
  base: {
    listStyle: 'none',
    flexShrink: '0',
    px: '12px',
    py: '3px',
    bg: 'sand',
    borderInlineStart: '5px solid',
    borderColor: 'sandline',
    fontSize: '15px',
    lineHeight: '20px',
    '& li': { display: 'flex', gap: '6px', alignItems: 'baseline' },
    '& svg': { flexShrink: '0', position: 'relative', top: '2px' },
  },
});

const List = ({ notes, testId }: { notes: readonly Note[]; testId: string }) =>
  notes.length === 0 ? null : (
    <Pinned aria-label="Notes" data-testid={testId}>
      {notes.map((each) => (
        <li key={each.id}>
          <StickyNote size={14} aria-hidden /> {each.text}
        </li>
      ))}
    </Pinned>
  );

/** Of a panel. */
export function PanelNotes({ panel }: { panel: NotedPanel }) {
  const all = useNotes((state) => state.notes);
  const notes = useMemo(() => all.filter(({ at }) => at.kind === 'panel' && at.panel === panel), [all, panel]);
  return <List notes={notes} testId={`notes-${panel}`} />;
}

/** Of the present line and tick. */
export function MomentNotes() {
  const all = useNotes((state) => state.notes);
  const line = useRun((state) => state.told?.executing?.line);
  const step = useRun((state) => state.told?.last?.step ?? 0);
  const form = useRun((state) => state.told?.last?.form);
  const mnemonic = useDocument((state) => (form === undefined ? undefined : state.machine?.forms[form]?.mnemonic));
  const source = useText((state) => state.source);
  if (all.length === 0) return null;
  return <List notes={notesAt(all, { line, mnemonic, step, source })} testId="notes-now" />;
}
