/**
 * Colours, type and the dress of every control, as Chakra tokens and recipes: a nautical chart by day and by night. Only
 * the recipes of controls that the screens use are here.
 */
import { createSystem, defaultBaseConfig, defineConfig, defineRecipe, defineSlotRecipe } from '@chakra-ui/react';
import { tokens } from '@chakra-ui/react/theme';

const role = (light: string, dark: string) => ({ value: { _light: light, _dark: dark } });

const colors = {
  ink: role('#12263A', '#E6EEF3'),
  ink2: role('#4A5D70', '#B4C3CF'),
  ink3: role('#52667A', '#A3B4C2'),
  paper: role('#FFFFFF', '#16283A'),
  sea: role('#EEF4F7', '#0E1C2A'),
  sea2: role('#DCE9F0', '#20374B'),
  line: role('#C3D3DD', '#38526A'),
  edge: role('#7E93A5', '#7E97AB'),
  sand: role('#FBF3DC', '#2A2A1E'),
  sand2: role('#F0E2B8', '#4A4526'),
  sandline: role('#D9C58A', '#8C7D45'),
  wire: role('#9A8136', '#A5945A'),
  address: role('#0A6E7C', '#5CC5D3'),
  addressPale: role('#D7ECEF', '#123C44'),
  data: role('#A34505', '#F2A065'),
  dataPale: role('#FBE3D2', '#4A2B15'),
  now: role('#A2216B', '#F08CC0'),
  nowPale: role('#F9E6F0', '#45203A'),
  problem: role('#B3261E', '#FF9B92'),
  problemPale: role('#FBE5E3', '#4A1D1A'),
  moss: role('#2F6B3A', '#86C796'),
  mossPale: role('#DCEBDC', '#1F3D2A'),
  plum: role('#6A3F8F', '#C3A0E2'),
  plumPale: role('#EADFF3', '#37264A'),
  ok: role('#276A42', '#7FCB9C'),
  bar: role('#12263A', '#081420'),
  barRaised: role('#1E3A56', '#1E3A56'),
  barHover: role('#2C5077', '#2C5077'),
  barDim: role('#7F93A6', '#7F93A6'),
  barKey: role('#9FB6CA', '#9FB6CA'),
  barMark: role('#E58CBB', '#E58CBB'),
  onBar: role('#FFFFFF', '#FFFFFF'),
  onBar2: role('#B9C9D6', '#B9C9D6'),
  onTone: role('#FFFFFF', '#10202E'),
  wakeFirst: role('#8FB0C2', '#8FB0C2'),
  wakeSecond: role('#DCE9F0', '#DCE9F0'),
  wakeEdge: role('#54788E', '#54788E'),
  go: role('#FFFFFF', '#FFFFFF'),
  goHover: role('#F9E6F0', '#F9E6F0'),
  onGo: role('#12263A', '#12263A'),
  focus: role('#A2216B', '#F08CC0'),
};

