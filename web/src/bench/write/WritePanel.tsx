/** The tools for writing: what to insert, names, checks, object code, cells by hand, the course, versions. */
import { useState } from 'react';
import { ChecksTab } from './ChecksTab';
import { CodeTab } from './CodeTab';
import { CourseTab } from './CourseTab';
import { HandTab } from './HandTab';
import { InsertTab } from './InsertTab';
import { NamesTab } from './NamesTab';
import { VersionsTab } from './VersionsTab';

const TABS = [
  { id: 'insert', says: 'Insert', body: InsertTab },
  { id: 'names', says: 'Names', body: NamesTab },
  { id: 'checks', says: 'Checks', body: ChecksTab },
  { id: 'code', says: 'Code', body: CodeTab },
  { id: 'hand', says: 'By hand', body: HandTab },
  { id: 'course', says: 'Course', body: CourseTab },
  { id: 'versions', says: 'Versions', body: VersionsTab },
] as const;

type TabId = (typeof TABS)[number]['id'];
const KEPT = 'zettak.tool';

export function WritePanel() {
  const [chosen, setChosen] = useState<TabId>(() => TABS.find((each) => each.id === localStorage.getItem(KEPT))?.id ?? 'insert');
  const choose = (id: TabId): void => {
    localStorage.setItem(KEPT, id);
    setChosen(id);
  };
  const Body = TABS.find((each) => each.id === chosen)!.body;
  /** Arrow keys move among the tabs, as tab lists do. */
  const move = (event: React.KeyboardEvent): void => {
    const step = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
    if (step === 0) return;
    event.preventDefault();
    event.stopPropagation();
    const next = TABS[(TABS.findIndex((each) => each.id === chosen) + step + TABS.length) % TABS.length]!;
    choose(next.id);
    document.getElementById(`tool-${next.id}`)?.focus();
  };
  return (
    <section className="panel tools" aria-label="Tools">
      <div className="tabs" role="tablist" aria-label="Tools" onKeyDown={move}>
        {TABS.map(({ id, says }) => (
          <button
            key={id}
            id={`tool-${id}`}
            type="button"
            role="tab"
            aria-selected={id === chosen}
            aria-controls="tool-body"
            tabIndex={id === chosen ? 0 : -1}
            data-testid={`tool-${id}`}
            onClick={() => choose(id)}
          >
            {says}
          </button>
        ))}
      </div>
      <div id="tool-body" className="tool" role="tabpanel" aria-labelledby={`tool-${chosen}`}>
        <Body />
      </div>
    </section>
  );
}
