/** What the program will read, with what it has read already, and the field that adds to it. */
import { Box, chakra } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import { Keyboard } from 'lucide-react';
import type { Machine } from '@zettak/core/machine/model/machine';
import { entryReading, usualBase } from '@zettak/core/machine/model/numbers';
import type { Entry as Read } from '@zettak/core/session/protocol';
import { BASE_WORDS, type Base } from '@zettak/core/text/number';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Entry } from '../ui/Field';
import { useDocument } from './document';
import { useRun } from './run';

/** After this many ms without a wait the keys belong to the bench again. */
const BACK_TO_BENCH = 500;

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

interface InputQueueProps {
  readonly testId: string;
  /** While the program waits, the keys go here. */
  readonly takesFocus?: boolean;
}

export function InputQueue({ testId, takesFocus = true }: InputQueueProps) {
  const inputs = useRun((state) => state.view?.inputs);
  const used = useRun((state) => state.view?.inputsUsed ?? 0);
  const waiting = useRun((state) => state.view?.waiting !== undefined);
  const loaded = useRun((state) => state.view !== undefined);
  const keyboard = useDocument((state) => state.machine?.devices.some((each) => each.kind === 'keyboard') ?? false);
  const [wantsSingle, setSingle] = useState(false);
  const single = wantsSingle && keyboard && loaded;
  return (
    <Queue data-testid={testId}>
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
        <SingleKeys waiting={waiting} done={() => setSingle(false)} />
      ) : (
        <EntryField waiting={waiting} takesFocus={takesFocus} disabled={!loaded} />
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
  );
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

function EntryField({ waiting, takesFocus, disabled }: { waiting: boolean; takesFocus: boolean; disabled: boolean }) {
  const [text, setText] = useState('');
  const [reading, setReading] = useState<Read>();
  const field = useRef<HTMLInputElement>(null);
  useFocusWhile(waiting && takesFocus, field);
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
  const base = BASE_WORDS[(machine ? usualBase(machine) : 10) as Base];
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
        data-bench-keys={waiting && text === '' ? '' : undefined}
        placeholder={waiting ? `${base}, then Enter` : `${base} value`}
        aria-label={`Value for the input queue: a number, ${base} unless it starts with 0x, 0o, 0b or 0d, or a text in quotes`}
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
