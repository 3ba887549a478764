/** A new machine: four questions, each with its picture, make one that runs at once. Empty, and from a ready machine, stand beside. */
import { Box, chakra, Flex } from '@chakra-ui/react';
import { useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import type { DocumentSummary } from '@zettak/api/documents';
import { beginningOf, emptyMachine, WIDTHS, type Answers } from '@zettak/core/machine/document/beginning';
import { Shell } from '../app/Shell';
import { client } from '../documents/client';
import { addMachine, besides } from '../documents/shelf/files';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Entry } from '../ui/Field';
import { Hint, Notice } from '../ui/Panel';

interface Question<K extends keyof Answers> {
  readonly key: K;
  readonly asks: string;
  readonly options: readonly {
    readonly value: Answers[K];
    readonly says: string;
    readonly more: string;
    readonly picture: React.ReactNode;
  }[];
}

const ink = { stroke: 'var(--z-colors-ink)', strokeWidth: 1.5 };
const fills = {
  paper: 'var(--z-colors-paper)',
  sand: 'var(--z-colors-sand2)',
  water: 'var(--z-colors-address-pale)',
  rust: 'var(--z-colors-data-pale)',
};

/** Boxes of a picture, on a ground of 120 by 54. */
const Boxes = ({
  list,
  children,
}: {
  list: readonly (readonly [x: number, y: number, width: number, height: number, fill: keyof typeof fills, text?: string])[];
  children?: React.ReactNode;
}) => (
  <svg viewBox="0 0 120 54" width="120" height="54" aria-hidden>
    {list.map(([x, y, width, height, fill, text], at) => (
      <g key={at}>
        <rect x={x} y={y} width={width} height={height} fill={fills[fill]} {...ink} />
        {text !== undefined && (
          <text
            x={x + width / 2}
            y={y + height / 2 + 4}
            textAnchor="middle"
            fontSize="11"
            fill="var(--z-colors-ink)"
            fontFamily="var(--z-fonts-mono)"
          >
            {text}
          </text>
        )}
      </g>
    ))}
    {children}
  </svg>
);

const row = (digits: string, size: number, x: number) =>
  [...digits].map((digit, at) => [x + at * size, 18, size, 20, 'sand', digit] as const);
const stackOf = (x: number, names: readonly string[], fill: 'water' | 'sand' | 'rust', height = 11) =>
  names.map((name, at) => [x, 4 + at * height, 34, height, fill, name] as const);
const Arrow = ({ d }: { d: string }) => <path d={d} fill="none" {...ink} strokeWidth={2.5} />;

const WORD: Question<'word'> = {
  key: 'word',
  asks: 'What is a word made of?',
  options: [
    { value: 'bits', says: 'Bits', more: 'binary, shown in hex', picture: <Boxes list={row('01101001', 13, 8)} /> },
    { value: 'digits', says: 'Decimal digits', more: 'as people count', picture: <Boxes list={row('472', 22, 27)} /> },
  ],
};
const MEMORY: Question<'memory'> = {
  key: 'memory',
  asks: 'How is the memory?',
  options: [
    {
      value: 'one',
      says: 'One',
      more: 'programs and data together',
      picture: (
        <Boxes
          list={[
            [40, 4, 40, 23, 'sand', 'code'],
            [40, 27, 40, 23, 'rust', 'data'],
          ]}
        />
      ),
    },
    {
      value: 'two',
      says: 'Two',
      more: 'one for programs, one for data',
      picture: (
        <Boxes
          list={[
            [14, 8, 40, 38, 'sand', 'code'],
            [66, 8, 40, 38, 'rust', 'data'],
          ]}
        />
      ),
    },
    {
      value: 'banks',
      says: 'Banks',
      more: 'data in four banks',
      picture: (
        <Boxes
          list={[[6, 8, 36, 38, 'sand', 'code'], ...[0, 1, 2, 3].map((bank) => [50 + bank * 16, 8, 15, 38, 'rust', String(bank)] as const)]}
        />
      ),
    },
  ],
};
const STORE: Question<'store'> = {
  key: 'store',
  asks: 'What is there to compute with?',
  options: [
    {
      value: 'accumulator',
      says: 'One accumulator',
      more: 'every result goes there',
      picture: <Boxes list={[[36, 15, 48, 24, 'water', 'acc']]} />,
    },
    {
      value: 'named',
      says: 'A few named registers',
      more: 'A, B, C, D',
      picture: <Boxes list={stackOf(43, ['A', 'B', 'C', 'D'], 'water')} />,
    },
    {
      value: 'numbered',
      says: 'Many numbered ones',
      more: 'R0, R1, R2 …',
      picture: <Boxes list={[...stackOf(24, ['R0', 'R1', 'R2', 'R3'], 'water'), ...stackOf(62, ['R4', 'R5', 'R6', '…'], 'water')]} />,
    },
    {
      value: 'stack',
      says: 'A stack',
      more: 'values on top of each other',
      picture: (
        <Boxes list={stackOf(43, ['top', '5', '3'], 'water', 14)}>
          <Arrow d="M92 6 V30 M88 24 L92 31 L96 24" />
        </Boxes>
      ),
    },
  ],
};
const COUNTER: Question<'counter'> = {
  key: 'counter',
  asks: 'When does PC move on?',
  options: [
    {
      value: 'fetch',
      says: 'While fetching',
      more: 'PC shows the next instruction while one is executed',
      picture: (
        <Boxes
          list={[
            [8, 20, 34, 20, 'sand', 'fetch'],
            [43, 20, 34, 20, 'paper', 'dec.'],
            [78, 20, 34, 20, 'paper', 'exec'],
          ]}
        >
          <Arrow d="M25 18 V6 H40 M35 2 L41 6 L35 10" />
        </Boxes>
      ),
    },
    {
      value: 'end',
      says: 'At the end',
      more: 'PC shows the instruction that is executed',
      picture: (
        <Boxes
          list={[
            [8, 20, 34, 20, 'paper', 'fetch'],
            [43, 20, 34, 20, 'paper', 'dec.'],
            [78, 20, 34, 20, 'sand', 'exec'],
          ]}
        >
          <Arrow d="M95 18 V6 H110 M105 2 L111 6 L105 10" />
        </Boxes>
      ),
    },
  ],
};

