/** An instruction on values that somebody sets: before and after side by side, run at every change. */
import { Box, chakra, Flex } from '@chakra-ui/react';
import { memo, useCallback, useState } from 'react';
import { NOTHING_GIVEN, type Given } from '@zettak/core/engine/sample/bed';
import type { SamplePlace, Sampled } from '@zettak/core/engine/sample/sample';
import type { Form } from '@zettak/core/machine/model/machine';
import { BASE_WORDS, readNumber, shownDigits, shownNumber, signedReading } from '@zettak/core/text/number';
import { Button } from '../ui/Button';
import { Check } from '../ui/Check';
import { Entry } from '../ui/Field';
import { Hint } from '../ui/Panel';
import { useDefined, useDefining, useNotation, type Notation } from './defining';
import { Drawn } from './Drawn';
import { Examples } from './Examples';
import { Card } from './Card';

const Values = chakra('div', {
  base: {
    display: 'grid',
    gridTemplateColumns: 'max-content max-content max-content 1fr',
    columnGap: '14px',
    rowGap: '3px',
    alignItems: 'baseline',
    fontFamily: 'mono',
    fontSize: '15px',
    '& .changed': {
      bg: 'dataPale',
      color: 'data',
      fontWeight: '700',
      borderRadius: '4px',
      px: '4px',
      borderBottom: '3px solid',
      borderColor: 'data',
    },
    '& .head': { fontFamily: 'body', fontSize: '13px', color: 'ink3' },
  },
});

interface TryProps {
  readonly name: string;
  readonly at: number;
  readonly operands: Form['operands'];
  /** The machine has errors by now: what is shown is of the last that had none. */
  readonly old: boolean;
}

/** Of a look without the ticks, which are told elsewhere: each of these is as it was while it says the same. */
function useTried<Key extends Exclude<keyof Sampled, 'ticks'>>(at: number, key: Key): Sampled[Key] | undefined {
  return useDefined((state) => state.sound?.tried?.[at]?.[key]);
}

export const TryIt = memo(function TryIt({ name, at, operands, old }: TryProps) {
  const line = useTried(at, 'line');
  const [inner, setInner] = useState(false);
  if (line === undefined) return null;
  return (
    <Card data-testid="try-it" isolation="isolate">
      <Head {...{ name, at, line, old, inner, setInner }} />
      {operands.length > 0 && <Operands {...{ name, at, operands }} />}
      <Places {...{ name, at, inner }} />
      <FlagPairs {...{ name, at }} />
      <Ended at={at} />
      <Examples {...{ name, at }} />
    </Card>
  );
});

/** Gives an instruction other values; what is not said stays as it was drawn. */
function useGive(name: string, at: number): (change: Partial<Given> | ((given: Given) => Partial<Given>)) => void {
  const defining = useDefining();
  return useCallback(
    (change) => {
      const given = defining.state.given[name]?.[at] ?? NOTHING_GIVEN;
      const seed = defining.state.sound?.tried?.[at]?.seed;
      const changed = typeof change === 'function' ? change(given) : change;
      defining.give(name, at, { ...given, ...(seed !== undefined && { seed }), ...changed });
    },
    [defining, name, at],
  );
}

/** Gives a place another value before the instruction. */
function useGivePlace(name: string, at: number): (key: string, value: number) => void {
  const give = useGive(name, at);
  return useCallback((key, value) => give((given) => ({ places: { ...given.places, [key]: value } })), [give]);
}

interface HeadProps {
  readonly name: string;
  readonly at: number;
  readonly line: string;
  readonly old: boolean;
  readonly inner: boolean;
  readonly setInner: (on: boolean) => void;
}

function Head({ line, old, ...acts }: HeadProps) {
  const notation = useNotation();
  return (
    <header>
      <h3>Try it now</h3>
      <Hint>
        <b>{line}</b>
        {`, numbers ${notation.radix === 10 ? 'decimal' : BASE_WORDS[notation.base]}`}
        {old && '; as the machine was before the present errors'}
      </Hint>
      <HeadActs {...acts} />
    </header>
  );
}