const button = defineRecipe({
  base: {
    display: 'inline-flex',
    alignItems: 'center',
    gap: '5px',
    fontSize: '13px',
    whiteSpace: 'nowrap',
    cursor: 'pointer',
    flexShrink: '0',
    _disabled: { cursor: 'not-allowed', opacity: '0.55' },
  },
  variants: {
    variant: {
      plain: {
        border: '1px solid',
        borderColor: 'edge',
        borderRadius: '6px',
        px: '10px',
        py: '2px',
        lineHeight: '1.4',
        _hover: { bg: 'sea2' },
        '&[aria-pressed=true]': { bg: 'sea2' },
      },
      strong: {
        bg: 'ink',
        color: 'paper',
        borderRadius: '6px',
        px: '10px',
        py: '4px',
        fontWeight: '650',
        '&:hover:not(:disabled)': { bg: 'now', color: 'onTone' },
        '&[data-due]': { outline: '2px solid', outlineColor: 'now' },
      },
      tone: { bg: 'now', color: 'onTone', borderRadius: '6px', px: '10px', py: '3px', fontWeight: '650' },
      danger: { border: '1px solid', borderColor: 'problem', color: 'problem', borderRadius: '6px', px: '10px', py: '2px' },
      /** In the bar at the top. */
      bar: {
        bg: 'barRaised',
        color: 'onBar',
        height: '32px',
        px: '9px',
        '&:hover:not(:disabled)': { bg: 'barHover' },
        _disabled: { color: 'barDim', opacity: '1' },
        '& kbd': { color: 'barKey', fontFamily: 'mono', hideBelow: '2xl' },
      },
      go: {
        bg: 'go',
        color: 'onGo',
        height: '32px',
        px: '9px',
        minWidth: '74px',
        justifyContent: 'center',
        fontWeight: '700',
        '&:hover:not(:disabled)': { bg: 'goHover' },
      },
      barIcon: {
        color: 'onBar2',
        minWidth: '28px',
        height: '30px',
        px: '4px',
        justifyContent: 'center',
        borderRadius: '6px',
        fontWeight: '700',
        _hover: { bg: 'barRaised', color: 'onBar' },
      },
      barLine: { color: 'onBar', border: '1px solid', borderColor: 'onBar2', borderRadius: '6px', px: '10px', py: '3px' },
      /** Words that lead somewhere. */
      link: {
        color: 'address',
        textDecoration: 'underline',
        textUnderlineOffset: '3px',
        px: '4px',
        borderRadius: '4px',
        _hover: { bg: 'sea2' },
      },
      /** Whatever it holds, to be pressed. */
      bare: { font: 'inherit', color: 'inherit', textAlign: 'left', _hover: { textDecoration: 'underline' } },
      row: {
        display: 'flex',
        width: '100%',
        whiteSpace: 'normal',
        textAlign: 'left',
        alignItems: 'flex-start',
        gap: '7px',
        px: '2px',
        py: '3px',
        borderRadius: '5px',
        _hover: { bg: 'sea' },
      },
      tag: {
        border: '1px solid',
        borderColor: 'line',
        bg: 'paper',
        borderRadius: '6px',
        px: '7px',
        py: '1px',
        _hover: { bg: 'sea2', borderColor: 'edge' },
        '&[aria-pressed=true]': { bg: 'ink', color: 'paper' },
      },
    },
  },
  defaultVariants: { variant: 'plain' },
});

const field = {
  border: '1px solid',
  borderColor: 'edge',
  borderRadius: '5px',
  px: '7px',
  py: '2px',
  fontSize: '13px',
  bg: 'paper',
  color: 'ink',
  lineHeight: '1.4',
  '&[aria-invalid=true]': { borderColor: 'problem', outline: '1px solid', outlineColor: 'problem' },
  _placeholder: { color: 'ink3', opacity: '1' },
};

const input = defineRecipe({
  base: field,
  variants: {
    size: {
      word: { width: '84px', fontFamily: 'mono' },
      count: { width: '58px', fontFamily: 'mono' },
      value: { width: '120px', fontFamily: 'mono' },
      wide: { width: '100%' },
      line: { width: '100%', fontFamily: 'mono' },
      free: {},
    },
    variant: { plain: {}, bar: { bg: 'barRaised', color: 'onBar', border: '0', borderRadius: '6px', height: '30px', px: '6px' } },
  },
  defaultVariants: { size: 'free', variant: 'plain' },
});

const textarea = defineRecipe({ base: { ...field, width: '100%', my: '6px', fontFamily: 'mono', resize: 'vertical' } });

