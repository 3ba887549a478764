/** The foot of the bench: the run so far, and the tools for a run beside it as tabs. Nothing that is opened here takes the drawing's place. */
import { Box, Tabs } from '@chakra-ui/react';
import { ChevronDown, ChevronUp, PanelsTopLeft } from 'lucide-react';
import type { ComponentType } from 'react';
import { Button } from '../../ui/Button';
import { Panel } from '../../ui/Panel';
import { useDocument } from '../document';
import { setFolded, useLayout } from '../layout';
import { chooseDock, setLayingOut, useLooks, WAKE, WINDOWS } from '../looks';
import { CallsTab } from './CallsTab';
import { CountsTab } from './CountsTab';
import { DevicesTab } from './DevicesTab';
import { GiveTab } from './GiveTab';
import { MemoryTab } from '../memory/MemoryTab';
import { KeepTab } from './KeepTab';
import { NotesTab } from './NotesTab';
import { PastTab } from './PastTab';
import { RunLine } from './RunLine';
import { SayFirstTab } from './SayFirstTab';
import { StopsTab } from './StopsTab';
import { Wake } from './Wake';
import { WatchTab } from './WatchTab';

/** The foot is wide and low: what a tool has stands in columns, and nothing is torn apart. */
const inColumns = {
  '& > *': { columnWidth: '440px', columnGap: '28px' },
  '& :is(form, ul, ol, p, table)': { breakInside: 'avoid' },
  '& h3': { breakAfter: 'avoid' },
};

interface DockTab {
  readonly id: string;
  readonly says: string;
  readonly body: ComponentType;
  /** It takes all the room that there is, and scrolls by itself. */
  readonly whole?: boolean;
}

/** The first stands there until another is chosen. */
const TABS: readonly DockTab[] = [
  { id: WAKE, says: 'Run so far', body: Wake, whole: true },
  { id: 'stops', says: 'Stops', body: StopsTab },
  { id: 'watch', says: 'Watch', body: WatchTab },
  { id: 'give', says: 'Give', body: GiveTab },
  { id: WINDOWS, says: 'Memory', body: MemoryTab, whole: true },
  { id: 'say', says: 'Say first', body: SayFirstTab },
  { id: 'calls', says: 'Calls', body: CallsTab },
  { id: 'devices', says: 'Devices', body: DevicesTab },
  { id: 'past', says: 'Past', body: PastTab },
  { id: 'keep', says: 'Kept', body: KeepTab },
  { id: 'counts', says: 'Counts', body: CountsTab },
  { id: 'notes', says: 'Notes', body: NotesTab },
];

export function Dock() {
  const chosen = useLooks((state) => state.dock);
  const folded = useLayout((state) => state.folded);
  const program = useDocument((state) => state.program?.id);
  const present = TABS.find((each) => each.id === chosen) ?? TABS[0]!;
  const Body = present.body;
  return (
    <Panel label="Foot of the bench" height="100%" className="tools" data-testid="dock">
      <Tabs.Root value={present.id} onValueChange={({ value }) => chooseDock(value)} lazyMount unmountOnExit>
        <Box display="flex" bg="sea" borderBottom="1px solid" borderColor="line" minHeight="32px" flexShrink="0">
          <Tabs.List aria-label="What stands at the foot of the bench" flexShrink="0" flexWrap="nowrap">
            {TABS.map(({ id, says }) => (
              <Tabs.Trigger key={id} value={id} data-testid={`tool-${id}`} onClick={() => setFolded(false)}>
                {says}
              </Tabs.Trigger>
            ))}
          </Tabs.List>
          <RunLine />
          <Button
            look="bare"
            px="10px"
            onClick={() => setLayingOut(true)}
            aria-label="Layout (l)"
            tip="Layout (l)"
            data-testid="layout-button"
          >
            <PanelsTopLeft size={15} aria-hidden />
          </Button>
          <Button
            look="bare"
            px="10px"
            data-bench
            onClick={() => setFolded(!folded)}
            aria-expanded={!folded}
            aria-label={folded ? 'Open the foot of the bench' : 'Fold the foot of the bench'}
            tip={folded ? 'Open (r)' : 'Fold'}
            data-testid="fold-dock"
          >
            {folded ? <ChevronUp size={16} aria-hidden /> : <ChevronDown size={16} aria-hidden />}
          </Button>
        </Box>
        <Tabs.Content
          css={present.whole ? undefined : inColumns}
          value={present.id}
          className={present.whole ? undefined : 'tool'}
          padding={present.whole ? '0' : undefined}
          tabIndex={present.whole ? -1 : 0}
        >
          <Body key={program} />
        </Tabs.Content>
      </Tabs.Root>
    </Panel>
  );
}
