/** Beside a machine that is being defined: its opcode map and what is wrong with it, whichever face is open. */
import { Box, chakra } from '@chakra-ui/react';
import { memo, useLayoutEffect, useRef } from 'react';
import { ProblemList } from '../editor/ProblemList';
import { Button } from '../ui/Button';
import { Hint, looks } from '../ui/Panel';
import { useDefined, useDefinedSame, useDefining } from './defining';
import { OpcodeMap } from './OpcodeMap';

/** Its frame, and all that is dressed, stays as it is from key to key. */
const Frame = chakra('aside', {
  base: {
    ...{ display: 'flex', flexDirection: 'column', minHeight: '0', minWidth: '0', bg: 'paper' },
    '& .map': { flex: '1', minHeight: '0', overflow: 'auto' },
    '& .problems': { display: 'flex', flexDirection: 'column', maxHeight: '46%', flexShrink: '0' },
    '& .problems > header': { ...looks.head, borderTop: '1px solid', borderColor: 'line' },
    '& .problems h2': looks.title,
    '& .problems .hint': { ...looks.hint, ms: 'auto' },
    '& .problems p.hint': { px: '12px', py: '8px', ms: '0' },
    '& .list': { px: '10px', py: '4px', overflow: 'auto', flex: '1', minHeight: '0' },
  },
});

export const Findings = memo(function Findings() {
  const panel = useRef<HTMLElement>(null);
  return (
    <Frame aria-label="Opcode map and problems" data-testid="findings" aria-busy ref={panel}>
      <div className="map">
        <Codes />
      </div>
      <Problems />
      <Fresh of={panel} />
    </Frame>
  );
});

function Codes() {
  const sound = useDefined((state) => state.sound);
  const old = useDefined((state) => state.sound !== state.look);
  const machine = sound?.machine ?? sound?.clashing;
  return machine && <OpcodeMap machine={machine} old={old} />;
}

function Problems() {
  const defining = useDefining();
  const look = useDefined((state) => state.look);
  if (!look) return null;
  const { problems } = look;
  const errors = problems.filter((each) => each.grade === 'error').length;
  return (
    <div className="problems">
      <header>
        <h2>Problems</h2>
        <span className="hint" role="status" data-testid="problem-count">
          {problems.length === 0 ? 'none' : `${errors} ${errors === 1 ? 'error' : 'errors'}, ${problems.length - errors} other`}
        </span>
      </header>
      <div className="list" tabIndex={problems.length > 0 ? 0 : undefined}>
        <ProblemList
          problems={problems}
          editor={defining.editor}
          goTo={(at) => problems[at] && defining.goTo(problems[at])}
          testId="machine-problems"
        />
      </div>
      <BrokenExamples />
      {errors > 0 && <p className="hint">The bench keeps the last version without errors. This draft is kept too, errors and all.</p>}
    </div>
  );
}

/** Says of a panel whether what stands in it is of the newest text, without drawing it anew. */
function Fresh({ of }: { of: React.RefObject<HTMLElement | null> }) {
  const busy = useDefined((state) => state.typing || state.look?.text !== state.text);
  useLayoutEffect(() => of.current?.setAttribute('aria-busy', String(busy)), [of, busy]);
  return null;
}

/** Examples that no longer hold, wherever they are pinned. */
function BrokenExamples() {
  const defining = useDefining();
  const pinned = useDefinedSame((state) => state.sound?.pinned ?? []);
  const broken = pinned.filter((each) => !each.holds);
  if (pinned.length === 0) return null;
  return (
    <Box px="12px" py="6px" fontSize="13px" borderTop="1px solid" borderColor="line" data-testid="broken-examples">
      <Hint>{`${pinned.length} pinned ${pinned.length === 1 ? 'example' : 'examples'}, ${broken.length === 0 ? 'all hold' : `${broken.length} no longer ${broken.length === 1 ? 'holds' : 'hold'}`}`}</Hint>
      {broken.slice(0, 8).map((each) => (
        <Button
          key={`${each.mnemonic} ${each.form} ${each.at}`}
          look="row"
          onClick={() => defining.choose(['instructions', each.mnemonic], each.form)}
        >
          <span>
            <b>{each.mnemonic}</b> {each.says}
          </span>
        </Button>
      ))}
    </Box>
  );
}
