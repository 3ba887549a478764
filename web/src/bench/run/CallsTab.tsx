import { travel, useRun } from '../run';
/** The calls that have not returned, and what the run did that is seldom meant. */

export function CallsTab() {
  const calls = useRun((state) => state.view?.calls);
  const broken = useRun((state) => state.view?.callsBroken);
  const longRuns = useRun((state) => state.view?.longRuns);
  const remarks = useRun((state) => state.view?.remarks);
  if (!calls || !remarks) return <p className="hint pad">Load a program first.</p>;
  return (
    <div className="calls-tool" data-long-runs={longRuns}>
      <h3>Open calls</h3>
      {calls.length === 0 && <p className="hint">None: the run is in the main program.</p>}
      <ol className="calls" data-testid="calls">
        {calls.toReversed().map((each) => (
          <li key={`${each.tick} ${each.name}`}>
            <b>{each.name}</b>
            {each.from && (
              <>
                {' '}
                {each.kind === 'trap' ? 'requested' : 'called'} on {each.from}
              </>
            )}
            {each.tick > 0 && (
              <button type="button" className="plain" onClick={() => travel(each.tick)} title="Back to the tick of this call">
                tick {each.tick.toLocaleString('en-US')}
              </button>
            )}
          </li>
        ))}
      </ol>
      {broken && <p className="refused">A return has gone to where no call came from, so these calls may not be what they seem.</p>}
      <h3>Remarks on this run</h3>
      {longRuns === 'tick' && (
        <p className="hint">WebAssembly is not allowed here, or cannot carry this machine: long runs are done tick by tick, more slowly.</p>
      )}
      {remarks.length === 0 && <p className="hint">None so far.</p>}
      <ul className="remarks" data-testid="run-remarks">
        {remarks.map((each) => (
          <li key={`${each.tick} ${each.sentence}`}>
            <button type="button" className="plain" onClick={() => travel(each.tick)} title="To the tick that did it">
              tick {each.tick.toLocaleString('en-US')}
            </button>{' '}
            {each.sentence}
          </li>
        ))}
      </ul>
    </div>
  );
}
