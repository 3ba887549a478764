/** What the tick just done did, in words, and what the next one will do. */
import { chakra } from '@chakra-ui/react';
import type { Segment } from '@zettak/core/engine/tell/narrate';
import { useView } from './run';

const Words = chakra('div', {
  base: {
    flexShrink: '0',
    minHeight: '84px',
    '& p': { fontSize: '18px', lineHeight: '24px' },
    '@container (min-width: 480px)': { '& p': { fontSize: '20px', lineHeight: '27px' } },
    '& .fault': { color: 'problem' },
    '& .piece': { fontWeight: '700' },
    '& :is(.data, .address)': { fontFamily: 'mono', borderRadius: '4px', px: '5px', color: 'onTone', bg: 'data' },
    '& .address': { bg: 'address', borderRadius: '4px 12px 12px 4px', paddingInlineEnd: '9px' },
    '& .coming': { fontSize: '16px', lineHeight: '21px', color: 'ink2' },
    '& .coming :is(.data, .address)': { bg: 'transparent', px: '0', color: 'data' },
    '& .coming .address': { color: 'address' },
  },
});

/** Its frame stays as it is from view to view. */
export function Sentence() {
  return (
    <Words>
      <Sentences />
    </Words>
  );
}

function Sentences() {
  const { lastSentence, comingSentence, status, sentence } = useView();
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

const Segments = ({ list }: { list: readonly Segment[] }) =>
  list.map(({ kind, text }, at) => (
    <span key={at} className={kind === 'text' ? undefined : `piece ${kind}`}>
      {text}
    </span>
  ));
