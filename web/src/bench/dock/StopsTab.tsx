/** Breakpoints and print-points, each on its own; and running to a place instead of to a breakpoint. */
import { useState, type FormEvent } from 'react';
import { engine } from '../../session/engine';
import { useEditor, type EditorHandle } from '../../editor/handle';
import type { BreakSpec, BreakState } from '@zettak/core/session/protocol';
import { nextId } from '../breakpoints';
import { useLooks } from '../looks';
import { usePlaceExamples, type PlaceExamples } from '../placeExamples';
import { command, setBreakpoints, ticksIn, setBudget, useRun } from '../run';
import { Button } from '../../ui/Button';
import { Entry, Label } from '../../ui/Field';
import { Beside, Controls, Heading, Hint, Item, List, Refusal } from '../../ui/Panel';
import { Choice } from '../../ui/Choice';
import { Check } from '../../ui/Check';

const KINDS: readonly {
  readonly kind: BreakSpec['kind'];
  readonly says: string;
  readonly asks?: keyof PlaceExamples | 'line' | 'address';
}[] = [
  { kind: 'change', says: 'after a change of', asks: 'places' },
  { kind: 'write', says: 'after a write to', asks: 'places' },
  { kind: 'read', says: 'after a read of the cell', asks: 'cells' },
  { kind: 'condition', says: 'when this begins to hold', asks: 'condition' },
  { kind: 'output', says: 'after output' },
  { kind: 'line', says: 'before the line', asks: 'line' },
  { kind: 'address', says: 'before the address', asks: 'address' },
];

/** Breakpoints on lines are the editor's as well, where they move with the text. */
export function StopsTab() {
  const stops = useRun((state) => state.breakpoints);
  const states = useRun((state) => state.view?.breaks);
  return (
    <Beside data-testid="stops">
      <div>
        <Heading>Breakpoints</Heading>
        {stops.length === 0 && <Hint as="p">None yet. Press b for one where PC points, click a line number, or add one below.</Hint>}
        <List>
          {stops.map((each) => (
            <Stop key={each.id} stop={each} state={states?.find(({ id }) => id === each.id)} />
          ))}
        </List>
        <AddStop />
      </div>
      <RunTo />
    </Beside>
  );
}

function change(id: number, patch: Partial<BreakSpec>): void {
  setBreakpoints(useRun.getState().breakpoints.map((each) => (each.id === id ? { ...each, ...patch } : each)));
}

/** Line breakpoints live in the editor, where they move with the text. */
function remove({ id, kind, line }: BreakSpec, editor: EditorHandle): void {
  if (kind === 'line') editor.toggleBreakpoint(line!);
  else setBreakpoints(useRun.getState().breakpoints.filter((each) => each.id !== id));
}

const nameOf = ({ kind, line, text }: BreakSpec): string => `${KINDS.find((each) => each.kind === kind)!.says} ${line ?? text}`.trim();

function Stop({ stop, state }: { stop: BreakSpec; state: BreakState | undefined }) {
  const name = nameOf(stop);
  const editor = useEditor();
  return (
    <Item lined data-stop={name}>
      <Check
        flex="1 1 190px"
        fontWeight="650"
        color={stop.enabled ? undefined : 'ink3'}
        on={stop.enabled}
        change={(enabled) => change(stop.id, { enabled })}
      >
        {name}
      </Check>
      <Hint className="hits" minWidth="48px" textAlign="right" title="how often it was hit">
        {state?.hits ?? 0} {state?.hits === 1 ? 'hit' : 'hits'}
      </Hint>
      <Label title="It is passed this many times before it stops the run">
        pass{' '}
        <Entry
          room="count"
          type="number"
          min={0}
          max={1_000_000}
          value={stop.ignore}
          aria-label={`How often “${name}” is passed before it stops`}
          onChange={(event) => change(stop.id, { ignore: Math.max(0, Math.floor(Number(event.target.value) || 0)) })}
        />
      </Label>
      <Label title="Writes this value into the wake and goes on, instead of stopping">
        print{' '}
        <Entry
          room="value"
          className="value"
          value={stop.print}
          placeholder="stops"
          maxLength={200}
          aria-label={`What “${name}” prints instead of stopping`}
          onChange={(event) => change(stop.id, { print: event.target.value })}
        />
      </Label>
      <Button onClick={() => remove(stop, editor)} aria-label={`Remove the breakpoint ${name}`}>
        ×
      </Button>
      {state?.refused && <Refusal>{state.refused}</Refusal>}
    </Item>
  );
}

