/** The middle of the bench: phases with the instruction's own ticks, and the sentence that a teacher reads aloud. */
import { Flag } from 'lucide-react';
import { useMemo } from 'react';
import type { Segment } from '@zettak/core/engine/tell/narrate';
import type { Machine } from '@zettak/core/machine/model/machine';
import { Datapath } from '../datapath/Datapath';
import type { PhaseTick } from '@zettak/core/session/protocol';
import { useDocument } from './document';
import { useRun } from './run';

export function TickPanel() {
  const machine = useDocument((state) => state.machine);
  const view = useRun((state) => state.view);
  const labels = useRun((state) => state.dataLabels);
  const motion = useRun((state) => state.motion);
  if (!machine) return <section className="panel middle" aria-label="Datapath" />;
  if (!view) return <Empty />;
  return (
    <section className="panel middle" aria-label="What happens">
      <Phases />
      <Sentence />
      <div className="drawing">
        <Datapath {...{ machine, view, labels }} moving={motion} />
      </div>
    </section>
  );
}

const Empty = () => (
  <section className="panel middle empty" aria-label="What happens">
    <p>
      The machine is empty. Mend what is marked in the program, then press <b>Assemble and load</b>.
    </p>
  </section>
);

function Phases() {
  const phases = useDocument((state) => state.machine!.phases);
  const ticks = useRun((state) => state.view!.phases);
  const decoded = useRun((state) => state.view!.decoded);
  const moving = useRun((state) => state.motion?.report);
  const shown = moving ? ticks.map((each) => under(each, moving.step)) : ticks;
  const machine = useDocument((state) => state.machine!);
  const room = useMemo(() => roomFor(machine), [machine]);
  const present = shown.find((each) => each.state === 'last')?.phase;
  return (
    <div
      className={room.shared ? 'phases shared' : 'phases'}
      data-testid="phases"
      style={{ gridTemplateColumns: room.columns, minHeight: room.height }}
    >
      {phases.map((name, phase) => (
        <div key={name} className={phase === present ? 'phase present' : 'phase'}>
          <h3>{name}</h3>
          <ol>
            {shown
              .filter((each) => each.phase === phase)
              .map((each) => (
                <TickLine key={each.step} tick={each} decoded={decoded} />
              ))}
          </ol>
        </div>
      ))}
    </div>
  );
}

/** Letters that stand side by side in the panel at its usual width. */
const ROOM = 60;
/** The last column breaks its ticks where it has fewer than they need, but has so many at least. */
const LAST = 16;

/** Columns as wide as their longest ticks ask for, and as high as the longest instruction, so that nothing jumps. */
function roomFor({ phases, forms }: Machine): { columns: string; height: number; shared: boolean } {
  const widths = phases.map((_, phase) => {
    const own = forms.flatMap((each) => each.schedule.filter((tick) => tick.phase === phase));
    const longest = Math.max(0, ...own.map(({ tick }) => short(tick.text.split(';')[0]!.trim()).replaceAll('\u2060', '').length));
    return Math.min(30, Math.max(12, longest) + 2.4);
  });
  const total = widths.slice(0, -1).reduce((sum, each) => sum + each, 0) + Math.min(LAST, widths.at(-1)!);
  const rows = Math.max(
    2,
    ...forms.flatMap((each) => phases.map((_, phase) => each.schedule.filter((tick) => tick.phase === phase).length)),
  );
  // Where all have room they keep their width and the last takes the rest; else they share, and long ticks break.
  const fits = total <= ROOM;
  const columns = widths
    .map((each, phase) => (fits ? (phase === phases.length - 1 ? '1fr' : `${each}ch`) : `minmax(0, ${each}fr)`))
    .join(' ');
  return { columns, height: 26 + Math.min(rows, 7) * 25, shared: !fits };
}

/** While tokens travel, the tick under way is the filled one. */
const under = (tick: PhaseTick, step: number): PhaseTick => ({
  ...tick,
  state: tick.step === step ? 'last' : tick.step < step ? 'done' : tick.step === step + 1 ? 'coming' : 'later',
});

function TickLine({ tick, decoded }: { tick: PhaseTick; decoded: readonly string[] }) {
  const all = useDocument((state) => state.machine!.flags.length);
  const [transfers, flags] = tick.text.split(/\s*;\s*flags\s+/);
  const named = flags?.trim().split(/\s+/) ?? [];
  const words = tick.part === 'decode' ? (decoded.length > 0 ? decoded : ['look it up']) : [short(transfers!)];
  return (
    <li
      title={tick.text || undefined}
      className={`${tick.state}${tick.part !== 'decode' && (tick.text.length > LONG || !tick.text.includes('<-')) ? ' free' : ''}`}
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
          <Flag size={12} aria-label="sets flags" fill="currentColor" /> {named.length === all ? 'all' : named.join('')}
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

function Sentence() {
  const sentence = useRun((state) => state.view!.lastSentence);
  const coming = useRun((state) => state.view!.comingSentence);
  const status = useRun((state) => state.view!.status);
  const stop = useRun((state) => state.view!.sentence);
  const loud = status === 'fault' || status === 'breakpoint';
  return (
    <div className="sentence">
      <p aria-live="polite" data-testid="sentence" className={status === 'fault' ? 'fault' : ''}>
        <Segments list={sentence} />
      </p>
      {coming.length > 0 && status !== 'running' && status !== 'fault' && (
        <p className="coming" data-testid="coming">
          <b>{loud ? stop : 'Next:'}</b> <Segments list={coming} />
        </p>
      )}
    </div>
  );
}

function Segments({ list }: { list: readonly Segment[] }) {
  return (
    <>
      {list.map(({ kind, text }, at) =>
        kind === 'text' ? (
          <span key={at}>{text}</span>
        ) : (
          <span key={at} className={`piece ${kind}`}>
            {text}
          </span>
        ),
      )}
    </>
  );
}
