/** The program: source with its listing in the same rows, problems in place, and what the assembly amounts to. */
import { Badge, chakra } from '@chakra-ui/react';
import { Eye, PencilLine } from 'lucide-react';
import { useState } from 'react';
import { ConflictBar } from '../documents/SaveMark';
import { Difference, type Differing } from '../editor/Difference';
import { Button } from '../ui/Button';
import { Hidden, Panel, PanelHead, PanelTitle } from '../ui/Panel';
import { PartLines, SystemLines } from './FoldedLines';
import { Given } from './Given';
import { Outcome } from './Outcome';
import { PanelNotes } from './PinnedNotes';
import { RenameBar } from './RenameBar';
import { loadAndLeave, SourceEditor } from './SourceEditor';
import { useDocument, useHeading } from './document';
import { setWriting, useLooks } from './looks';
import { useRun } from './run';
import { takeText, useText } from './text';
import { Settings } from './writeTools/Settings';

export function ProgramPanel() {
  const machine = useDocument((state) => state.machine);
  const program = useDocument((state) => state.program);
  const saveState = useDocument((state) => state.saveState);
  const draft = useDocument((state) => state.draft);
  const writing = useLooks((state) => state.writing);
  const [differing, setDiffering] = useState<Differing>();
  return (
    <Panel label={useHeading('program', 'Program')} className="program" height="100%">
      <Head writing={writing} />
      <PanelNotes panel="program" />
      <ConflictBar state={saveState} draft={draft} take={takeText} compare={(mine, theirs) => setDiffering({ mine, theirs })} />
      <Difference texts={differing} close={() => setDiffering(undefined)} />
      {machine && writing && <Settings machine={machine} />}
      {machine && program && <SourceEditor machine={machine} programId={program.id} />}
      {!machine && program && <TextAlone />}
      {machine && <PartLines machine={machine} />}
      {machine && <SystemLines machine={machine} />}
      <RenameBar />
      <Outcome />
      <Given />
    </Panel>
  );
}

/** What is written, where there is no machine that it could be written for. */
function TextAlone() {
  const source = useText((state) => state.source);
  return (
    <chakra.pre
      {...{ flex: '1', minHeight: '0', overflow: 'auto', margin: '0', padding: '8px', fontFamily: 'mono', fontSize: '14px' }}
      tabIndex={0}
      aria-label="Text of the program, to be read only"
      data-testid="text-alone"
    >
      {source}
    </chakra.pre>
  );
}

function Head({ writing }: { writing: boolean }) {
  const heading = useHeading('program', 'Program');
  const ready = useDocument((state) => state.machine !== undefined);
  const loaded = useRun((state) => (state.view?.status === 'empty' ? undefined : state.view?.loaded));
  const holdsOlder = useText((state) => loaded !== undefined && loaded !== state.source);
  const Title = holdsOlder ? Hidden : PanelTitle;
  const turn = writing
    ? { label: 'Watch: put the tools for writing away', tip: 'Put the tools for writing away (w)', Icon: Eye }
    : { label: 'Write: tools for writing beside the source', tip: 'Tools for writing beside the source (w)', Icon: PencilLine };
  return (
    <PanelHead px="8px">
      <Title as="h2">{heading}</Title>
      {holdsOlder && (
        <Badge
          border="1.5px solid"
          borderColor="now"
          color="now"
          borderRadius="6px"
          px="6px"
          fontSize="13px"
          fontWeight="650"
          whiteSpace="nowrap"
          data-testid="older"
        >
          holds an older program
        </Badge>
      )}
      <Button
        marginInlineStart="auto"
        px="6px"
        aria-label={turn.label}
        aria-pressed={writing}
        onClick={() => setWriting(!writing)}
        tip={turn.tip}
        data-testid="write"
        data-bench
      >
        <turn.Icon size={15} aria-hidden />
      </Button>
      <Button
        look="strong"
        disabled={!ready}
        onClick={() => void loadAndLeave()}
        title="Assemble and load (Ctrl Enter)"
        data-due={holdsOlder ? '' : undefined}
        data-testid="load"
      >
        Assemble and load
      </Button>
    </PanelHead>
  );
}
