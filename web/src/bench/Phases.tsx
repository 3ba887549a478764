/** The phases of the machine, each with the ticks of the instruction under way: done, just done, to come. */
import { chakra } from '@chakra-ui/react';
import { Flag } from 'lucide-react';
import { useMemo } from 'react';
import type { Machine } from '@zettak/core/machine/model/machine';
import type { PhaseTick } from '@zettak/core/session/protocol';
import { longestDecoded } from '@zettak/core/session/viewParts';
import { useKeptHeight } from '../ui/keptHeight';
import { useRun, useTold } from './run';
import { itemAt } from '@zettak/core/text/itemAt';

const WORDS = 'Atkinson Hyperlegible Next Variable, sans-serif';

const Columns = chakra('div', {
  base: {
    display: 'grid',
    gap: '9px',
    flexShrink: '0',
    fontFamily: 'mono',
    fontSize: '16px',
    // Where there is little room: the first phase stands beside the others, which stand one above the other.
    gridTemplateColumns: 'minmax(0, 1.25fr) minmax(0, 1fr)',
    '& .phase': { minWidth: '0', borderTop: '4px solid', borderColor: 'ink3', pt: '3px', gridColumn: '2' },
    '& .phase:first-of-type': { gridColumn: '1', gridRow: '1 / span 8' },
    '@container (min-width: 540px)': {
      gridTemplateColumns: 'var(--columns)',
      '& .phase, & .phase:first-of-type': { gridColumn: 'auto', gridRow: 'auto' },
    },
    '& .present': { borderColor: 'now' },
    '& h3': { fontFamily: WORDS, fontWeight: '700', fontSize: '14px', lineHeight: '18px' },
    '& li': {
      display: 'flex',
      gap: '5px',
      alignItems: 'baseline',
      lineHeight: '21px',
      px: '5px',
      marginInlineStart: '-5px',
      borderRadius: '5px',
      whiteSpace: 'nowrap',
      color: 'ink2',
      border: '2px solid transparent',
      width: 'fit-content',
      // The mark goes as far as its words, also where there is too little room.
      minWidth: 'min-content',
    },
    '& .phase:last-of-type li': { whiteSpace: 'normal' },
    '@container (max-width: 539px)': { '& li': { whiteSpace: 'normal', overflowWrap: 'anywhere' } },
    '& .look': { whiteSpace: 'normal' },
    '& .free': { whiteSpace: 'normal', overflowWrap: 'anywhere', maxWidth: '100%' },
    '& .number': { fontSize: '13px', minWidth: '9px' },
    '& .line': { display: 'block' },
    '& .flags': {
      display: 'inline-flex',
      gap: '2px',
      alignItems: 'center',
      fontFamily: WORDS,
      fontWeight: '600',
      fontSize: '13px',
      lineHeight: '18px',
    },
    '& .last': { bg: 'now', color: 'onTone', fontWeight: '650' },
    '& .coming': { borderColor: 'now', color: 'ink' },
    '&[data-shared] li': { fontSize: '14px', lineHeight: '19px', whiteSpace: 'normal', overflowWrap: 'anywhere' },
  },
});

/** Its frame stays as it is from view to view. */
export function Phases({ machine }: { machine: Machine }) {
  const room = useMemo(() => roomFor(machine), [machine]);
  const sizes = { '--columns': room.columns } as React.CSSProperties;
  const frame = useKeptHeight<HTMLDivElement>(room.height, Math.max(room.height, HEIGHT + MOST_ROWS * ROW));
  return (
    <Columns ref={frame} className="phases" data-testid="phases" data-shared={room.shared ? '' : undefined} style={sizes}>
      <Ticks machine={machine} />
    </Columns>
  );
}

function Ticks({ machine }: { machine: Machine }) {
  const { phases: ticks, decoded } = useTold();
  const moving = useRun((state) => state.motion?.report);
  const shown = moving ? ticks.map((each) => under(each, moving.step)) : ticks;
  const present = shown.find((each) => each.state === 'last')?.phase;
  return machine.phases.map((name, phase) => (
    <div key={name} className={phase === present ? 'phase present' : 'phase'}>
      <h3>{name}</h3>
      <ol>
        {shown
          .filter((each) => each.phase === phase)
          .map((each) => (
            <TickLine key={each.step} tick={each} decoded={decoded} allFlags={machine.flags.length} />
          ))}
      </ol>
    </div>
  ));
}

