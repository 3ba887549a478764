/** What screens are built of: panels with a head, headings, rows of controls, words of several weights. */
import { Box, chakra, type BoxProps } from '@chakra-ui/react';

/** A part of a screen with a name of its own. */
export function Panel({ label, ...props }: BoxProps & { readonly label: string }) {
  return <Box as="section" aria-label={label} display="flex" flexDirection="column" minHeight="0" minWidth="0" bg="paper" {...props} />;
}

/** How a panel's parts look, for frames that dress plain elements in them, which are drawn anew while somebody is typing. */
export const looks = {
  head: { display: 'flex', alignItems: 'center', gap: '8px', minHeight: '32px', px: '12px', bg: 'sea', flexShrink: '0' },
  title: { fontSize: '14px', fontWeight: '700', color: 'ink2' },
  hint: { color: 'ink3', fontSize: '13px' },
} as const;

/** The head of a panel: its title, and controls for all of it; the last of them stand at the right. */
export const PanelHead = chakra('header', { base: looks.head });

export const PanelTitle = chakra('h2', { base: looks.title });

/** A heading within a tool. */
export const Heading = chakra('h3', {
  base: { fontSize: '14px', fontWeight: '700', mt: '12px', mb: '5px', '&:first-child': { mt: '0' } },
});

/** Controls beside each other, as many as there is room for. */
export const Controls = chakra('div', {
  base: {
    display: 'flex',
    flexWrap: 'wrap',
    alignItems: 'center',
    columnGap: '12px',
    rowGap: '6px',
    fontSize: '13px',
    color: 'ink2',
    mt: '8px',
  },
});

/** Parts of a tool, as many beside each other as there is room for. */
export const Beside = chakra('div', {
  base: { display: 'grid', gridTemplateColumns: 'repeat(auto-fit, minmax(min(100%, 400px), 1fr))', columnGap: '28px', rowGap: '10px' },
});

/** Quiet words. */
export const Hint = chakra('span', { base: looks.hint });

/** Why something was not done. */
export const Refusal = chakra('p', { base: { color: 'problem', fontSize: '13px' } });

/** Text as it is, in letters of one width. */
export const Plain = chakra('pre', {
  base: { fontFamily: 'mono', fontSize: '13px', lineHeight: '18px', maxHeight: '300px', overflow: 'auto', px: '8px', pt: '4px', pb: '8px' },
});

export const Hidden = chakra('span', {
  base: { position: 'absolute', width: '1px', height: '1px', overflow: 'hidden', clipPath: 'inset(50%)', whiteSpace: 'nowrap' },
});

const SAID = { display: 'flex', gap: '12px', alignItems: 'center', px: '14px', py: '7px' } as const;

/** Across a screen: something to know, or to do, about all of it. */
export const Notice = chakra('div', {
  base: { ...SAID, borderBottom: '1px solid' },
  variants: {
    tone: { now: { bg: 'nowPale', borderColor: 'now' }, problem: { bg: 'problemPale', borderColor: 'problem' } },
  },
  defaultVariants: { tone: 'now' },
});

/** What an act has come to. It lies over the foot of the screen: whoever removes several things finds the next one under the mouse. */
export const Outcome = chakra('div', {
  base: {
    ...{ position: 'fixed', bottom: '14px', left: '50%', transform: 'translateX(-50%)', zIndex: 20, maxWidth: 'min(820px, 92vw)' },
    ...SAID,
    ...{ bg: 'nowPale', border: '1px solid', borderColor: 'now', borderRadius: '6px', boxShadow: '0 3px 12px #0004' },
  },
});

/** A list without marks. */
export const List = chakra('ul', { base: { listStyle: 'none' } });

/** One thing of a list, with what can be done with it beside it. */
export const Item = chakra('li', {
  base: { display: 'flex', flexWrap: 'wrap', alignItems: 'center', columnGap: '10px', rowGap: '4px', py: '3px', fontSize: '13px' },
  variants: { lined: { true: { borderBottom: '1px solid', borderColor: 'line' } } },
});

/** What somebody has asked for, in a frame of its own within a tool. */
export const Frame = chakra('div', { base: { my: '8px', border: '1px solid', borderColor: 'line', borderRadius: '6px' } });
export const FrameHead = chakra('header', {
  base: { display: 'flex', alignItems: 'center', gap: '6px', px: '8px', py: '4px', '& b': { flex: '1' } },
});

/** What a question was answered with. */
export const Answer = chakra('p', { base: { mt: '8px', fontSize: '15px', fontWeight: '600' } });

/** A part of a tool that stands apart from what is above it. */
export const Apart = chakra('div', { base: { mt: '12px', pt: '10px', borderTop: '1px solid', borderColor: 'line' } });
