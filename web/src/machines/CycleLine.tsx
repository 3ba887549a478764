/** The cycle of every instruction on a line: the phases, and in each what is done there. */
import { chakra, Flex } from '@chakra-ui/react';
import { Hint } from '../ui/Panel';
import { textAt, useDefined } from './defining';
import { Card } from './Card';

const Stage = chakra('li', {
  base: {
    flex: '1',
    minWidth: '0',
    borderTop: '5px solid',
    borderColor: 'wire',
    bg: 'sand',
    px: '8px',
    py: '5px',
    fontSize: '13px',
    '& pre': { fontFamily: 'mono', fontSize: '12.5px', lineHeight: '18px', whiteSpace: 'pre-wrap' },
    '& + &': { borderLeft: '2px solid', borderLeftColor: 'paper' },
  },
});

const STAGES = [
  { key: 'first', says: 'first cell', none: 'brings nothing yet' },
  { key: 'decode', says: 'decode', none: 'looks the cell up' },
  { key: 'more', says: 'further cells', none: '' },
  { key: 'execute', says: 'the instruction’s own', none: 'as each says' },
  { key: 'finish', says: 'at the end', none: '' },
] as const;

export function CycleLine() {
  const document = useDefined((state) => state.look?.document);
  const shown = STAGES.filter(({ key, none }) => none !== '' || textAt(document, ['cycle', key, 'ticks']) !== '');
  return (
    <Card>
      <Flex as="ol" listStyleType="none" aria-label="The cycle">
        {shown.map(({ key, says, none }) => {
          const ticks = textAt(document, ['cycle', key, 'ticks']).trimEnd();
          return (
            <Stage key={key}>
              <b>{textAt(document, ['cycle', key, 'phase'])}</b> <Hint>{says}</Hint>
              {ticks === '' ? <Hint as="p">{none}</Hint> : <pre>{ticks.replaceAll('<-', '←')}</pre>}
            </Stage>
          );
        })}
      </Flex>
    </Card>
  );
}
