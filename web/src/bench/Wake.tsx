/** The wake: the run so far, instruction by instruction and tick by tick. A click travels there. */
import { Fragment, useEffect, useRef } from 'react';
import { followAcross } from '../ui/follow';
import { isRunning, type WakeEntry } from '@zettak/core/session/protocol';
import { useDocument } from './document';
import { chooseRunTool, setControlling, useLooks } from './looks';
import { command, travel, routineOf, useRun } from './run';

export function Wake() {
  const wake = useRun((state) => state.view?.wake);
  const ticks = useRun((state) => state.view?.ticks ?? 0);
  const instructions = useRun((state) => state.view?.instructions ?? 0);
  const upcoming = useRun((state) => state.view?.upcoming);
  const running = useRun((state) => isRunning(state.view?.status));
  const since = useRun((state) => state.view?.thisTime);
  const phases = useDocument((state) => state.machine?.phases);
  const routines = useRun((state) => state.routines);
  const present = useRef<HTMLSpanElement>(null);
  const strip = useRef<HTMLDivElement>(null);
  useEffect(() => followAcross(strip.current, () => present.current), [ticks, wake]);
  const before = wake?.[0] ? wake[0].from : 0;
  return (
    <section className="wake" aria-label="The run so far" data-testid="wake">
      <RunLine />
      <div className="count">
        <b>{instructions.toLocaleString('en-US')}</b> {instructions === 1 ? 'instruction' : 'instructions'}
        <br />
        <b data-testid="ticks">{ticks.toLocaleString('en-US')}</b> {ticks === 1 ? 'tick' : 'ticks'}
        {since && since.ticks > 0 && (
          <span className="since" data-testid="this-time" title="this time, since the last command: instructions, ticks">
            +{since.instructions.toLocaleString('en-US')}, +{since.ticks.toLocaleString('en-US')}
          </span>
        )}
      </div>
      <div className="strip" tabIndex={-1} ref={strip}>
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
        {wake?.map((each, at) => {
          const routine = routineOf(routines, each.address);
          const enters = routine !== (at === 0 ? undefined : routineOf(routines, wake[at - 1]!.address));
          return (
            <Fragment key={each.from}>
              {enters && <span className="border">{routine ?? 'main'}</span>}
              <Instruction entry={each} ticks={ticks} phases={phases ?? []} mark={present} />
            </Fragment>
          );
        })}
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

/** Where the run is in calls, why it stands still, and what was remarked. */
function RunLine() {
  const calls = useRun((state) => state.view?.calls);
  const broken = useRun((state) => state.view?.callsBroken);
  const status = useRun((state) => state.view?.status);
  const sentence = useRun((state) => state.view?.sentence);
  const unfinished = useRun((state) => state.view?.unfinished);
  const remarks = useRun((state) => state.view?.remarks.length ?? 0);
  const controlling = useLooks((state) => state.controlling);
  if (!calls) return null;
  const tells = status !== undefined && status !== 'ready' && status !== 'paused' && status !== 'running';
  return (
    <div className="run-line">
      <span className="crumbs" data-testid="crumbs">
        main
        {calls.map((each) => (
          <span key={`${each.tick} ${each.name}`} title={each.from && `called on ${each.from}`}>
            {' › '}
            <b>{each.name}</b>
          </span>
        ))}
        {broken && ' ?'}
      </span>
      <span className="told" role="status" title={tells ? sentence : undefined} data-testid="stop-sentence">
        {tells ? sentence : ''}
      </span>
      {unfinished && (
        <button type="button" className="plain" data-bench onClick={() => command('finish')} data-testid="finish">
          Finish the step {unfinished}
        </button>
      )}
      {remarks > 0 && (
        <button type="button" className="plain remarked" data-bench onClick={showRemarks} data-testid="remarks-count">
          {remarks} {remarks === 1 ? 'remark' : 'remarks'}
        </button>
      )}
      <button
        type="button"
        className="plain"
        data-bench
        onClick={() => setControlling(!controlling)}
        aria-pressed={controlling}
        data-testid="run-tools"
      >
        {controlling ? 'Ticks' : 'Run tools'} <kbd>r</kbd>
      </button>
    </div>
  );
}

function showRemarks(): void {
  chooseRunTool('calls');
  setControlling(true);
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
        {entry.printed.map((each, at) => (
          <span key={at} className="printed">
            {each}
          </span>
        ))}
        <span className="counts">{counts.map((each) => `${each.name} ${each.count}`).join(', ')}</span>
      </div>
      {present && <span className="here" ref={mark} />}
    </>
  );
}
