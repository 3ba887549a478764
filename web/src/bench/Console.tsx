/** What the program writes, and the queue of what it will read; loud when the program waits. */
import { Box, chakra } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import type { Entry as Read } from '@zettak/core/session/protocol';
import { Keyboard, WrapText } from 'lucide-react';
import { keep, kept } from '../app/preferences';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Entry } from '../ui/Field';
import { afterPaint } from '../ui/follow';
import { Hint, Panel, PanelHead, PanelTitle } from '../ui/Panel';
import { useDocument, useHeading } from './document';
import { Lines } from './Lines';
import { PanelNotes } from './PinnedNotes';
import { travel, useRun } from './run';
import { itemAt } from '@zettak/core/text/itemAt';
import type { Machine } from '@zettak/core/machine/model/machine';
import { entryReading, usualBase } from '@zettak/core/machine/model/numbers';
import { BASE_WORDS, type Base } from '@zettak/core/text/number';

const ENDS = 'line-ends';
const SHOWN = 5000;
/** After this many ms without a wait the keys belong to the bench again. */
const BACK_TO_BENCH = 500;

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

const Queue = chakra('div', {
  base: {
    display: 'flex',
    alignItems: 'center',
    gap: '8px',
    px: '12px',
    py: '5px',
    borderTop: '1px solid',
    borderColor: 'line',
    flexShrink: '0',
    color: 'ink2',
    fontSize: '13px',
    '& ol': { display: 'flex', gap: '4px', listStyle: 'none', overflowX: 'auto', flex: '0 1 auto', maxWidth: '45%' },
    '& li': { display: 'flex', gap: '3px', fontFamily: 'mono', border: '1px solid', borderColor: 'edge', borderRadius: '5px', px: '5px' },
    '& li.next': { borderColor: 'ink', borderWidth: '2px', fontWeight: '700' },
    '& li.used': { textDecoration: 'line-through', color: 'ink3', bg: 'sea2' },
    '& form': { flex: '1', display: 'flex', gap: '6px', alignItems: 'center', minWidth: '120px' },
  },
});

