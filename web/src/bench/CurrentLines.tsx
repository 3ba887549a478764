/** The lines around the one that is executing, of the text that the machine holds. */
import { chakra } from '@chakra-ui/react';
import { useRun } from './run';

const Lines = chakra('ol', {
  base: {
    listStyle: 'none',
    fontFamily: 'mono',
    fontSize: '14px',
    lineHeight: '21px',
    py: '4px',
    flexShrink: '0',
    '& li': { display: 'flex', gap: '8px', px: '8px', whiteSpace: 'pre', overflow: 'hidden' },
    '& .number': { color: 'ink3', minWidth: '2ch', textAlign: 'right' },
    '& .executing': { bg: 'nowPale', boxShadow: 'inset 4px 0 0 var(--z-colors-now)', fontWeight: '700' },
    '& .next': { boxShadow: 'inset 0 0 0 2px var(--z-colors-ink)' },
    '& em': { fontFamily: 'body', fontStyle: 'normal', fontSize: '13px', marginInlineStart: 'auto', color: 'ink2', flexShrink: '0' },
    '& li > span:nth-of-type(2)': { overflow: 'hidden', textOverflow: 'ellipsis' },
  },
});

/** Lines before and behind it. */
const AROUND = 2;

export function CurrentLines() {
  const loaded = useRun((state) => state.view?.loaded ?? '');
  const executing = useRun((state) => state.view?.executing?.line);
  const next = useRun((state) => (state.view?.status === 'halted' ? undefined : state.view?.next.line));
  const lines = loaded.split('\n');
  const middle = executing ?? next ?? 1;
  const first = Math.max(1, Math.min(middle - AROUND, lines.length - 2 * AROUND));
  return (
    <Lines aria-label="Current lines" data-testid="current-lines">
      {lines.slice(first - 1, first + 2 * AROUND).map((text, at) => {
        const line = first + at;
        const marks = [line === executing ? 'executing' : '', line === next ? 'next' : ''].filter((each) => each !== '');
        return (
          <li key={line} className={marks.join(' ') || undefined} aria-current={line === executing ? 'step' : undefined}>
            <span className="number">{line}</span>
            <span>{text.replace(/\s*;.*$/, '')}</span>
            {marks.length > 0 && <em>{marks.map((each) => (each === 'next' ? 'PC: next' : each)).join(', ')}</em>}
          </li>
        );
      })}
    </Lines>
  );
}