const Option = chakra('label', {
  base: {
    display: 'flex',
    flexDirection: 'column',
    alignItems: 'center',
    width: '148px',
    p: '8px',
    border: '2px solid',
    borderColor: 'line',
    borderRadius: '8px',
    bg: 'paper',
    cursor: 'pointer',
    textAlign: 'center',
    position: 'relative',
    '&:has(input:checked)': { borderColor: 'ink', bg: 'sand' },
    '&:has(input:focus-visible)': { outline: '3px solid', outlineColor: 'focus' },
    '& input': { position: 'absolute', opacity: '0' },
    '& b': { fontSize: '14px', mt: '3px' },
  },
});

/** The demo machines do not call themselves so. */
const NAMES = ['Ruff', 'Knot', 'Stint', 'Godwit', 'Turnstone', 'Whimbrel', 'Lapwing', 'Snipe'];

export function StartPage() {
  const navigate = useNavigate();
  const [machines, setMachines] = useState<readonly DocumentSummary[]>();
  const [name, setName] = useState<string>();
  const [answers, setAnswers] = useState<Omit<Answers, 'name'>>({
    word: 'bits',
    width: 8,
    memory: 'one',
    store: 'accumulator',
    counter: 'fetch',
  });
  const [ready, setReady] = useState('');
  const [failure, setFailure] = useState('');
  const [making, setMaking] = useState(false);
  useEffect(() => void client.list('machine').then(setMachines, (error: Error) => setFailure(error.message)), []);
  const free = useMemo(() => NAMES.find((each) => !machines?.some((other) => other.name === each)) ?? 'Machine', [machines]);
  const called = name ?? free;
  const { least, greatest } = WIDTHS[answers.word];
  const wrong = !/^[A-Za-z][A-Za-z0-9_-]*$/.test(called)
    ? 'A name has letters, digits, _ and - only, and begins with a letter.'
    : answers.width < least || answers.width > greatest || !Number.isInteger(answers.width)
      ? `A word has ${least} to ${greatest} ${answers.word}.`
      : '';
  const run = async (act: () => Promise<void>): Promise<void> => {
    setMaking(true);
    setFailure('');
    try {
      await act();
    } catch (error) {
      setFailure((error as Error).message);
      setMaking(false);
    }
  };
  const make = (): Promise<void> =>
    run(async () => {
      const own = besides(called, machines ?? []);
      const { document, program } = beginningOf({ ...answers, name: own });
      const made = await client.create('machine', { name: own, text: document });
      await client.keepVersion('machine', made.id, made.revision);
      await client.create('program', { name: `first on ${own}`, text: program, machine: made.id });
      await navigate(`/machines/${made.id}`);
    });
  const makeOf = (text: string): Promise<void> =>
    run(async () => void navigate(`/machines/${(await addMachine(text, machines ?? [])).id}`));
  const from = machines?.find((each) => each.id === ready) ?? machines?.[0];
  return (
    <Shell
      title="New machine"
      controls={
        <chakra.span flex="1" color="onBar2">
          New machine
        </chakra.span>
      }
    >
      {failure && (
        <Notice tone="problem" role="alert">
          {failure}
        </Notice>
      )}
      <Flex
        as="form"
        height="100%"
        bg="sea"
        onSubmit={(event: React.FormEvent) => (event.preventDefault(), wrong === '' && void make())}
        data-testid="start"
      >
        <Box flex="1" minWidth="0" overflow="auto" px="22px" py="14px">
          <Ask question={WORD} value={answers.word} choose={(word) => setAnswers({ ...answers, word, width: WIDTHS[word].usual })}>
            <chakra.label fontSize="13px" color="ink2" alignSelf="center">
              how many?{' '}
              <Entry
                room="count"
                inputMode="numeric"
                value={Number.isNaN(answers.width) ? '' : answers.width}
                onChange={(event) => setAnswers({ ...answers, width: event.target.value === '' ? NaN : Number(event.target.value) })}
                data-testid="width"
              />
            </chakra.label>
          </Ask>
          <Ask question={MEMORY} value={answers.memory} choose={(memory) => setAnswers({ ...answers, memory })} />
          <Ask question={STORE} value={answers.store} choose={(store) => setAnswers({ ...answers, store })} />
          <Ask question={COUNTER} value={answers.counter} choose={(counter) => setAnswers({ ...answers, counter })} />
        </Box>
        <Box
          as="aside"
          width="330px"
          flexShrink="0"
          bg="paper"
          borderLeft="1px solid"
          borderColor="line"
          px="18px"
          py="16px"
          overflow="auto"
        >
          <chakra.h2 fontSize="16px" fontWeight="700" mb="6px">
            A machine of six instructions
          </chakra.h2>
          <chakra.p fontSize="14px" mb="10px">
            {says(answers)} It comes with a program that counts down from 3, and everything about it can be changed.
          </chakra.p>
          <chakra.label display="block" fontSize="13px" color="ink2">
            Name
            <Entry room="wide" value={called} maxLength={40} onChange={(event) => setName(event.target.value)} data-testid="start-name" />
          </chakra.label>
          {wrong && (
            <chakra.p role="alert" color="problem" fontSize="13px">
              {wrong}
            </chakra.p>
          )}
          <Button type="submit" look="strong" mt="10px" disabled={wrong !== '' || making} data-testid="make">
            Make this machine
          </Button>
          <chakra.h2 fontSize="14px" fontWeight="700" mt="26px" mb="6px">
            Or begin otherwise
          </chakra.h2>
          <Flex direction="column" gap="8px" align="flex-start">
            <Button onClick={() => void makeOf(emptyMachine(free))} disabled={making} data-testid="make-empty">
              Empty
            </Button>
            <Hint>A word, a memory, PC and IR, and nothing to do yet.</Hint>
            <Flex gap="6px" align="center" wrap="wrap" visibility={machines ? undefined : 'hidden'}>
              <Choice
                label="Ready machine"
                value={from?.id ?? ''}
                choose={setReady}
                options={(machines ?? []).map((each) => ({ value: each.id, says: each.name }))}
              />
              <Button
                disabled={!from || making}
                onClick={() => from && void client.get('machine', from.id).then(({ draft }) => makeOf(draft))}
                data-testid="make-copy"
              >
                A copy of it
              </Button>
            </Flex>
            <Hint>A ready machine, to be changed without changing that one.</Hint>
          </Flex>
        </Box>
      </Flex>
    </Shell>
  );
}