/** Left alone while the machine has errors and has none again. */
const HeadActs = memo(function HeadActs({ name, at, inner, setInner }: Omit<HeadProps, 'line' | 'old'>) {
  const give = useGive(name, at);
  const defining = useDefining();
  const given = useDefined((state) => state.given[name]?.[at]) ?? NOTHING_GIVEN;
  const [drawn, setDrawn] = useState(false);
  const drawAnew = (): void => give({ places: {}, seed: (defining.state.sound?.tried?.[at]?.seed ?? 0) + 1 });
  return (
    <>
      <Flex gap="6px" align="center">
        <Check on={inner} change={setInner} fontSize="13px">
          all registers
        </Check>
        <Button look="tag" onClick={drawAnew} tip="Other values everywhere" data-testid="draw-anew">
          Other values
        </Button>
        <Button look="tag" onClick={() => setDrawn(true)} data-testid="show-drawing">
          Drawing
        </Button>
      </Flex>
      {drawn && <Drawn {...{ name, at, given }} close={() => setDrawn(false)} />}
    </>
  );
});

interface OperandProps {
  readonly name: string;
  readonly at: number;
  readonly operands: Form['operands'];
}

const Operands = memo(function Operands({ name, at, operands }: OperandProps) {
  const notation = useNotation();
  const give = useGive(name, at);
  const values = useTried(at, 'operands') ?? {};
  return (
    <Flex gap="12px" wrap="wrap" mb="6px" align="baseline" fontSize="13px">
      {operands.map((field) => (
        <chakra.label key={field.name}>
          {field.name}{' '}
          <ValueEntry
            label={`Operand ${field.name}`}
            notation={notation}
            width={Math.max(1, field.width + field.dropped)}
            radix={notation.radix}
            value={values[field.name] ?? 0}
            names={field.names}
            set={(value) => give({ operands: { ...values, [field.name]: value } })}
          />
        </chakra.label>
      ))}
    </Flex>
  );
});

const Places = memo(function Places({ name, at, inner }: { name: string; at: number; inner: boolean }) {
  const notation = useNotation();
  const set = useGivePlace(name, at);
  const ticks = useDefined((state) => state.sound?.tried?.[at]?.ticks.length ?? 0);
  const places = (useTried(at, 'places') ?? []).filter((each) => each.kind !== 'flag' && (inner || !each.inner));
  return (
    <Values>
      <span className="head">place</span>
      <span className="head">before</span>
      <span className="head">{`after ${ticks} ticks`}</span>
      <span className="head">after, read otherwise</span>
      {places.map((place) => (
        <PlaceRow key={place.key} {...{ notation, place, set }} />
      ))}
    </Values>
  );
});

const FlagPairs = memo(function FlagPairs({ name, at }: { name: string; at: number }) {
  const set = useGivePlace(name, at);
  const flags = (useTried(at, 'places') ?? []).filter((each) => each.kind === 'flag');
  if (flags.length === 0) return null;
  return (
    <Flex gap="8px" mt="8px" wrap="wrap" align="center" fontFamily="mono" data-testid="try-flags">
      {flags.map((flag) => (
        <FlagPair key={flag.key} {...{ flag, set }} />
      ))}
      <Hint fontFamily="body">flags: press one to turn what it is before</Hint>
    </Flex>
  );
});

interface PlaceProps {
  readonly notation: Notation;
  readonly place: SamplePlace;
  readonly set: (key: string, value: number) => void;
}

const PlaceRow = memo(function PlaceRow({ notation, place, set }: PlaceProps) {
  const { key, name, width, radix, before, after } = place;
  const changed = before !== after;
  const own = notation.radix === 10 ? { radix: 10 as const, base: 10 as const } : notation;
  const signed = signedReading(after, width, radix);
  return (
    <>
      <chakra.span color="ink2">{name}</chakra.span>
      <ValueEntry label={`${name} before`} {...{ notation, width, radix }} value={before} set={(value) => set(key, value)} />
      <span>
        <span className={changed ? 'changed' : ''} data-after={name}>
          {shownDigits(after, width, own)}
        </span>
      </span>
      <Hint as="span">
        {[notation.base === 10 ? '' : String(after), signed === after ? '' : String(signed).replace('-', '−')]
          .filter((each) => each)
          .join(' or ')}
      </Hint>
    </>
  );
});

