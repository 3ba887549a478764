/** The program: source with its listing in the same rows, problems in place, and what the assembly amounts to. */
import { Eye, PencilLine } from 'lucide-react';
import { ConflictBar } from '../documents/SaveMark';
import { PartLines, SystemLines } from './FoldedLines';
import { Outcome } from './Outcome';
import { RenameBar } from './RenameBar';
import { loadAndLeave, SourceEditor } from './SourceEditor';
import { useDocument } from './document';
import { setWriting, useLooks } from './looks';
import { useRun } from './run';
import { takeText, useText } from './text';
import { Settings } from './write/Settings';

export function ProgramPanel() {
  const machine = useDocument((state) => state.machine);
  const program = useDocument((state) => state.program);
  const saveState = useDocument((state) => state.saveState);
  const draft = useDocument((state) => state.draft);
  const writing = useLooks((state) => state.writing);
  const loaded = useRun((state) => state.view?.loaded);
  const holdsOlder = useText((state) => loaded !== undefined && loaded !== state.source);
  return (
    <section className="panel program" aria-label="Program">
      <header>
        <h2 className={holdsOlder ? 'sr-only' : ''}>Program</h2>
        {holdsOlder && (
          <span className="badge" data-testid="older">
            holds an older program
          </span>
        )}
        <button
          type="button"
          className="plain turn"
          aria-label={writing ? 'Watch: show the ticks again' : 'Write: tools for writing in place of the ticks'}
          aria-pressed={writing}
          onClick={() => setWriting(!writing)}
          title={writing ? 'Show the ticks again (w)' : 'Tools for writing in place of the ticks (w)'}
          data-testid="write"
          data-bench
        >
          {writing ? <Eye size={15} aria-hidden /> : <PencilLine size={15} aria-hidden />}
        </button>
        <button
          type="button"
          className="load"
          onClick={() => void loadAndLeave()}
          title="Assemble and load (Ctrl Enter)"
          data-testid="load"
        >
          Assemble and load
        </button>
      </header>
      <ConflictBar state={saveState} draft={draft} take={takeText} />
      {machine && writing && <Settings machine={machine} />}
      {machine && program && <SourceEditor machine={machine} programId={program.id} />}
      {machine && <PartLines machine={machine} />}
      {machine && <SystemLines machine={machine} />}
      <RenameBar />
      <Outcome />
    </section>
  );
}
