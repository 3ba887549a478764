/** Breakpoints and print-points, each on its own; and running to a place instead of to a breakpoint. */
import { useState, type FormEvent } from 'react';
import { engine } from '../../session/engine';
import { useEditor, type EditorHandle } from '../../editor/handle';
import type { BreakSpec, BreakState } from '@zettak/core/session/protocol';
import { nextId } from '../stops';
import { useLooks } from '../looks';
import { command, setStops, ticksIn, setBudget, useRun } from '../run';

const KINDS: readonly { readonly kind: BreakSpec['kind']; readonly says: string; readonly asks?: string }[] = [
  { kind: 'change', says: 'after a change of', asks: 'ACC, C, level, M[0x20]' },
  { kind: 'write', says: 'after a write to', asks: 'ACC, C, level, M[0x20]' },
  { kind: 'read', says: 'after a read of the cell', asks: 'level, M[0x20]' },
  { kind: 'condition', says: 'when this begins to hold', asks: 'ACC = 0' },
  { kind: 'output', says: 'after output' },
  { kind: 'line', says: 'before the line', asks: '7' },
  { kind: 'address', says: 'before the address', asks: '0x10, next' },
];

export function StopsTab() {
  const stops = useRun((state) => state.stops);
  const states = useRun((state) => state.view?.breaks);
  return (
    <div className="stops-tool" data-testid="stops">
      <RunTo />
      <h3>Breakpoints</h3>
      {stops.length === 0 && <p className="hint">None yet. Press b for one where PC points, click a line number, or add one below.</p>}
      <ul className="stop-list">
        {stops.map((each) => (
          <Stop key={each.id} stop={each} state={states?.find(({ id }) => id === each.id)} />
        ))}
      </ul>
      <AddStop />
    </div>
  );
}

function change(id: number, patch: Partial<BreakSpec>): void {
  setStops(useRun.getState().stops.map((each) => (each.id === id ? { ...each, ...patch } : each)));
}

/** Line breakpoints live in the editor, where they move with the text. */
function remove({ id, kind, line }: BreakSpec, editor: EditorHandle): void {
  if (kind === 'line') editor.toggleBreakpoint(line!);
  else setStops(useRun.getState().stops.filter((each) => each.id !== id));
}

const nameOf = ({ kind, line, text }: BreakSpec): string => `${KINDS.find((each) => each.kind === kind)!.says} ${line ?? text}`.trim();

function Stop({ stop, state }: { stop: BreakSpec; state: BreakState | undefined }) {
  const name = nameOf(stop);
  const editor = useEditor();
  return (
    <li className={stop.enabled ? '' : 'off'} data-stop={name}>
      <label>
        <input type="checkbox" checked={stop.enabled} onChange={(event) => change(stop.id, { enabled: event.target.checked })} />
        <span>{name}</span>
      </label>
      <span className="hits" title="how often it was hit">
        {state?.hits ?? 0} {state?.hits === 1 ? 'hit' : 'hits'}
      </span>
      <label title="It is passed this many times before it stops the run">
        pass{' '}
        <input
          className="short"
          type="number"
          min={0}
          max={1_000_000}
          value={stop.ignore}
          aria-label={`How often “${name}” is passed before it stops`}
          onChange={(event) => change(stop.id, { ignore: Math.max(0, Math.floor(Number(event.target.value) || 0)) })}
        />
      </label>
      <label title="Writes this value into the wake and goes on, instead of stopping">
        print{' '}
        <input
          className="value"
          value={stop.print}
          placeholder="stops"
          maxLength={200}
          aria-label={`What “${name}” prints instead of stopping`}
          onChange={(event) => change(stop.id, { print: event.target.value })}
        />
      </label>
      <button type="button" className="plain" onClick={() => remove(stop, editor)} aria-label={`Remove the breakpoint ${name}`}>
        ×
      </button>
      {state?.refused && <p className="refused">{state.refused}</p>}
    </li>
  );
}

function AddStop() {
  const [kind, setKind] = useState<BreakSpec['kind']>('change');
  const [text, setText] = useState('');
  const editor = useEditor();
  const { asks } = KINDS.find((each) => each.kind === kind)!;
  const add = (event: FormEvent): void => {
    event.preventDefault();
    const { stops } = useRun.getState();
    const line = Number(text);
    if (kind === 'line') {
      if (stops.some((each) => each.line === line) || !editor.toggleBreakpoint(line)) return;
    } else setStops([...stops, { id: nextId(stops), kind, text: asks ? text.trim() : '', enabled: true, ignore: 0, print: '' }]);
    setText('');
  };
  return (
    <form className="choices" onSubmit={add}>
      <select
        aria-label="Kind of breakpoint"
        value={kind}
        onChange={(event) => setKind(event.target.value as BreakSpec['kind'])}
        data-testid="stop-kind"
      >
        {KINDS.map((each) => (
          <option key={each.kind} value={each.kind}>
            {each.says}
          </option>
        ))}
      </select>
      {asks && (
        <input
          value={text}
          placeholder={asks}
          maxLength={200}
          aria-label="What it watches"
          onChange={(event) => setText(event.target.value)}
          data-testid="stop-text"
        />
      )}
      <button type="submit" className="plain" disabled={asks !== undefined && text.trim() === ''} data-testid="stop-add">
        Add
      </button>
    </form>
  );
}

function Budget() {
  const budget = useRun((state) => state.budget);
  const wrong = budget.trim() !== '' && ticksIn(budget) === undefined;
  return (
    <p className="choices">
      <label>
        at most{' '}
        <input
          value={budget}
          inputMode="numeric"
          placeholder="no limit"
          maxLength={20}
          aria-invalid={wrong}
          onChange={(event) => setBudget(event.target.value)}
          data-testid="budget"
        />{' '}
        ticks a run
      </label>
      <span className={wrong ? 'refused' : 'hint'}>{wrong ? 'Write a number of ticks, from 1.' : 'Run again to go on.'}</span>
    </p>
  );
}

function RunTo() {
  const loaded = useRun((state) => state.view !== undefined);
  const line = useLooks((state) => state.cursorLine);
  const [text, setText] = useState('');
  const [refused, setRefused] = useState<string>();
  const go = async (wanted: { line: number } | { condition: string }): Promise<void> =>
    setRefused((await engine.run.runUntil(wanted))?.refused);
  return (
    <>
      <h3>Run</h3>
      <p className="choices">
        <button type="button" className="plain" disabled={!loaded} onClick={() => command('output')} data-testid="run-output">
          to the next output
        </button>
        <button type="button" className="plain" disabled={!loaded} onClick={() => void go({ line })} data-testid="run-line">
          to the cursor, line {line}
        </button>
      </p>
      <form
        className="choices"
        onSubmit={(event) => {
          event.preventDefault();
          void go({ condition: text });
        }}
      >
        <label>
          until{' '}
          <input
            value={text}
            placeholder="ACC = 0"
            maxLength={200}
            aria-invalid={refused !== undefined}
            onChange={(event) => {
              setText(event.target.value);
              setRefused(undefined);
            }}
            data-testid="until"
          />
        </label>
        <button type="submit" className="plain" disabled={!loaded || text.trim() === ''}>
          holds
        </button>
      </form>
      {refused && (
        <p className="refused" role="alert" data-testid="until-refused">
          {refused}
        </p>
      )}
      <Budget />
    </>
  );
}
