/** The tools for a run: what stops it, open calls and remarks, devices, questions to the past, runs kept. */
import { Tabs, type Tab } from '../../ui/Tabs';
import { CallsTab } from './CallsTab';
import { DevicesTab } from './DevicesTab';
import { KeepTab } from './KeepTab';
import { PastTab } from './PastTab';
import { chooseRunTool, useLooks } from '../looks';
import { StopsTab } from './StopsTab';

const TABS: readonly Tab[] = [
  { id: 'stops', says: 'Stops', body: StopsTab },
  { id: 'calls', says: 'Calls', body: CallsTab },
  { id: 'devices', says: 'Devices', body: DevicesTab },
  { id: 'past', says: 'Past', body: PastTab },
  { id: 'keep', says: 'Keep', body: KeepTab },
];

export function RunPanel() {
  const chosen = useLooks((state) => state.runTool);
  return <Tabs tabs={TABS} label="Tools for the run" chosen={chosen} choose={chooseRunTool} />;
}
