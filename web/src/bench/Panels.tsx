/** The panels of the bench and the edges between them: source and console, tools for writing, the ticks, the state; the dock at the foot. */
import { Box } from '@chakra-ui/react';
import { useSyncExternalStore } from 'react';
import { Boundary } from '../ui/Boundary';
import { Split, type SplitPanel } from '../ui/Split';
import { Console } from './Console';
import { Dock } from './dock/Dock';
import { setColumns, setDockHeight, setProgramHeights, useLayout } from './layout';
import { useLooks, WAKE } from './looks';
import { ProgramPanel } from './ProgramPanel';
import { Projector } from './Projector';
import { StatePanel } from './state/StatePanel';
import { TickPanel } from './TickPanel';
import { WritePanel } from './writeTools/WritePanel';

const SOURCE: SplitPanel = { id: 'source', says: 'program and console', least: '230px', folded: '0px' };
const TOOLS: SplitPanel = { id: 'tools', says: 'tools for writing', least: '220px' };
const TICKS: SplitPanel = { id: 'ticks', says: 'ticks and drawing', least: '260px' };
const STATE: SplitPanel = { id: 'state', says: 'memory, registers and flags', least: '220px', folded: '0px' };

const ROWS: readonly SplitPanel[] = [
  { id: 'bench', says: 'the bench', least: '240px' },
  { id: 'foot', says: 'its foot', least: '33px' },
];
const PROGRAM: readonly SplitPanel[] = [
  { id: 'text', says: 'the program', least: '120px' },
  { id: 'console', says: 'the console', least: '33px' },
];

/** Below this width there is no room for the state beside tools for writing. */
const NARROW = window.matchMedia('(max-width: 1180px)');
const listen = (told: () => void): (() => void) => {
  NARROW.addEventListener('change', told);
  return () => NARROW.removeEventListener('change', told);
};

export function Panels() {
  const projecting = useLooks((state) => state.projecting);
  return projecting ? <Projector /> : <Working />;
}

function Working() {
  const wake = useLooks((state) => state.dock === WAKE);
  const folded = useLayout((state) => state.folded);
  const height = useLayout((state) => (wake ? state.wake : state.tool));
  const change = ([, foot = 0]: readonly number[]): void => {
    if (!folded) setDockHeight(wake ? 'wake' : 'tool', foot);
  };
  return (
    <Box flex="1" minHeight="0">
      <Split way="vertical" panels={ROWS} sizes={folded ? [95.6, 4.4] : [100 - height, height]} change={change}>
        <Columns />
        <Boundary what="The foot of the bench">
          <Dock />
        </Boundary>
      </Split>
    </Box>
  );
}

function Columns() {
  const writing = useLooks((state) => state.writing);
  const narrow = useSyncExternalStore(listen, () => NARROW.matches);
  const sizes = useLayout((state) => (writing ? state.writing : state.watching));
  const panels = writing ? [SOURCE, TOOLS, TICKS, STATE] : [SOURCE, TICKS, STATE];
  // The state gives way where there is no room; the drawing never does.
  const shown = writing && narrow ? panels.slice(0, 3) : panels;
  const total = sizes.slice(0, shown.length).reduce((sum, each) => sum + each, 0);
  const change = (list: readonly number[]): void => {
    if (shown.length === sizes.length) setColumns(writing ? 'writing' : 'watching', list);
  };
  return (
    <Split
      key={shown.length}
      way="horizontal"
      panels={shown}
      sizes={sizes.slice(0, shown.length).map((each) => (each * 100) / total)}
      change={change}
    >
      <Source />
      {writing && (
        <Boundary what="This tool">
          <WritePanel />
        </Boundary>
      )}
      <Boundary what="The drawing">
        <TickPanel />
      </Boundary>
      {shown.includes(STATE) && (
        <Boundary what="The state of the machine">
          <StatePanel />
        </Boundary>
      )}
    </Split>
  );
}

function Source() {
  const sizes = useLayout((state) => state.program);
  return (
    <Split way="vertical" panels={PROGRAM} sizes={sizes} change={setProgramHeights}>
      <Boundary what="The program">
        <ProgramPanel />
      </Boundary>
      <Boundary what="The console">
        <Console />
      </Boundary>
    </Split>
  );
}
