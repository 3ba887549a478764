/** What the program writes, and the queue of what it will read; loud when the program waits. */
import { useEffect, useRef, useState } from 'react';
import { engine } from '../session/engine';
import { afterPaint } from '../ui/follow';
import { Lines } from './Lines';
import type { Entry } from '@zettak/core/session/protocol';
import { useDocument } from './document';
import { useRun } from './run';

const SHOWN = 5000;
/** After this many ms without a wait the keys belong to the bench again. */
const BACK_TO_BENCH = 500;

export function Console() {
  const output = useRun((state) => state.view?.output ?? '');
  const inputs = useRun((state) => state.view?.inputs);
  const used = useRun((state) => state.view?.inputsUsed ?? 0);
  const waiting = useRun((state) => state.view?.waiting);
  const loaded = useRun((state) => state.view !== undefined);
  const bottom = useRef<HTMLPreElement>(null);
  useEffect(() => {
    afterPaint(() => bottom.current?.scrollTo(0, bottom.current.scrollHeight));
  }, [output]);
  return (
    <section className={waiting ? 'panel console waiting' : 'panel console'} aria-label="Console">
      <header>
        <h2>Console</h2>
        <span className="hint" data-testid="waiting" role="status">
          {waiting ? (
            <>
              <b>{waiting.who}</b> {waiting.what}
            </>
          ) : (
            'waits for nothing'
          )}
        </span>
      </header>
      <pre ref={bottom} data-testid="output" tabIndex={0} aria-label="Output">
        {output.length > SHOWN ? `… ${output.slice(-SHOWN)}` : output}
      </pre>
      <Switches />
      <div className="queue" data-testid="queue">
        <span>Input queue</span>
        <ol>
          {(inputs ?? []).map((value, at) => (
            <li key={at} className={at < used ? 'used' : ''}>
              {value}
              {at >= used && (
                <button type="button" aria-label={`Take ${value} out of the queue`} onClick={() => void engine.hand.removeInput(at)}>
                  ×
                </button>
              )}
            </li>
          ))}
        </ol>
        <EntryField waiting={waiting !== undefined} disabled={!loaded} />
      </div>
    </section>
  );
}

/** Switches that a hand can set. */
function Switches() {
  const devices = useRun((state) => state.view?.devices);
  return (devices ?? []).map((each) => <Lines key={each.name} device={each} />);
}

/** How an entry was read: one number in both bases, or how many characters. */
function readingText(values: readonly number[], radix: number): string {
  const [value, more] = values;
  if (more !== undefined) return `${values.length} characters`;
  return radix === 10 ? String(value) : `${value} = 0x${value!.toString(16).toUpperCase().padStart(2, '0')}`;
}

function EntryField({ waiting, disabled }: { waiting: boolean; disabled: boolean }) {
  const [text, setText] = useState('');
  const [reading, setReading] = useState<Entry>();
  const field = useRef<HTMLInputElement>(null);
  const back = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => {
    if (!waiting) return undefined;
    const input = field.current;
    clearTimeout(back.current);
    input?.focus();
    // A run that soon waits again keeps the focus here, so that no key falls between two numbers.
    return () => {
      back.current = setTimeout(() => document.activeElement === input && input?.blur(), BACK_TO_BENCH);
    };
  }, [waiting]);
  useEffect(() => {
    let live = true;
    if (text.trim() === '') setReading(undefined);
    else void engine.hand.readInput(text).then((each) => live && setReading(each));
    return () => {
      live = false;
    };
  }, [text]);
  const take = async (): Promise<void> => {
    const entry = await engine.hand.queueInput(text);
    if ('values' in entry) setText('');
    else setReading(entry);
  };
  const radix = useDocument((state) => state.machine?.radix ?? 2);
  const refused = reading && 'refused' in reading ? reading.refused : undefined;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void take();
      }}
    >
      <input
        ref={field}
        value={text}
        disabled={disabled}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && field.current?.blur()}
        placeholder={waiting ? 'type here, then Enter' : 'add a value'}
        aria-label="Value for the input queue: a number, decimal unless it starts with 0x or 0b, or a text in quotes"
        aria-invalid={refused !== undefined}
        data-testid="entry"
        maxLength={40}
      />
      <output data-testid="reading" className={refused ? 'refused' : ''}>
        {refused ?? (reading && 'values' in reading ? readingText(reading.values, radix) : '')}
      </output>
    </form>
  );
}
