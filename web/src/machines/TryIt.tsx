/** An instruction on values that somebody sets: before and after side by side, run at every change. */
import { Box, chakra, Flex } from '@chakra-ui/react';
import { useState } from 'react';
import { NOTHING_GIVEN, type Given } from '@zettak/core/engine/sample/bed';
import type { SamplePlace, Sampled } from '@zettak/core/engine/sample/sample';
import type { Form, Machine } from '@zettak/core/machine/model/machine';
import { readNumber, shownDigits, shownNumber } from '@zettak/core/text/number';
import { BASE_WORDS, signedReading } from '@zettak/core/text/number';
import { Button } from '../ui/Button';
import { Check } from '../ui/Check';
import { Entry } from '../ui/Field';
import { Hint } from '../ui/Panel';
import { useDefined, useDefinedSame, useDefining } from './defining';
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
  readonly form: Form;
  readonly machine: Machine;
  /** The machine has errors by now: what is shown is of the last that had none. */
  readonly old: boolean;
}

export function TryIt({ name, at, form, machine, old }: TryProps) {
  const defining = useDefining();
  const tried = useDefinedSame((state) => state.sound?.tried?.[at]);
  const given = useDefined((state) => state.given[name]?.[at]) ?? NOTHING_GIVEN;
  const [inner, setInner] = useState(false);
  const [drawn, setDrawn] = useState(false);
  if (!tried) return null;
  const give = (change: Partial<Given>): void => defining.give(name, at, { ...given, seed: tried.seed, ...change });
  const set = (key: string, value: number): void => give({ places: { ...given.places, [key]: value } });
  const places = tried.places.filter((each) => each.kind !== 'flag' && (inner || !each.inner));
  const flags = tried.places.filter((each) => each.kind === 'flag');
  return (
    <Card data-testid="try-it">
      <header>
        <h3>Try it now</h3>
        <Hint>
          <b>{tried.line}</b>
          {`, numbers ${machine.radix === 10 ? 'decimal' : BASE_WORDS[machine.base]}`}
          {old && '; as the machine was before the present errors'}
        </Hint>
        <Flex gap="6px" align="center">
          <Check on={inner} change={setInner} fontSize="13px">
            all registers
          </Check>
          <Button
            look="tag"
            onClick={() => give({ places: {}, seed: tried.seed + 1 })}
            tip="Other values everywhere"
            data-testid="draw-anew"
          >
            Other values
          </Button>
          <Button look="tag" onClick={() => setDrawn(true)} data-testid="show-drawing">
            Drawing
          </Button>
        </Flex>
      </header>
      {form.operands.length > 0 && (
        <Flex gap="12px" wrap="wrap" mb="6px" align="baseline" fontSize="13px">
          {form.operands.map((field) => (
            <chakra.label key={field.name}>
              {field.name}{' '}
              <ValueEntry
                label={`Operand ${field.name}`}
                machine={machine}
                width={Math.max(1, field.width + field.dropped)}
                radix={machine.radix}
                value={tried.operands[field.name] ?? 0}
                names={field.names}
                set={(value) => give({ operands: { ...tried.operands, [field.name]: value } })}
              />
            </chakra.label>
          ))}
        </Flex>
      )}
      <Values>
        <span className="head">place</span>
        <span className="head">before</span>
        <span className="head">{`after ${tried.ticks.length} ticks`}</span>
        <span className="head">after, read otherwise</span>
        {places.map((each) => (
          <PlaceRow key={each.key} {...{ machine, place: each }} set={(value) => set(each.key, value)} />
        ))}
      </Values>
      {flags.length > 0 && (
        <Flex gap="8px" mt="8px" wrap="wrap" align="center" fontFamily="mono" data-testid="try-flags">
          {flags.map((each) => (
            <FlagPair key={each.key} flag={each} turn={() => set(each.key, each.before === 1 ? 0 : 1)} />
          ))}
          <Hint fontFamily="body">flags: press one to turn what it is before</Hint>
        </Flex>
      )}
      <Ended tried={tried} />
      <Examples {...{ name, at, machine }} />
      {drawn && <Drawn {...{ name, at, given, machine }} close={() => setDrawn(false)} />}
    </Card>
  );
}

function PlaceRow({ machine, place, set }: { machine: Machine; place: SamplePlace; set: (value: number) => void }) {
  const { name, width, radix, before, after } = place;
  const changed = before !== after;
  const own = machine.radix === 10 ? { radix: 10 as const, base: 10 as const } : machine;
  const signed = signedReading(after, width, radix);
  return (
    <>
      <chakra.span color="ink2">{name}</chakra.span>
      <ValueEntry label={`${name} before`} {...{ machine, width, radix, set }} value={before} />
      <span>
        <span className={changed ? 'changed' : ''} data-after={name}>
          {shownDigits(after, width, own)}
        </span>
      </span>
      <Hint as="span">
        {[machine.base === 10 ? '' : String(after), signed === after ? '' : String(signed).replace('-', '−')]
          .filter((each) => each)
          .join(' or ')}
      </Hint>
    </>
  );
}

interface ValueProps {
  readonly label: string;
  readonly machine: Machine;
  readonly width: number;
  readonly radix: number;
  readonly value: number;
  readonly names?: ReadonlyMap<number, readonly string[]> | undefined;
  readonly set: (value: number) => void;
}

/** Numbers are read in the machine's base where they are unmarked; names where a field has them. */
function ValueEntry({ label, machine, width, radix, value, names, set }: ValueProps) {
  const [typed, setTyped] = useState<string>();
  const named = names?.get(value)?.[0];
  const shown = named ?? shownDigits(Math.abs(value), Math.max(1, width), { radix: radix === 10 ? 10 : 2, base: machine.base });
  const read = (text: string): number | undefined => {
    const found = [...(names ?? [])].find(([, each]) => each.some((one) => one.toLowerCase() === text.trim().toLowerCase()));
    if (found) return found[0];
    const negative = text.trim().startsWith('-');
    const number = readNumber(text.trim().replace(/^-/, ''), { base: machine.base, suffixes: machine.assembly.suffixes });
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
        title={value_ === undefined ? undefined : `${typed ?? ''} = ${shownNumber(value_, width, machine)} = ${value_}`}
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

function FlagPair({ flag, turn }: { flag: SamplePlace; turn: () => void }) {
  const changed = flag.before !== flag.after;
  return (
    <Button
      look="tag"
      onClick={turn}
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
}

function Ended({ tried }: { tried: Sampled }) {
  const words = {
    done: '',
    halted: 'The machine has halted.',
    waiting: tried.stopped,
    fault: `It cannot be carried out so: ${tried.stopped}`,
    'too long': 'It did not come to its end within 96 ticks.',
  }[tried.ended];
  if (!words && !tried.output) return null;
  return (
    <Box mt="6px" fontSize="13px">
      {tried.output && (
        <span>
          It writes <chakra.b fontFamily="mono">{JSON.stringify(tried.output)}</chakra.b>.{' '}
        </span>
      )}
      <chakra.span color={tried.ended === 'fault' ? 'problem' : 'ink2'}>{words}</chakra.span>
    </Box>
  );
}