const nativeSelect = defineSlotRecipe({
  slots: ['root', 'field', 'indicator'],
  base: {
    root: { display: 'inline-flex', position: 'relative', minWidth: '0', alignItems: 'center' },
    field: { ...field, appearance: 'none', width: '100%', paddingInlineEnd: '22px', textOverflow: 'ellipsis', cursor: 'pointer' },
    indicator: {
      position: 'absolute',
      insetInlineEnd: '5px',
      pointerEvents: 'none',
      display: 'inline-flex',
      '& svg': { width: '13px', height: '13px' },
    },
  },
  variants: {
    variant: {
      plain: {},
      head: { field: { fontWeight: '650', borderColor: 'line', borderRadius: '6px', maxWidth: '132px' } },
      bar: {
        root: { color: 'onBar' },
        field: { bg: 'barRaised', color: 'onBar', border: '0', borderRadius: '6px', height: '30px', maxWidth: '132px', fontWeight: '600' },
      },
      barEnd: {
        root: { color: 'onBar' },
        field: { bg: 'barRaised', color: 'onBar', border: '0', borderRadius: '0 6px 6px 0', height: '32px', maxWidth: '132px' },
      },
    },
  },
  defaultVariants: { variant: 'plain' },
});

const checkbox = defineSlotRecipe({
  slots: ['root', 'label', 'control', 'indicator', 'group'],
  base: {
    root: { display: 'inline-flex', gap: '7px', alignItems: 'flex-start', cursor: 'pointer', position: 'relative' },
    label: { flex: '1', userSelect: 'none' },
    control: {
      display: 'inline-flex',
      alignItems: 'center',
      justifyContent: 'center',
      flexShrink: '0',
      width: '15px',
      height: '15px',
      mt: '2px',
      border: '1.5px solid',
      borderColor: 'edge',
      borderRadius: '3px',
      bg: 'paper',
      color: 'paper',
      '&[data-state=checked]': { bg: 'ink', borderColor: 'ink' },
      '&[data-focus-visible]': { outline: '3px solid', outlineColor: 'focus', outlineOffset: '1px' },
      '& svg': { width: '12px', height: '12px', strokeWidth: '4px' },
    },
  },
});

const tabs = defineSlotRecipe({
  slots: ['root', 'list', 'trigger', 'content', 'contentGroup', 'indicator'],
  base: {
    root: { display: 'flex', flexDirection: 'column', minHeight: '0', flex: '1' },
    list: { display: 'flex', flexWrap: 'wrap', bg: 'sea', flexShrink: '0', px: '2px' },
    trigger: {
      px: '5px',
      pt: '6px',
      pb: '5px',
      fontSize: '13px',
      color: 'ink2',
      cursor: 'pointer',
      borderBottom: '3px solid transparent',
      _selected: { color: 'ink', fontWeight: '700', borderColor: 'now' },
    },
    content: { flex: '1', minHeight: '0', overflow: 'auto', px: '12px', pt: '8px', pb: '16px', fontSize: '13px' },
  },
});

const segmentGroup = defineSlotRecipe({
  slots: ['root', 'label', 'item', 'itemText', 'itemControl', 'indicator'],
  base: {
    root: {
      display: 'inline-flex',
      flexShrink: '0',
      border: '1px solid',
      borderColor: 'line',
      borderRadius: '6px',
      overflow: 'hidden',
      bg: 'paper',
    },
    item: {
      px: '8px',
      py: '1px',
      fontSize: '13px',
      cursor: 'pointer',
      '&[data-state=checked]': { bg: 'ink', color: 'paper', fontWeight: '650' },
      '&:has(input:focus-visible)': { outline: '3px solid', outlineColor: 'focus', outlineOffset: '-3px' },
    },
  },
});

const table = defineSlotRecipe({
  slots: ['root', 'header', 'body', 'row', 'columnHeader', 'cell', 'footer', 'caption'],
  base: {
    root: { width: '100%', borderCollapse: 'collapse', fontSize: '13px' },
    columnHeader: { textAlign: 'left', fontWeight: '400', color: 'ink3', px: '6px', py: '2px', verticalAlign: 'baseline' },
    cell: { textAlign: 'left', fontWeight: '400', px: '6px', py: '2px', verticalAlign: 'baseline' },
    caption: { captionSide: 'top', textAlign: 'left', fontWeight: '700', fontSize: '14px', color: 'ink2' },
  },
  variants: {
    variant: {
      plain: {},
      lined: { row: { borderBottom: '1px solid', borderColor: 'line' } },
    },
  },
  defaultVariants: { variant: 'plain' },
});

