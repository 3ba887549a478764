/** What the tick just done did, in words, and what the next one will do. */
import { chakra } from '@chakra-ui/react';
import type { Segment } from '@zettak/core/engine/tell/narrate';
import { spokenDigits } from '@zettak/core/text/spoken';
import { useDocument } from './document';
import { useTold } from './run';
import { useTelling } from './telling';
import { useKeptHeight } from '../ui/keptHeight';

const Words = chakra('div', {
  base: {
    flexShrink: '0',
    '& p': { fontSize: '18px', lineHeight: '24px' },
    '@container (min-width: 480px)': { '& p': { fontSize: '20px', lineHeight: '27px' } },
    '& .said': { fontSize: '15px', color: 'ink2' },
    '& .fault': { color: 'problem' },
    '& .piece': { fontWeight: '700' },
    '& :is(.data, .address)': { fontFamily: 'mono', borderRadius: '4px', px: '5px', color: 'onTone', bg: 'data' },
    '& .address': { bg: 'address', borderRadius: '4px 12px 12px 4px', paddingInlineEnd: '9px' },
    '& .coming': { fontSize: '16px', lineHeight: '21px', color: 'ink2' },
    '& .coming :is(.data, .address)': { bg: 'transparent', px: '0', color: 'data' },
    '& .coming .address': { color: 'address' },
  },
});

/** Its frame stays as it is from view to view: two lines and one of what comes, and a line more from where that was needed. */
export function Sentence() {
  const words = useKeptHeight<HTMLDivElement>(84, 104);
  return (
    <Words ref={words}>
      <Sentences />
    </Words>
  );
}

function Sentences() {
  const { lastSentence, comingSentence, status, sentence } = useTold();
  const loud = status === 'fault' || status === 'breakpoint';
  return (
    <>
      <p aria-live="polite" data-testid="sentence" className={status === 'fault' ? 'fault' : ''}>
        <Segments list={lastSentence} />
      </p>
      {comingSentence.length > 0 && status !== 'running' && status !== 'fault' && (
        <p className="coming" data-testid="coming">
          <b>{loud ? sentence : 'Next:'}</b> <Segments list={comingSentence} />
        </p>
      )}
    </>
  );
}

function Segments({ list }: { list: readonly Segment[] }) {
  const spoken = useTelling((state) => state.spoken);
  const machine = useDocument((state) => state.machine);
  return list.map(({ kind, text }, at) => {
    const value = kind === 'data' || kind === 'address';
    const said = value && machine ? spokenDigits(text, machine) : text;
    return (
      <span key={at}>
        <span className={kind === 'text' ? undefined : `piece ${kind}`} title={said === text ? undefined : said}>
          {text}
        </span>
        {spoken && said !== text && <small className="said"> {said}</small>}
      </span>
    );
  });
}
