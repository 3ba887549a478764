/** The wake: the run so far, instruction by instruction and tick by tick. A click travels there. */
import { useEffect, useRef } from 'react';
import type { WakeEntry } from './protocol';
import { travel, useBench } from './store';

export function Wake() {
  const wake = useBench((state) => state.view?.wake);
  const ticks = useBench((state) => state.view?.ticks ?? 0);
  const instructions = useBench((state) => state.view?.instructions ?? 0);
  const upcoming = useBench((state) => state.view?.upcoming);
  const running = useBench((state) => state.view?.status === 'running');
  const phases = useBench((state) => state.machine?.phases);
  const present = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    void present.current?.scrollIntoView({ block: 'nearest', inline: 'center' });
  }, [ticks, wake]);
  const before = wake?.[0] ? wake[0].from : 0;
  return (
    <section className="wake" aria-label="The run so far" data-testid="wake">
      <div className="count">
        <b>{instructions.toLocaleString('en-US')}</b> {instructions === 1 ? 'instruction' : 'instructions'}
        <br />
        <b data-testid="ticks">{ticks.toLocaleString('en-US')}</b> {ticks === 1 ? 'tick' : 'ticks'}
      </div>
      <div className="strip" tabIndex={-1}>
        {!wake && <p className="hint">The run will be written here, tick by tick.</p>}
        {wake && wake.length === 0 && (
          <p className="hint">
            {running
              ? 'Running at full speed; the ticks are shown when it pauses.'
              : 'Nothing has run yet. Press . for one tick, → for one instruction, space to run.'}
          </p>
        )}
        {before > 0 && (
          <button type="button" className="earlier" data-bench onClick={() => travel(0)}>
            start
          </button>
        )}
        {wake?.map((each) => (
          <Instruction key={each.from} entry={each} ticks={ticks} phases={phases ?? []} mark={present} />
        ))}
        {wake && ticks === 0 && <span className="here" ref={present} />}
        {upcoming?.map((each, at) => (
          <div key={`${at}${each}`} className="upcoming">
            <b>{each}</b>
            <span />
          </div>
        ))}
      </div>
    </section>
  );
}

function Instruction({
  entry,
  ticks,
  phases,
  mark,
}: {
  entry: WakeEntry;
  ticks: number;
  phases: readonly string[];
  mark: React.RefObject<HTMLSpanElement | null>;
}) {
  const end = entry.ticks.at(-1)?.tick ?? entry.from;
  const ahead = entry.from >= ticks;
  const present = ticks > entry.from && ticks <= end;
  const counts = phases
    .map((name, phase) => ({ name: name.toLowerCase(), count: entry.ticks.filter((each) => each.phase === phase).length }))
    .filter((each) => each.count > 0);
  return (
    <>
      <div className={ahead ? 'instruction ahead' : 'instruction'} data-from={entry.from}>
        <button type="button" className="name" data-bench onClick={() => travel(end)} title={`To the end of ${entry.text}`}>
          {entry.text}
        </button>
        <div className="ticks">
          {entry.ticks.map((each) => (
            <button
              key={each.tick}
              type="button"
              data-bench
              data-tick={each.tick}
              className={`phase${each.phase % 3}${each.tick === ticks ? ' present' : ''}${each.tick > ticks ? ' ahead' : ''}`}
              onClick={() => travel(each.tick)}
              aria-label={`To tick ${each.tick}: ${each.text}`}
              title={`Tick ${each.tick}: ${each.text}`}
            />
          ))}
        </div>
        <span className="outcome">{entry.outcome || '\u00a0'}</span>
        <span className="counts">{counts.map((each) => `${each.name} ${each.count}`).join(', ')}</span>
      </div>
      {present && <span className="here" ref={mark} />}
    </>
  );
}
