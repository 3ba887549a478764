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
    '& li': { display: 'flex', gap: '6px', px: '4px', whiteSpace: 'pre', overflow: 'hidden' },
    '& .number': { color: 'ink3', minWidth: '2ch', textAlign: 'right' },
    '& .executing': { bg: 'nowPale', boxShadow: 'inset 4px 0 0 var(--z-colors-now)', fontWeight: '700' },
    '& .next': { boxShadow: 'inset 0 0 0 2px var(--z-colors-ink)' },
    '& .marks': { width: '66px', flexShrink: '0', textAlign: 'right' },
    '& em': {
      fontFamily: 'body',
      fontStyle: 'normal',
      fontWeight: '650',
      fontSize: '12px',
      borderRadius: '4px',
      px: '3px',
      bg: 'now',
      color: 'onTone',
    },
    '& em.pc': { bg: 'ink', color: 'paper' },
    '& .text': { overflow: 'hidden', textOverflow: 'ellipsis' },
  },
});

/** A remark is for whoever reads the whole; of wide gaps a narrow one is left. */
const unindented = (text: string): string =>
  text
    .replace(/\s*;.*$/, '')
    .replace(/(?<=\S) {2,}/g, '  ')
    .replace(/^ {2,}/, '  ');

/** Lines before and behind it. */
const AROUND = 2;

export function CurrentLines() {
  const loaded = useRun((state) => state.view?.loaded ?? '');
  const executing = useRun((state) => state.marked?.executing?.line);
  const next = useRun((state) => (state.marked?.status === 'halted' ? undefined : state.marked?.next.line));
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
            <span className="marks">
              {line === executing && <em title="executing">{marks.length > 1 ? 'now' : 'executing'}</em>}
              {line === next && (
                <em className="pc" title="PC: next">
                  {marks.length > 1 ? '› PC' : '› PC: next'}
                </em>
              )}
            </span>
            <span className="number">{line}</span>
            <span className="text">{unindented(text)}</span>
          </li>
        );
      })}
    </Lines>
  );
}
