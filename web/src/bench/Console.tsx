/** What the program writes, and the queue of what it will read; loud when the program waits. */
import { Box, chakra } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import { WrapText } from 'lucide-react';
import { keep, kept } from '../app/preferences';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { withNextPaint } from '../ui/follow';
import { Hint, Panel, PanelHead, PanelTitle } from '../ui/Panel';
import { useHeading } from './document';
import { InputQueue } from './InputQueue';
import { Switches } from './Lines';
import { PanelNotes } from './PinnedNotes';
import { travel, useRun } from './run';
import { itemAt } from '@zettak/core/text/itemAt';

const ENDS = 'line-ends';
const SHOWN = 5000;
const Output = chakra('pre', {
  base: {
    flex: '1',
    minHeight: '0',
    overflow: 'auto',
    fontFamily: 'mono',
    fontSize: '15px',
    lineHeight: '20px',
    px: '12px',
    py: '4px',
    whiteSpace: 'pre-wrap',
    overflowWrap: 'anywhere',
  },
});

/** Keeps the last 5,000 characters of the output in sight. */
export function Console() {
  const heading = useHeading('console', 'Console');
  const output = useRun((state) => state.view?.output ?? '');
  const waiting = useRun((state) => state.view?.waiting);
  const bottom = useRef<HTMLPreElement>(null);
  const [ends, setEnds] = useState(() => kept(ENDS) === 'yes');
  useEffect(() => {
    withNextPaint(() => bottom.current?.scrollTo(0, bottom.current.scrollHeight));
  }, [output]);
  return (
    <Panel label={heading} height="100%" css={waiting && { boxShadow: 'inset 0 0 0 3px var(--z-colors-now)' }}>
      <PanelHead bg={waiting ? 'nowPale' : 'sea'}>
        {!waiting && <PanelTitle>{heading}</PanelTitle>}
        <Hint ms="auto" color={waiting ? 'now' : 'ink3'} fontWeight={waiting ? '600' : '400'} data-testid="waiting" role="status">
          {waiting ? (
            <>
              <b>{waiting.who}</b> {waiting.what}
            </>
          ) : (
            'waits for nothing'
          )}
        </Hint>
        <Button
          look="bare"
          data-bench
          aria-pressed={ends}
          aria-label="Show where lines end"
          tip="Show where lines end"
          onClick={() => {
            keep(ENDS, ends ? 'no' : 'yes');
            setEnds(!ends);
          }}
          data-testid="line-ends"
        >
          <WrapText size={14} aria-hidden />
        </Button>
      </PanelHead>
      <PanelNotes panel="console" />
      <Written ref={bottom} output={output} ends={ends} />
      <Switches />
      <InputQueue testId="queue" />
    </Panel>
  );
}

/** A sign for every line end, and for a tab and a blank at the end of a line. */
function shownCharacter(output: string, at: number, ends: boolean): string {
  const each = itemAt(output, at);
  if (!ends) return each;
  if (each === '\n') return '↵\n';
  if (each === '\t') return '→\t';
  return each === ' ' && (at === output.length - 1 || output[at + 1] === '\n') ? '·' : each;
}

interface WrittenProps {
  readonly output: string;
  readonly ends: boolean;
  readonly ref: React.Ref<HTMLPreElement>;
}

/** What was written. A character that is pressed, or chosen with Enter and arrows, tells which instruction wrote it. */
function Written({ output, ends, ref }: WrittenProps) {
  const written = useRun((state) => state.view?.written ?? 0);
  const [chosen, setChosen] = useState<number>();
  const [told, setTold] = useState<{ readonly tick: number; readonly sentence: string }>();
  const first = Math.max(0, output.length - SHOWN);
  const at = chosen !== undefined && chosen >= first && chosen < output.length ? chosen : undefined;
  useEffect(() => {
    let live = true;
    if (at === undefined) setTold(undefined);
    else void engine.soFar.wrote(written - output.length + at).then((found) => live && setTold(found));
    return () => {
      live = false;
    };
  }, [at, written, output.length]);
  const text = (from: number, to: number): string =>
    Array.from({ length: Math.max(0, to - from) }, (_, index) => shownCharacter(output, from + index, ends)).join('');
  const choose = (event: React.MouseEvent<HTMLPreElement>): void => {
    if (window.getSelection()?.toString()) return;
    const place = caretOffset(event);
    if (place === undefined) return;
    let index = first;
    for (let left = place - (first > 0 ? 2 : 0); index < output.length; index++) {
      left -= shownCharacter(output, index, ends).length;
      if (left < 0) break;
    }
    setChosen(index < output.length ? index : undefined);
  };
  const keys = (event: React.KeyboardEvent): void => {
    const by = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (event.key === 'Enter' && at === undefined && output.length > 0) setChosen(output.length - 1);
    else if (event.key === 'Enter' && told) travel(told.tick);
    else if (event.key === 'Escape' && at !== undefined) setChosen(undefined);
    else if (by !== 0 && at !== undefined) setChosen(Math.max(first, Math.min(output.length - 1, at + by)));
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <>
      <Output ref={ref} data-testid="output" role="group" tabIndex={0} aria-label="Output" onClick={choose} onKeyDown={keys}>
        {first > 0 && '… '}
        {at === undefined ? (
          text(first, output.length)
        ) : (
          <>
            {text(first, at)}
            <mark>{text(at, at + 1)}</mark>
            {text(at + 1, output.length)}
          </>
        )}
      </Output>
      {told && (
        <Box px="12px" pb="3px" fontSize="13px" role="status" data-testid="written-by">
          {told.sentence}{' '}
          <Button look="link" data-bench onClick={() => travel(told.tick)}>
            Go there
          </Button>
        </Box>
      )}
    </>
  );
}

/** How many characters stand before the place that was pressed. */
function caretOffset({ clientX, clientY, currentTarget }: React.MouseEvent<HTMLElement>): number | undefined {
  const found = document.caretPositionFromPoint?.(clientX, clientY);
  const [node, offset] = found ? [found.offsetNode, found.offset] : rangeAt(clientX, clientY);
  if (!node || !currentTarget.contains(node)) return undefined;
  const range = document.createRange();
  // The nearest gap may lie behind the character that was pressed.
  if (offset > 0) {
    range.setStart(node, offset - 1);
    range.setEnd(node, offset);
  }
  const { left, right } = range.getBoundingClientRect();
  const before = offset > 0 && clientX >= left && clientX < right ? 1 : 0;
  range.selectNodeContents(currentTarget);
  range.setEnd(node, offset);
  return range.toString().length - before;
}

/** Where browsers have only the older way. */
function rangeAt(x: number, y: number): readonly [Node | undefined, number] {
  const range = document.caretRangeFromPoint?.(x, y);
  return range ? [range.startContainer, range.startOffset] : [undefined, 0];
}
