/** A card of the page on which a part is edited: a heading with what belongs to all of it, and what it holds. */
import { chakra } from '@chakra-ui/react';

export const Card = chakra('section', {
  base: {
    bg: 'paper',
    border: '1px solid',
    borderColor: 'line',
    borderRadius: '7px',
    px: '14px',
    py: '10px',
    mb: '10px',
    '& > header': { display: 'flex', gap: '10px', alignItems: 'baseline', mb: '6px', flexWrap: 'wrap' },
    '& > header h3': { fontSize: '14px', fontWeight: '700', color: 'ink2' },
    '& > header > :last-child:not(h3)': { marginInlineStart: 'auto' },
  },
});