const splitter = defineSlotRecipe({
  slots: ['root', 'panel', 'resizeTrigger', 'resizeTriggerIndicator', 'resizeTriggerSeparator'],
  base: {
    root: { width: '100%', height: '100%' },
    // What changes in one panel lays no other out anew.
    panel: { minWidth: '0', minHeight: '0', overflow: 'hidden', contain: 'layout paint style' },
    resizeTrigger: {
      position: 'relative',
      flexShrink: '0',
      bg: 'line',
      zIndex: '1',
      _horizontal: { width: '5px', cursor: 'col-resize' },
      _vertical: { height: '5px', cursor: 'row-resize' },
      _hover: { bg: 'edge' },
      _focusVisible: { bg: 'focus', outline: '0' },
      '&[data-dragging]': { bg: 'data' },
    },
  },
});

const collapsible = defineSlotRecipe({
  slots: ['root', 'trigger', 'content', 'indicator'],
  base: {
    root: { width: '100%' },
    trigger: {
      display: 'inline-flex',
      alignItems: 'center',
      gap: '5px',
      cursor: 'pointer',
      textAlign: 'left',
      '& svg': { width: '13px', height: '13px', flexShrink: '0', transition: 'transform 0.1s' },
      '&[data-state=open] svg': { transform: 'rotate(90deg)' },
    },
    content: { overflow: 'hidden' },
  },
});

const surface = { bg: 'paper', color: 'ink', border: '1px solid', borderColor: 'line', borderRadius: '8px', outline: '0' };

const dialog = defineSlotRecipe({
  slots: ['trigger', 'backdrop', 'positioner', 'content', 'title', 'description', 'closeTrigger', 'header', 'body', 'footer'],
  base: {
    backdrop: { position: 'fixed', inset: '0', bg: 'rgb(8 20 32 / 55%)', zIndex: 'modal' },
    positioner: {
      position: 'fixed',
      inset: '0',
      display: 'flex',
      alignItems: 'flex-start',
      justifyContent: 'center',
      pt: '8vh',
      zIndex: 'modal',
      overflow: 'auto',
    },
    content: { ...surface, width: 'calc(100% - 32px)', maxWidth: '460px', mb: '8vh', fontSize: '14px' },
    header: { px: '20px', pt: '16px', pb: '8px' },
    title: { fontSize: '17px', fontWeight: '700' },
    body: { px: '20px', py: '4px' },
    footer: { display: 'flex', justifyContent: 'flex-end', gap: '8px', px: '20px', pt: '10px', pb: '16px' },
  },
  variants: { size: { usual: {}, wide: { content: { maxWidth: '1080px' } } } },
  defaultVariants: { size: 'usual' },
});

const popover = defineSlotRecipe({
  slots: [
    'arrow',
    'arrowTip',
    'anchor',
    'trigger',
    'indicator',
    'positioner',
    'content',
    'title',
    'description',
    'closeTrigger',
    'header',
    'body',
    'footer',
  ],
  base: {
    content: {
      ...surface,
      display: 'flex',
      flexDirection: 'column',
      gap: '6px',
      p: '12px',
      fontSize: '15px',
      zIndex: 'popover',
      boxShadow: '0 6px 20px rgb(0 0 0 / 25%)',
    },
    title: { fontWeight: '700' },
  },
});

