/** What came of a set, with sign and words. */
import { Check, CircleAlert, Dot, X } from 'lucide-react';
import type { TrialRow } from '@zettak/core/trials/judge/row';
import type { SetProblem } from '@zettak/core/trials/sets/read';

interface VerdictProps {
  readonly row: TrialRow | undefined;
  /** Of another text, or of the set as it was. */
  readonly stale: boolean;
  readonly problems: readonly SetProblem[];
}

export function Verdict({ row, stale, problems }: VerdictProps) {
  const remark = row?.remarks[0];
  return (
    <>
      <Word row={row} stale={stale} problems={problems} />
      {row && remark !== undefined && (
        <span className="remark" title={row.remarks.join('\n')}>
          ! {row.remarks.length === 1 ? 'one remark' : `${row.remarks.length} remarks`}
        </span>
      )}
    </>
  );
}

function Word({ row, stale, problems }: VerdictProps) {
  const was = stale ? 'was: ' : '';
  if (problems.length > 0)
    return (
      <span className="word problem" title={problems[0]?.sentence}>
        <CircleAlert size={14} aria-hidden /> cannot be read
      </span>
    );
  if (!row) return <span className="word quiet">not run</span>;
  switch (row.verdict) {
    case 'holds':
      return (
        <span className="word ok">
          <Check size={14} aria-hidden /> {was}holds
        </span>
      );
    case 'ran':
      return (
        <span className="word quiet">
          <Dot size={14} aria-hidden /> {was}ran, nothing expected
        </span>
      );
    case 'differs':
      return (
        <span className="word problem" title={row.shouldHalt ? row.ending : undefined}>
          <X size={14} aria-hidden /> {was}
          {row.shouldHalt ? ENDED[row.end ?? 'halted'] : `${row.differs} ${row.differs === 1 ? 'differs' : 'differ'}`}
        </span>
      );
    case 'unread':
      return <span className="word problem">{was}could not be read</span>;
    default:
      return row.verdict satisfies never;
  }
}

const ENDED: Readonly<Record<NonNullable<TrialRow['end']>, string>> = {
  halted: 'halted',
  waiting: 'waits for input',
  fault: 'fault',
  'never halts': 'never halts',
  'out of ticks': 'out of ticks',
};