/** Keeps the last 5,000 characters of the output in sight. */
export function Console() {
  const heading = useHeading('console', 'Console');
  const output = useRun((state) => state.view?.output ?? '');
  const inputs = useRun((state) => state.view?.inputs);
  const used = useRun((state) => state.view?.inputsUsed ?? 0);
  const waiting = useRun((state) => state.view?.waiting);
  const loaded = useRun((state) => state.view !== undefined);
  const bottom = useRef<HTMLPreElement>(null);
  const [ends, setEnds] = useState(() => kept(ENDS) === 'yes');
  const keyboard = useDocument((state) => state.machine?.devices.some((each) => each.kind === 'keyboard') ?? false);
  const [wantsSingle, setSingle] = useState(false);
  const single = wantsSingle && keyboard && loaded;
  useEffect(() => {
    afterPaint(() => bottom.current?.scrollTo(0, bottom.current.scrollHeight));
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
      <Queue data-testid="queue">
        <span>Input queue</span>
        <ol>
          {(inputs ?? []).map((value, at) => (
            <li
              key={at}
              className={at < used ? 'used' : at === used ? 'next' : ''}
              title={at < used ? 'used' : at === used ? 'the next to be read' : undefined}
            >
              {value}
              {at >= used && (
                <Button look="bare" aria-label={`Take ${value} out of the queue`} onClick={() => void engine.hand.removeInput(at)}>
                  ×
                </Button>
              )}
            </li>
          ))}
        </ol>
        {single ? (
          <SingleKeys waiting={waiting !== undefined} done={() => setSingle(false)} />
        ) : (
          <EntryField waiting={waiting !== undefined} disabled={!loaded} />
        )}
        {keyboard && (
          <Button
            look="bare"
            aria-pressed={single}
            aria-label="Single keys"
            tip="Every key that is pressed goes to the keyboard at once"
            onClick={() => setSingle(!single)}
            data-testid="single-keys"
          >
            <Keyboard size={15} aria-hidden />
          </Button>
        )}
      </Queue>
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

/** Switches that a hand can set. */
function Switches() {
  const devices = useRun((state) => state.view?.devices);
  return (devices ?? []).map((each) => <Lines key={each.name} device={each} inset />);
}

/** How an entry was read: one number as on every field of the bench, or how many characters. */
function readingText(values: readonly number[], machine: Machine, text: string): string {
  const [value, more] = values;
  if (more !== undefined) return `${values.length} characters`;
  const { reads, remark } = entryReading(machine, machine.wordWidth, { text, value: value ?? 0, base: usualBase(machine) });
  return remark === undefined ? reads : `${reads}. ${remark}`;
}

/** While the program waits the focus is here. */
function useFocusWhile(waiting: boolean, field: React.RefObject<HTMLInputElement | null>): void {
  const back = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => {
    if (!waiting) return undefined;
    const input = field.current;
    clearTimeout(back.current);
    input?.focus();
    // A run that soon waits again keeps the focus here, so that no key falls between two numbers.
    return () => {
      back.current = setTimeout(() => document.activeElement === input && input?.blur(), BACK_TO_BENCH);
    };
  }, [waiting, field]);
}

const SPECIAL: Readonly<Record<string, string>> = { Enter: '\\n', Tab: '\\t', '"': '\\"', '\\': '\\\\' };

/** Keys go to the machine's keyboard one by one, as on the keyboard itself; Escape gives them back to the bench. */
function SingleKeys({ waiting, done }: { waiting: boolean; done: () => void }) {
  const place = useRef<HTMLDivElement>(null);
  const [last, setLast] = useState('');
  const [refused, setRefused] = useState<string>();
  useEffect(() => place.current?.focus(), []);
  const key = (event: React.KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey || (event.key === 'Tab' && event.shiftKey)) return;
    event.stopPropagation();
    if (event.key === 'Escape') return done();
    const text = SPECIAL[event.key] ?? (event.key.length === 1 ? event.key : undefined);
    if (text === undefined) return;
    event.preventDefault();
    setLast(event.key);
    void engine.hand.queueInput(`"${text}"`).then((entry) => setRefused('refused' in entry ? entry.refused : undefined));
  };
  return (
    <Box
      ref={place}
      tabIndex={0}
      role="textbox"
      aria-label="Keys go to the keyboard one by one; Escape gives them back"
      flex="1"
      px="8px"
      py="2px"
      border="2px solid"
      borderColor={waiting ? 'now' : 'ink'}
      borderRadius="6px"
      fontSize="13px"
      onKeyDown={key}
      data-testid="key-place"
    >
      {refused ?? (
        <>
          press keys: each goes in at once{last !== '' && ', last '}
          <b>{last === ' ' ? 'blank' : last}</b>
        </>
      )}
    </Box>
  );
}

function EntryField({ waiting, disabled }: { waiting: boolean; disabled: boolean }) {
  const [text, setText] = useState('');
  const [reading, setReading] = useState<Read>();
  const field = useRef<HTMLInputElement>(null);
  useFocusWhile(waiting, field);
  useEffect(() => {
    let live = true;
    if (text.trim() === '') setReading(undefined);
    else void engine.hand.readInput(text).then((each) => live && setReading(each));
    return () => {
      live = false;
    };
  }, [text]);
  const take = async (): Promise<void> => {
    const entry = await engine.hand.queueInput(text);
    if ('values' in entry) setText('');
    else setReading(entry);
  };
  const machine = useDocument((state) => state.machine);
  const refused = reading && 'refused' in reading ? reading.refused : undefined;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void take();
      }}
    >
      <Entry
        ref={field}
        flex="1"
        minWidth="70px"
        fontFamily="mono"
        borderColor={waiting ? 'now' : 'edge'}
        value={text}
        disabled={disabled}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && field.current?.blur()}
        placeholder={waiting ? 'type here, then Enter' : 'add a value'}
        aria-label={`Value for the input queue: a number, ${BASE_WORDS[(machine ? usualBase(machine) : 10) as Base]} unless it starts with 0x, 0o, 0b or 0d, or a text in quotes`}
        aria-invalid={refused !== undefined}
        data-testid="entry"
        maxLength={40}
      />
      <Box
        as="output"
        fontFamily={refused ? 'body' : 'mono'}
        whiteSpace="normal"
        maxWidth="55%"
        color={refused ? 'problem' : undefined}
        data-testid="reading"
      >
        {refused ?? (machine && reading && 'values' in reading ? readingText(reading.values, machine, text) : '')}
      </Box>
    </form>
  );
}
