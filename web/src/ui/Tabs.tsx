/** A row of tabs and the body of the chosen one, which is remembered. Arrow keys move among them. */
import { type ComponentType, type KeyboardEvent } from 'react';

export interface Tab {
  readonly id: string;
  readonly says: string;
  readonly body: ComponentType;
}

interface Parts {
  readonly tabs: readonly Tab[];
  readonly label: string;
  /** An id; of one that there is not, the first tab stands there. */
  readonly chosen: string;
  readonly choose: (id: string) => void;
}

export function Tabs({ tabs, label, chosen: wanted, choose }: Parts) {
  const chosen = tabs.find((each) => each.id === wanted)?.id ?? tabs[0]!.id;
  const Body = tabs.find((each) => each.id === chosen)!.body;
  const move = (event: KeyboardEvent): void => {
    const step = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
    if (step === 0) return;
    event.preventDefault();
    event.stopPropagation();
    const next = tabs[(tabs.findIndex((each) => each.id === chosen) + step + tabs.length) % tabs.length]!;
    choose(next.id);
    document.getElementById(`tool-${next.id}`)?.focus();
  };
  return (
    <section className="panel tools" aria-label={label}>
      <div className="tabs" role="tablist" aria-label={label} onKeyDown={move}>
        {tabs.map(({ id, says }) => (
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
