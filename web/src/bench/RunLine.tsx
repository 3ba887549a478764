/** Where the run is in calls, why it stands still, and what was remarked. */
import { chakra } from '@chakra-ui/react';
import { Button } from '../ui/Button';
import { chooseRunTool, setControlling, useLooks } from './looks';
import { command, useRun } from './run';

const Line = chakra('div', {
  base: {
    gridColumn: '1 / -1',
    display: 'flex',
    alignItems: 'center',
    gap: '12px',
    px: '12px',
    borderBottom: '1px solid',
    borderColor: 'line',
    bg: 'sea',
    fontSize: '13px',
    minWidth: '0',
    '& .crumbs': { fontFamily: 'mono', flexShrink: '0', maxWidth: '34%', truncate: true },
    '& .told': { flex: '1', minWidth: '0', fontWeight: '600', fontSize: '14px', truncate: true },
    '& button': { px: '8px', py: '0' },
  },
});

export function RunLine() {
  const calls = useRun((state) => state.view?.calls);
  const broken = useRun((state) => state.view?.callsBroken);
  const status = useRun((state) => state.view?.status);
  const sentence = useRun((state) => state.view?.sentence);
  const unfinished = useRun((state) => state.view?.unfinished);
  const remarks = useRun((state) => state.view?.remarks.length ?? 0);
  const controlling = useLooks((state) => state.controlling);
  const tells = status !== undefined && !['empty', 'ready', 'paused', 'running'].includes(status);
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
      <span className="told" role="status" title={tells ? sentence : undefined} data-testid="stop-sentence">
        {tells ? sentence : ''}
      </span>
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
      <Button data-bench onClick={() => setControlling(!controlling)} aria-pressed={controlling} data-testid="run-tools">
        {controlling ? 'Ticks' : 'Run tools'} <kbd>r</kbd>
      </Button>
    </Line>
  );
}

function showRemarks(): void {
  chooseRunTool('calls');
  setControlling(true);
}
