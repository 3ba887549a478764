/** The wake: the run so far, instruction by instruction and tick by tick. A click travels there. */
import { Box, chakra } from '@chakra-ui/react';
import { Fragment, memo, useEffect, useRef } from 'react';
import { isRunning, type WakeEntry } from '@zettak/core/session/protocol';
import { Button, PlainButton } from '../../ui/Button';
import { followAcross } from '../../ui/follow';
import { Hint } from '../../ui/Panel';
import { useDocument } from '../document';
import { useLooks } from '../looks';
import { SoFar } from './SoFar';
import { SoFarList } from './SoFarList';
import { routineOf } from '@zettak/core/image/program';
import { travel, useRun } from '../run';
import { itemAt } from '@zettak/core/text/itemAt';

const Strip = chakra('div', {
  base: {
    display: 'flex',
    gap: '14px',
    alignItems: 'stretch',
    overflowX: 'auto',
    height: '100%',
    px: '16px',
    pt: '2px',
    '& > *': { flexShrink: '0' },
    '& :is(.instruction, .upcoming)': { display: 'flex', flexDirection: 'column', gap: '1px', minWidth: '84px' },
    '& :is(.name, .upcoming b)': { fontFamily: 'mono', fontWeight: '650', fontSize: '14px', lineHeight: '18px', whiteSpace: 'nowrap' },
    '& .ticks': { display: 'flex', gap: '3px' },
    '& .ticks button': {
      width: '17px',
      height: '19px',
      borderRadius: '2px',
      cursor: 'pointer',
      border: '1.5px solid',
      bg: 'wakeFirst',
      borderColor: 'wakeEdge',
      _hover: { outline: '2px solid', outlineColor: 'now' },
    },
    '& .ticks .phase1': { bg: 'wakeSecond' },
    '& .ticks .phase2': { bg: 'ink', borderColor: 'ink' },
    '& .ticks .ahead': { bg: 'transparent', borderStyle: 'dashed', borderColor: 'edge' },
    '& .ticks .present': { bg: 'now', borderColor: 'now' },
    '& .outcome': { fontFamily: 'mono', fontSize: '14px', lineHeight: '17px', whiteSpace: 'nowrap' },
    '& .printed': { fontFamily: 'mono', fontSize: '13px', color: 'data' },
    '& .counts': { fontSize: '13px', lineHeight: '15px', color: 'ink3', whiteSpace: 'nowrap' },
    '& .ahead :is(.name, .outcome)': { color: 'ink3' },
    '& .here': { width: '3px', bg: 'now', borderRadius: '2px' },
    '& .border': {
      borderLeft: '2px solid',
      borderColor: 'ink3',
      ps: '5px',
      pe: '4px',
      fontSize: '13px',
      fontWeight: '650',
      color: 'ink2',
      whiteSpace: 'nowrap',
    },
    '& .upcoming b': { color: 'ink2', fontWeight: '400' },
    '& .upcoming span': { height: '19px', border: '1.5px dashed', borderColor: 'edge', borderRadius: '3px', minWidth: '96px' },
  },
});

/** Shows the instructions that the engine remembers around the present one. */
export function Wake() {
  const list = useLooks((state) => state.listed);
  return (
    <Box as="section" className="wake" aria-label="The run so far" data-testid="wake" height="100%" display="flex" flexDirection="column">
      <Box flex="1" minHeight="0">
        {list ? <SoFarList /> : <Run />}
      </Box>
      <SoFar />
    </Box>
  );
}

const NO_PHASES: readonly string[] = [];

/** The strip stays as it is from view to view; what stands in it follows the run. */
function Run() {
  const present = useRef<HTMLSpanElement>(null);
  const strip = useRef<HTMLDivElement>(null);
  return (
    <Strip tabIndex={-1} ref={strip}>
      <Entries {...{ strip, present }} />
    </Strip>
  );
}

type Place<T> = React.RefObject<T | null>;