const says = ({ word, width, memory, store, counter }: Omit<Answers, 'name'>): string => {
  const kept = { one: 'one memory', two: 'a memory for programs and one for data', banks: 'a memory for programs and four banks for data' }[
    memory
  ];
  const computes = { accumulator: 'one accumulator', named: 'the registers A to D', numbered: 'numbered registers', stack: 'a stack' }[
    store
  ];
  return `Words of ${Number.isNaN(width) ? '…' : width} ${word}, ${kept}, ${computes}; PC moves ${counter === 'fetch' ? 'while an instruction is fetched' : 'at the end of an instruction'}.`;
};

interface AskProps<K extends keyof Answers> {
  readonly question: Question<K>;
  readonly value: Answers[K];
  readonly choose: (value: Answers[K]) => void;
  readonly children?: React.ReactNode;
}

function Ask<K extends keyof Answers>({ question: { key, asks, options }, value, choose, children }: AskProps<K>) {
  return (
    <chakra.fieldset border="0" mb="14px">
      <chakra.legend fontSize="15px" fontWeight="700" mb="6px">
        {asks}
      </chakra.legend>
      <Flex gap="10px" wrap="wrap">
        {options.map((each) => (
          <Option key={String(each.value)}>
            <input
              type="radio"
              name={key}
              checked={value === each.value}
              onChange={() => choose(each.value)}
              data-answer={String(each.value)}
            />
            {each.picture}
            <b>{each.says}</b>
            <Hint fontSize="12.5px">{each.more}</Hint>
          </Option>
        ))}
        {children}
      </Flex>
    </chakra.fieldset>
  );
}