const menu = defineSlotRecipe({
  slots: [
    'arrow',
    'arrowTip',
    'content',
    'contextTrigger',
    'indicator',
    'item',
    'itemGroup',
    'itemGroupLabel',
    'itemIndicator',
    'itemText',
    'positioner',
    'separator',
    'trigger',
    'triggerItem',
    'itemCommand',
  ],
  base: {
    content: { ...surface, py: '4px', minWidth: '180px', fontSize: '14px', zIndex: 'dropdown', boxShadow: '0 6px 20px rgb(0 0 0 / 25%)' },
    item: { px: '12px', py: '5px', cursor: 'pointer', _highlighted: { bg: 'sea2' }, _disabled: { color: 'ink3', cursor: 'not-allowed' } },
  },
});

const tooltip = defineSlotRecipe({
  slots: ['trigger', 'arrow', 'arrowTip', 'positioner', 'content'],
  base: {
    content: {
      bg: 'ink',
      color: 'paper',
      borderRadius: '5px',
      px: '8px',
      py: '3px',
      fontSize: '13px',
      maxWidth: '320px',
      zIndex: 'tooltip',
    },
  },
});

const emptyState = defineSlotRecipe({
  slots: ['root', 'content', 'indicator', 'title', 'description'],
  base: {
    root: { width: '100%' },
    content: { display: 'flex', flexDirection: 'column', gap: '6px', alignItems: 'flex-start', color: 'ink2' },
    title: { fontWeight: '700', color: 'ink' },
    description: { fontSize: '13px', color: 'ink3' },
  },
});

const config = defineConfig({
  cssVarsPrefix: 'z',
  preflight: true,
  // A rule that comes into a layer has the whole page's styles worked out anew.
  disableLayers: true,
  globalCss: {
    'html, body, #root': { height: '100%' },
    body: { bg: 'sea', color: 'ink', fontFamily: 'body', fontSize: '14px', lineHeight: '1.35', overflow: 'hidden' },
    kbd: { fontFamily: 'mono' },
    '.plain-button': { font: 'inherit', color: 'inherit', textAlign: 'left', cursor: 'pointer', _hover: { textDecoration: 'underline' } },
    // Everything grows with the room: the screens, and what opens over them.
    '.room, :is([data-scope=dialog], [data-scope=menu], [data-scope=popover], [data-scope=tooltip])[data-part=content]': {
      zoom: 'var(--room, 1)',
      '@media print': { zoom: '1' },
    },
    // A list or a sheet that is open is printed by itself.
    'body:has(.unprinted)': {
      '@media print': {
        height: 'auto',
        overflow: 'visible',
        // Styles of components come later than these.
        '& #root, & [data-part=backdrop], & .unprinted, & .window-foot': { display: 'none !important' },
        '& [data-scope=dialog][data-part=positioner]': {
          position: 'static !important',
          padding: '0 !important',
          overflow: 'visible !important',
        },
        '& [data-scope=dialog][data-part=content]': { border: '0 !important', width: '100% !important', maxWidth: '100% !important' },
      },
    },
    '*:focus-visible': { outline: '3px solid', outlineColor: 'focus', outlineOffset: '1px' },
    '*': {
      '@media (prefers-reduced-motion: reduce)': {
        transition: 'none !important',
        animation: 'none !important',
        scrollBehavior: 'auto !important',
      },
    },
  },
  theme: {
    breakpoints: { xl: '1181px', '2xl': '1501px' },
    tokens: {
      ...{ spacing: tokens.spacing, sizes: tokens.sizes, zIndex: tokens.zIndex },
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif" },
        heading: { value: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif" },
        mono: { value: "'Atkinson Hyperlegible Mono Variable', ui-monospace, monospace" },
      },
    },
    semanticTokens: { colors },
    recipes: { button, input, textarea },
    slotRecipes: {
      ...{ nativeSelect, checkbox, tabs, segmentGroup, table, collapsible, splitter },
      ...{ dialog, popover, menu, tooltip, emptyState },
    },
  },
});

export const system = createSystem(defaultBaseConfig, config);