function Entries({ strip, present }: { strip: Place<HTMLDivElement>; present: Place<HTMLSpanElement> }) {
  const wake = useRun((state) => state.marked?.wake);
  const ticks = useRun((state) => state.marked?.ticks ?? 0);
  const upcoming = useRun((state) => state.marked?.upcoming);
  const running = useRun((state) => isRunning(state.marked?.status));
  const phases = useDocument((state) => state.machine?.phases) ?? NO_PHASES;
  const routines = useRun((state) => state.routines);
  useEffect(() => followAcross(strip.current, () => present.current), [ticks, wake, strip, present]);
  const empty = useRun((state) => (state.marked?.status ?? 'empty') === 'empty');
  const hint = empty
    ? 'The run will be written here, tick by tick.'
    : running
      ? 'Running too fast to be read; the ticks are shown when it pauses.'
      : 'Nothing has run yet. Press . for one tick, → for one instruction, space to run.';
  return (
    <>
      {(wake?.length ?? 0) === 0 && <Hint as="p">{hint}</Hint>}
      {(wake?.[0]?.from ?? 0) > 0 && (
        <Button alignSelf="center" data-bench onClick={() => travel(0)}>
          start
        </Button>
      )}
      {wake?.map((each, at) => {
        const routine = routineOf(routines, each.address);
        const enters = routine !== (at === 0 ? undefined : routineOf(routines, itemAt(wake, at - 1).address));
        const end = each.ticks.at(-1)?.tick ?? each.from;
        const here = ticks > each.from && ticks <= end;
        return (
          <Fragment key={each.from}>
            {enters && <span className="border">{routine ?? 'main'}</span>}
            <Instruction entry={each} {...{ phases, end }} {...{ here }} reached={Math.min(Math.max(ticks, each.from), end)} />
            {here && <span className="here" ref={present} />}
          </Fragment>
        );
      })}
      {wake && ticks === 0 && <span className="here" ref={present} />}
      {upcoming?.map((each, at) => (
        <div key={`${at}${each}`} className="upcoming">
          <b>{each}</b>
          <span />
        </div>
      ))}
    </>
  );
}

interface InstructionProps {
  readonly entry: WakeEntry;
  readonly phases: readonly string[];
  /** Its last tick; and how far in it the run stands: from before its first to that. */
  readonly end: number;
  readonly reached: number;
  /** It stands in it, or right behind it. */
  readonly here: boolean;
}

/** Views bring every instruction anew; one that shows the same is left alone. */
const sameInstruction = (one: InstructionProps, other: InstructionProps): boolean =>
  one.reached === other.reached &&
  one.here === other.here &&
  one.end === other.end &&
  one.phases === other.phases &&
  one.entry.text === other.entry.text &&
  one.entry.from === other.entry.from &&
  one.entry.outcome === other.entry.outcome &&
  one.entry.printed.join('\n') === other.entry.printed.join('\n');

const Instruction = memo(function Instruction({ entry, phases, end, reached, here }: InstructionProps) {
  const counts = phases
    .map((name, phase) => ({ name: name.toLowerCase(), count: entry.ticks.filter((each) => each.phase === phase).length }))
    .filter((each) => each.count > 0);
  return (
    <div className={reached === entry.from ? 'instruction ahead' : 'instruction'} data-from={entry.from}>
      <PlainButton className="name" data-bench onClick={() => travel(end)} title={`To the end of ${entry.text}`}>
        {entry.text}
      </PlainButton>
      <div className="ticks">
        {entry.ticks.map((each) => (
          <button
            key={each.tick}
            type="button"
            data-bench
            data-tick={each.tick}
            className={`phase${each.phase % 3}${here && each.tick === reached ? ' present' : ''}${each.tick > reached ? ' ahead' : ''}`}
            onClick={() => travel(each.tick)}
            aria-label={`To tick ${each.tick}: ${each.text}`}
            title={`Tick ${each.tick}: ${each.text}`}
          />
        ))}
      </div>
      <span className="outcome">{entry.outcome || '\u00a0'}</span>
      {entry.printed.map((each, at) => (
        <span key={at} className="printed">
          {each}
        </span>
      ))}
      <span className="counts">{counts.map((each) => `${each.name} ${each.count}`).join(', ')}</span>
    </div>
  );
}, sameInstruction);
