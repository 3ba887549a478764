/** Questions to the run so far, each answered by going there. */
import { useState } from 'react';
import { engine } from '../../session/engine';
import type { Answer, Question } from '@zettak/core/session/protocol';
import { command, travel, useRun } from '../run';

export function PastTab() {
  const ticks = useRun((state) => state.view?.ticks);
  const furthest = useRun((state) => state.view?.furthest ?? 0);
  const [answer, setAnswer] = useState<Answer>();
  const [place, setPlace] = useState('');
  const [condition, setCondition] = useState('');
  const [tick, setTick] = useState('');
  if (ticks === undefined) return <p className="hint pad">Load a program first.</p>;
  const ask = async (question: Question): Promise<void> => setAnswer(await engine.past.ask(question));
  const wanted = Number(tick);
  const told = answer && ('sentence' in answer ? answer.sentence : 'none' in answer ? answer.none : answer.refused);
  return (
    <div className="past-tool" data-testid="past">
      <h3>Back</h3>
      <p className="choices">
        <button type="button" className="plain" onClick={() => command('overBack')} data-testid="over-back">
          ◂ over <kbd>⇧←</kbd>
        </button>
        <button type="button" className="plain" onClick={() => command('outBack')} data-testid="out-back">
          ◂ out <kbd>⇧↓</kbd>
        </button>
      </p>
      <form
        className="choices"
        onSubmit={(event) => {
          event.preventDefault();
          if (tick.trim() !== '' && Number.isInteger(wanted)) travel(wanted);
        }}
      >
        <label>
          to tick{' '}
          <input
            className="short"
            inputMode="numeric"
            value={tick}
            onChange={(event) => setTick(event.target.value)}
            data-testid="to-tick"
          />
        </label>
        <button type="submit" className="plain">
          Go
        </button>
        <span className="hint">
          now {ticks.toLocaleString('en-US')}, the run has come to {furthest.toLocaleString('en-US')}
        </span>
      </form>
      <h3>When was it last written?</h3>
      <form
        className="choices"
        onSubmit={(event) => {
          event.preventDefault();
          void ask({ kind: 'written', place });
        }}
      >
        <input
          value={place}
          placeholder="level, M[0x20], ACC, C"
          maxLength={100}
          aria-label="Place"
          onChange={(event) => setPlace(event.target.value)}
          data-testid="ask-place"
        />
        <button type="submit" className="plain" disabled={place.trim() === ''}>
          Go there
        </button>
      </form>
      <h3>When did it hold?</h3>
      <form
        className="choices"
        onSubmit={(event) => {
          event.preventDefault();
          void ask({ kind: 'first', condition });
        }}
      >
        <input
          value={condition}
          placeholder="ACC = 0"
          maxLength={200}
          aria-label="Condition"
          onChange={(event) => setCondition(event.target.value)}
          data-testid="ask-condition"
        />
        {(['first', 'previous', 'next'] as const).map((kind) => (
          <button
            key={kind}
            type={kind === 'first' ? 'submit' : 'button'}
            className="plain"
            disabled={condition.trim() === ''}
            onClick={() => kind !== 'first' && void ask({ kind, condition })}
            data-testid={`ask-${kind}`}
          >
            {kind}
          </button>
        ))}
      </form>
      <p role="status" className={answer && 'refused' in answer ? 'refused' : 'answer'} data-testid="answer">
        {told}
      </p>
    </div>
  );
}