interface ValueProps {
  readonly label: string;
  readonly notation: Notation;
  readonly width: number;
  readonly radix: number;
  readonly value: number;
  readonly names?: ReadonlyMap<number, readonly string[]> | undefined;
  readonly set: (value: number) => void;
}

/** Numbers are read in the machine's base where they are unmarked; names where a field has them. */
function ValueEntry({ label, notation, width, radix, value, names, set }: ValueProps) {
  const [typed, setTyped] = useState<string>();
  const named = names?.get(value)?.[0];
  const shown = named ?? shownDigits(Math.abs(value), Math.max(1, width), { radix: radix === 10 ? 10 : 2, base: notation.base });
  const read = (text: string): number | undefined => {
    const found = [...(names ?? [])].find(([, each]) => each.some((one) => one.toLowerCase() === text.trim().toLowerCase()));
    if (found) return found[0];
    const negative = text.trim().startsWith('-');
    const number = readNumber(text.trim().replace(/^-/, ''), notation);
    return number === undefined ? undefined : negative ? -number : number;
  };
  const value_ = typed === undefined ? undefined : read(typed);
  const wrong = typed !== undefined && typed.trim() !== '' && value_ === undefined;
  return (
    <Box as="span">
      <Entry
        aria-label={label}
        width={`${Math.min(18, Math.max(4, shown.length + 2))}ch`}
        px="5px"
        fontFamily="mono"
        fontSize="15px"
        value={typed ?? (value < 0 ? `-${shown}` : shown)}
        aria-invalid={wrong}
        title={value_ === undefined ? undefined : `${typed ?? ''} = ${shownNumber(value_, width, notation)} = ${value_}`}
        onFocus={(event) => event.currentTarget.select()}
        onChange={(event) => {
          setTyped(event.target.value);
          const found = read(event.target.value);
          if (found !== undefined) set(found);
        }}
        onBlur={() => setTyped(undefined)}
      />
    </Box>
  );
}

const FlagPair = memo(function FlagPair({ flag, set }: Pick<PlaceProps, 'set'> & { flag: SamplePlace }) {
  const changed = flag.before !== flag.after;
  return (
    <Button
      look="tag"
      onClick={() => set(flag.key, flag.before === 1 ? 0 : 1)}
      aria-label={`Flag ${flag.name}: ${flag.before} before, ${flag.after} after; turn what it is before`}
      data-flag-after={`${flag.name}${flag.after}`}
      fontFamily="mono"
      {...(changed && { bg: 'dataPale', borderColor: 'data' })}
    >
      {flag.name}
      {changed ? (
        <>
          <chakra.s color="ink3">{flag.before}</chakra.s>
          <b>{flag.after}</b>
        </>
      ) : (
        <span>{flag.after}</span>
      )}
    </Button>
  );
});

const Ended = memo(function Ended({ at }: { at: number }) {
  const [ended, output, stopped] = [useTried(at, 'ended') ?? 'done', useTried(at, 'output') ?? '', useTried(at, 'stopped') ?? ''];
  const words = {
    done: '',
    halted: 'The machine has halted.',
    waiting: stopped,
    fault: `It cannot be carried out so: ${stopped}`,
    'too long': 'It did not come to its end within 96 ticks.',
  }[ended];
  if (!words && !output) return null;
  return (
    <Box mt="6px" fontSize="13px">
      {output && (
        <span>
          It writes <chakra.b fontFamily="mono">{JSON.stringify(output)}</chakra.b>.{' '}
        </span>
      )}
      <chakra.span color={ended === 'fault' ? 'problem' : 'ink2'}>{words}</chakra.span>
    </Box>
  );
});
