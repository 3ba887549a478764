/** The tools for writing: what to insert, names, checks, object code, cells by hand, the course, versions. */
import { Tabs, type Tab } from '../../ui/Tabs';
import { ChecksTab } from './ChecksTab';
import { CodeTab } from './CodeTab';
import { CourseTab } from './CourseTab';
import { HandTab } from './HandTab';
import { InsertTab } from './InsertTab';
import { NamesTab } from './NamesTab';
import { chooseWriteTool, useLooks } from '../looks';
import { VersionsTab } from './VersionsTab';

const TABS: readonly Tab[] = [
  { id: 'insert', says: 'Insert', body: InsertTab },
  { id: 'names', says: 'Names', body: NamesTab },
  { id: 'checks', says: 'Checks', body: ChecksTab },
  { id: 'code', says: 'Code', body: CodeTab },
  { id: 'hand', says: 'By hand', body: HandTab },
  { id: 'course', says: 'Course', body: CourseTab },
  { id: 'versions', says: 'Versions', body: VersionsTab },
];

export function WritePanel() {
  const chosen = useLooks((state) => state.writeTool);
  return <Tabs tabs={TABS} label="Tools for writing" chosen={chosen} choose={chooseWriteTool} />;
}
