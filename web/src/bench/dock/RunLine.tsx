/** Where the run is in calls, why it stands still, and what was remarked. */
import { chakra } from '@chakra-ui/react';
import { grouped } from '@zettak/core/text/number';
import { Button } from '../../ui/Button';
import { chooseDock } from '../looks';
import { command, useRun } from '../run';

const Line = chakra('div', {
  base: {
    flex: '1',
    display: 'flex',
    alignItems: 'center',
    gap: '12px',
    px: '12px',
    fontSize: '13px',
    minWidth: '0',
    '& .crumbs': { fontFamily: 'mono', flexShrink: '0', maxWidth: '34%', truncate: true },
    '& .count': { flexShrink: '0', color: 'ink2', fontVariantNumeric: 'tabular-nums' },
    '& .since': { ms: '6px', color: 'ink3' },
    '& .told': { flex: '1', minWidth: '0', fontWeight: '600', fontSize: '14px', truncate: true },
    '& .on-small': { hideFrom: 'xl' },
    '& button': { px: '8px', py: '0' },
  },
});

export function RunLine() {
  const calls = useRun((state) => state.told?.calls);
  const broken = useRun((state) => state.told?.callsBroken);
  const unfinished = useRun((state) => state.told?.unfinished);
  const remarks = useRun((state) => state.told?.remarks.length ?? 0);
  return (
    <Line>
      <span className="crumbs" data-testid="crumbs">
        main
        {calls?.map((each) => (
          <span key={`${each.tick} ${each.name}`} title={each.from && `called on ${each.from}`}>
            {' › '}
            <b>{each.name}</b>
          </span>
        ))}
        {broken && ' ?'}
      </span>
      <Count />
      <Told />
      {unfinished && (
        <Button data-bench onClick={() => command('finish')} data-testid="finish">
          Finish the step {unfinished}
        </Button>
      )}
      {remarks > 0 && (
        <Button data-bench onClick={showRemarks} data-testid="remarks-count">
          {remarks} {remarks === 1 ? 'remark' : 'remarks'}
        </Button>
      )}
    </Line>
  );
}

/** Why it stands still. */
function Told() {
  const status = useRun((state) => state.told?.status);
  const sentence = useRun((state) => state.told?.sentence);
  const tells = status !== undefined && !['empty', 'ready', 'paused', 'running'].includes(status);
  return (
    <span className="told" role="status" title={tells ? sentence : undefined} data-testid="stop-sentence">
      {tells ? sentence : ''}
      {/* On small screens the bar has no room for it. */}
      {!tells && (
        <span className="on-small" aria-hidden>
          {sentence}
        </span>
      )}
    </span>
  );
}

/** How far the run has come. */
function Count() {
  const ticks = useRun((state) => state.told?.ticks ?? 0);
  const instructions = useRun((state) => state.told?.instructions ?? 0);
  const since = useRun((state) => state.told?.thisTime);
  return (
    <span className="count">
      <b data-testid="ticks">{grouped(ticks)}</b> {ticks === 1 ? 'tick' : 'ticks'}, <b>{grouped(instructions)}</b>{' '}
      {instructions === 1 ? 'instruction' : 'instructions'}
      {since && since.ticks > 0 && (
        <span className="since" data-testid="this-time" title="this time, since the last command: instructions, ticks">
          +{grouped(since.instructions)}, +{grouped(since.ticks)}
        </span>
      )}
    </span>
  );
}

const showRemarks = (): void => chooseDock('calls');
