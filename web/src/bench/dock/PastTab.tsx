/** Questions to the run so far, each answered by going there. */
import { useState } from 'react';
import { engine } from '../../session/engine';
import type { Answer as Found, Question } from '@zettak/core/session/protocol';
import { command, travel, useRun } from '../run';
import { usePlaceExamples } from '../placeExamples';
import { Button } from '../../ui/Button';
import { Entry, Label } from '../../ui/Field';
import { Answer, Controls, Heading, Hint } from '../../ui/Panel';

export function PastTab() {
  const ticks = useRun((state) => state.marked?.ticks);
  const furthest = useRun((state) => state.marked?.furthest ?? 0);
  const { places, condition: held } = usePlaceExamples();
  const [answer, setAnswer] = useState<Found>();
  const [place, setPlace] = useState('');
  const [condition, setCondition] = useState('');
  const [tick, setTick] = useState('');
  if (ticks === undefined) return <Hint as="p">Load a program first.</Hint>;
  const ask = async (question: Question): Promise<void> => setAnswer(await engine.past.ask(question));
  const wanted = Number(tick);
  const told = answer && ('sentence' in answer ? answer.sentence : 'none' in answer ? answer.none : answer.refused);
  return (
    <div data-testid="past">
      <Heading>Back</Heading>
      <Controls>
        <Button onClick={() => command('overBack')} data-testid="over-back">
          ◂ over <kbd>⇧←</kbd>
        </Button>
        <Button onClick={() => command('outBack')} data-testid="out-back">
          ◂ out <kbd>⇧↓</kbd>
        </Button>
      </Controls>
      <Controls
        as="form"
        onSubmit={(event) => {
          event.preventDefault();
          if (tick.trim() !== '' && Number.isInteger(wanted)) travel(wanted);
        }}
      >
        <Label>
          to tick{' '}
          <Entry room="word" inputMode="numeric" value={tick} onChange={(event) => setTick(event.target.value)} data-testid="to-tick" />
        </Label>
        <Button type="submit">Go</Button>
        <Hint>
          now {ticks.toLocaleString('en-US')}, the run has come to {furthest.toLocaleString('en-US')}
        </Hint>
      </Controls>
      <Heading>When was it last written?</Heading>
      <Controls
        as="form"
        onSubmit={(event) => {
          event.preventDefault();
          void ask({ kind: 'written', place });
        }}
      >
        <Entry
          value={place}
          placeholder={places}
          maxLength={100}
          aria-label="Place"
          onChange={(event) => setPlace(event.target.value)}
          data-testid="ask-place"
        />
        <Button type="submit" disabled={place.trim() === ''}>
          Go there
        </Button>
      </Controls>
      <Heading>When did it hold?</Heading>
      <Controls
        as="form"
        onSubmit={(event) => {
          event.preventDefault();
          void ask({ kind: 'first', condition });
        }}
      >
        <Entry
          value={condition}
          placeholder={held}
          maxLength={200}
          aria-label="Condition"
          onChange={(event) => setCondition(event.target.value)}
          data-testid="ask-condition"
        />
        {(['first', 'previous', 'next'] as const).map((kind) => (
          <Button
            key={kind}
            type={kind === 'first' ? 'submit' : 'button'}
            disabled={condition.trim() === ''}
            onClick={() => kind !== 'first' && void ask({ kind, condition })}
            data-testid={`ask-${kind}`}
          >
            {kind}
          </Button>
        ))}
      </Controls>
      <Answer role="status" color={answer && 'refused' in answer ? 'problem' : undefined} data-testid="answer">
        {told}
      </Answer>
    </div>
  );
}