function AddStop() {
  const [kind, setKind] = useState<BreakSpec['kind']>('change');
  const [text, setText] = useState('');
  const editor = useEditor();
  const examples = { ...usePlaceExamples(), line: '7', address: '0x10, next' };
  const { asks } = KINDS.find((each) => each.kind === kind)!;
  const add = (event: FormEvent): void => {
    event.preventDefault();
    const { breakpoints: stops } = useRun.getState();
    const line = Number(text);
    if (kind === 'line') {
      if (stops.some((each) => each.line === line) || !editor.toggleBreakpoint(line)) return;
    } else setBreakpoints([...stops, { id: nextId(stops), kind, text: asks ? text.trim() : '', enabled: true, ignore: 0, print: '' }]);
    setText('');
  };
  return (
    <Controls as="form" onSubmit={add}>
      <Choice
        label="Kind of breakpoint"
        testId="stop-kind"
        value={kind}
        choose={(value) => setKind(value as BreakSpec['kind'])}
        options={KINDS.map((each) => ({ value: each.kind, says: each.says }))}
      />
      {asks && (
        <Entry
          value={text}
          placeholder={examples[asks]}
          maxLength={200}
          aria-label="What it watches"
          onChange={(event) => setText(event.target.value)}
          data-testid="stop-text"
        />
      )}
      <Button type="submit" disabled={asks !== undefined && text.trim() === ''} data-testid="stop-add">
        Add
      </Button>
    </Controls>
  );
}

function Budget() {
  const budget = useRun((state) => state.budget);
  const wrong = budget.trim() !== '' && ticksIn(budget) === undefined;
  return (
    <Controls>
      <Label>
        at most{' '}
        <Entry
          value={budget}
          inputMode="numeric"
          placeholder="no limit"
          maxLength={20}
          aria-invalid={wrong}
          onChange={(event) => setBudget(event.target.value)}
          data-testid="budget"
        />{' '}
        ticks a run
      </Label>
      <Hint color={wrong ? 'problem' : 'ink3'}>{wrong ? 'Write a number of ticks, from 1.' : 'Run again to go on.'}</Hint>
    </Controls>
  );
}

function RunTo() {
  const { condition } = usePlaceExamples();
  const loaded = useRun((state) => state.view !== undefined);
  const line = useLooks((state) => state.cursorLine);
  const [text, setText] = useState('');
  const [refused, setRefused] = useState<string>();
  const go = async (wanted: { line: number } | { condition: string }): Promise<void> =>
    setRefused((await engine.run.runUntil(wanted))?.refused);
  return (
    <div>
      <Heading>Run</Heading>
      <Controls>
        <Button disabled={!loaded} onClick={() => command('output')} data-testid="run-output">
          to the next output
        </Button>
        <Button disabled={!loaded} onClick={() => void go({ line })} data-testid="run-line">
          to the cursor, line {line}
        </Button>
      </Controls>
      <Controls
        as="form"
        onSubmit={(event) => {
          event.preventDefault();
          void go({ condition: text });
        }}
      >
        <Label>
          until{' '}
          <Entry
            value={text}
            placeholder={condition}
            maxLength={200}
            aria-invalid={refused !== undefined}
            onChange={(event) => {
              setText(event.target.value);
              setRefused(undefined);
            }}
            data-testid="until"
          />
        </Label>
        <Button type="submit" disabled={!loaded || text.trim() === ''}>
          holds
        </Button>
      </Controls>
      {refused && (
        <Refusal role="alert" data-testid="until-refused">
          {refused}
        </Refusal>
      )}
      <Budget />
    </div>
  );
}
