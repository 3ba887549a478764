/** Under the program: facts of a text that assembles, problems of one that does not, and what was said last. */
import type { Facts } from '@zettak/core/image/program';
import type { Machine } from '@zettak/core/machine/model/machine';
import { addressText } from '@zettak/core/engine/tell/names';
import { SaveMark } from '../documents/SaveMark';
import { useEditor } from '../editor/handle';
import { ProblemList } from '../editor/ProblemList';
import { useDocument } from './document';
import { runFinishedPart } from './loading';
import { useText } from './text';

export function Outcome() {
  const { problems, facts } = useText((state) => state.listing);
  const message = useText((state) => state.message);
  const note = useText((state) => state.note);
  const offersPart = useText((state) => state.offersPart);
  const saveState = useDocument((state) => state.saveState);
  const machine = useDocument((state) => state.machine);
  const editor = useEditor();
  return (
    <div className="outcome" data-testid="outcome">
      <SaveMark state={saveState} />
      {message && (
        <p className="message" role="alert">
          {message}
        </p>
      )}
      {note && (
        <p className="told" role="status">
          {note}
        </p>
      )}
      {offersPart && (
        <button type="button" className="plain" onClick={() => void runFinishedPart()} data-testid="load-part">
          Run the finished part, up to the first error
        </button>
      )}
      {facts && machine && <p data-testid="facts">{factsText(machine, facts)}</p>}
      {problems.length > 0 && <ProblemList problems={problems} editor={editor} testId="problems" />}
    </div>
  );
}

function factsText(machine: Machine, facts: Facts): string {
  const cell = (address: number): string => addressText(machine, address);
  const unused = facts.unusedNames.length > 0 ? `; never used: ${facts.unusedNames.slice(0, 4).join(', ')}.` : '.';
  return [
    `Starts at ${cell(facts.start)}, last cell ${cell(facts.last)}.`,
    `${facts.used} cells used, ${facts.free} free, ${facts.names} names${unused}`,
    facts.services.length > 0 && `Services: ${facts.services.join(', ')}.`,
    facts.outside.length > 0 && `Goes outside to ${facts.outside.map(cell).join(', ')}.`,
    facts.warnings > 0 && `${facts.warnings} ${facts.warnings === 1 ? 'warning' : 'warnings'}.`,
    facts.base !== 10 && `Unmarked numbers are read in base ${facts.base}.`,
  ]
    .filter((each) => each !== false)
    .join(' ');
}