/** Of the names of phases, and of a tick, in px. */
const HEIGHT = 26;
const ROW = 25;
/** So many ticks one above the other have their room from the beginning. */
const MOST_ROWS = 7;

/** Letters that stand side by side in the panel at its usual width. */
const ROOM = 60;
/** The last column breaks its ticks where it has fewer than they need, but has so many at least. */
const LAST = 16;

/** Columns as wide as their longest ticks ask for, and as high as the longest instruction, so that nothing jumps. */
function roomFor(machine: Machine): { columns: string; height: number; shared: boolean } {
  const { phases, forms } = machine;
  const widths = phases.map((_, phase) => {
    const own = forms.flatMap((each) => each.schedule.filter((tick) => tick.phase === phase));
    const longest = Math.max(0, ...own.map(({ tick }) => short(itemAt(tick.text.split(';'), 0).trim()).replaceAll('\u2060', '').length));
    return Math.min(30, Math.max(12, longest) + 2.4);
  });
  // Where there is room for it, what an instruction is decoded into stands on lines of its own; else the lines break.
  const total = widths.slice(0, -1).reduce((sum, each) => sum + each, 0) + Math.min(LAST, widths.at(-1)!);
  const looking = forms[0]?.schedule.find((each) => each.part === 'decode')?.phase ?? 0;
  const lacking = Math.min(30, longestDecoded(machine) + 2.4) - itemAt(widths, looking);
  if (total < ROOM && lacking > 0) widths[looking] = itemAt(widths, looking) + Math.min(lacking, ROOM - total);
  const rows = Math.max(
    2,
    ...forms.flatMap((each) => phases.map((_, phase) => each.schedule.filter((tick) => tick.phase === phase).length)),
  );
  // Where all have room they keep their width and the last takes the rest; else they share, and long ticks break.
  const fits = total <= ROOM;
  const columns = widths
    .map((each, phase) => (fits ? (phase === phases.length - 1 ? '1fr' : `${each}ch`) : `minmax(0, ${each}fr)`))
    .join(' ');
  const decoded = 1 + Math.max(0, ...forms.map((each) => each.operands.length));
  return { columns, height: HEIGHT + Math.max(Math.min(rows, MOST_ROWS) * ROW, decoded * 21 + 4), shared: !fits };
}

/** While tokens travel, the tick under way is the filled one. */
const under = (tick: PhaseTick, step: number): PhaseTick => ({
  ...tick,
  state: tick.step === step ? 'last' : tick.step < step ? 'done' : tick.step === step + 1 ? 'coming' : 'later',
});

function TickLine({ tick, decoded, allFlags }: { tick: PhaseTick; decoded: readonly string[]; allFlags: number }) {
  const [transfers, flags] = tick.text.split(/\s*;\s*flags\s+/);
  const named = flags?.trim().split(/\s+/) ?? [];
  const words = tick.part === 'decode' ? (decoded.length > 0 ? decoded : ['look it up']) : [short(transfers!)];
  const look = tick.part === 'decode';
  const free = !look && (tick.text.length > LONG || !tick.text.includes('<-'));
  return (
    <li
      title={tick.text || undefined}
      className={free ? `${tick.state} free` : look ? `${tick.state} look` : tick.state}
      aria-current={tick.state === 'last' ? 'step' : undefined}
      data-step={tick.step}
    >
      <span className="number">{tick.step}</span>
      <span className="text">
        {words.map((each) => (
          <span key={each} className="line">
            {each}
          </span>
        ))}
      </span>
      {flags && (
        <span className="flags" title={`sets the flags ${flags}`}>
          <Flag size={12} aria-label="sets flags" fill="currentColor" /> {named.length === allFlags ? 'all' : named.join('')}
        </span>
      )}
    </li>
  );
}

/** A proper arrow, and no break around it while the whole is short. */
const short = (text: string): string =>
  text.length > LONG
    ? text.replaceAll(/\s*<-\s*/g, ' ← ')
    : text.replaceAll(/\s*<-\s*/g, '\u2060←\u2060').replaceAll(/ ([-+]) /g, '\u2060$1\u2060');
const LONG = 30;
