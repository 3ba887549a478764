/**
 * One entry of the table of sets. It is a text until somebody enters it, by a press or a key: a thousand fields would take
 * the browser longer to paint than a picture may last.
 */
import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import { paste, redo, undo } from './editing';
import { tellReading } from './Reading';
import { useTrials } from './state';

interface FieldProps {
  readonly at: number;
  /** −1 of the purpose, which stands under the name. */
  readonly column: number;
  readonly label: string;
  readonly value: string;
  readonly hint?: string;
  readonly quiet?: boolean;
  readonly wrong?: string | undefined;
  readonly reads?: { readonly of: 'given' | 'expected'; readonly place: string };
  /** False where it cannot be: what stood there comes back. */
  readonly take: (text: string) => boolean;
  readonly go: (row: number, column: number) => void;
}

export function SetField(props: FieldProps) {
  const { at, column, label, value, hint = '', quiet = false, wrong } = props;
  const [open, setOpen] = useState<{ readonly at: number; readonly caret: Caret }>();
  const enter = (caret: Caret): void => setOpen({ at, caret });
  // Another row may have come to stand here.
  if (open?.at === at) return <Open {...props} caret={open.caret} close={() => setOpen(undefined)} />;
  return (
    <span
      role="textbox"
      tabIndex={0}
      className={long(value, 24, quiet ? 'entry quiet' : 'entry')}
      data-cell={`${at}:${column}`}
      data-hint={value !== '' ? undefined : quiet ? 'what it is for' : hint}
      aria-label={label}
      aria-invalid={wrong !== undefined || undefined}
      title={wrong ?? (quiet ? value : undefined)}
      onMouseDown={(event) => {
        if (event.button !== 0) return;
        event.preventDefault();
        enter(letterAt(event));
      }}
      onFocus={() => enter('all')}
    >
      {value}
    </span>
  );
}

/** The class of a text that may be too long for its place. Only that one is clipped: a browser paints what it has to clip by itself. */
export const long = (text: string, letters: number, className: string): string => (text.length > letters ? `${className} long` : className);

/** Where writing begins: before which letter, or over all of them. */
type Caret = number | 'all';

function letterAt({ clientX, clientY, currentTarget }: React.MouseEvent): Caret {
  // Not every browser says it.
  const found = document.caretPositionFromPoint?.(clientX, clientY);
  return found && currentTarget.contains(found.offsetNode) ? found.offset : 'all';
}

/** Which set stands in a row, of which program. */
function setAt(row: number): string {
  const { program, table } = useTrials.getState();
  return `${program?.id ?? ''} ${table.sets[row]?.name ?? ''}`;
}

/**
 * What is typed is taken when the field is left, by Enter or otherwise, or when its row is scrolled away; Escape brings
 * back what stood there.
 */
function Open(props: FieldProps & { readonly caret: Caret; readonly close: () => void }) {
  const { at, column, label, value, hint = '', quiet = false, wrong, reads, take, go, caret, close } = props;
  const [typed, setTyped] = useState<string>();
  // Beside the state: the field may go before it is drawn again.
  const newest = useRef<string>(undefined);
  const write = (text: string | undefined): void => {
    newest.current = text;
    setTyped(text);
  };
  const commit = (): void => {
    const text = newest.current;
    write(undefined);
    if (text !== undefined && text !== value) take(text);
  };
  const left = useRef(commit);
  left.current = commit;
  // A row that is gone from the table, or a table that is another program's, is not written to.
  const stood = useRef('');
  stood.current = setAt(at);
  const field = useRef<HTMLInputElement>(null);
  useLayoutEffect(() => {
    field.current?.focus();
    if (caret === 'all') field.current?.select();
    else field.current?.setSelectionRange(caret, caret);
    return () => {
      if (setAt(at) === stood.current) left.current();
    };
    // From the first to the last drawing of the field.
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  useEffect(() => {
    if (reads) tellReading(reads, value);
    return () => tellReading(undefined, '');
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  return (
    <input
      ref={field}
      className={quiet ? 'quiet' : ''}
      data-cell={`${at}:${column}`}
      aria-label={label}
      aria-invalid={wrong !== undefined || undefined}
      title={wrong ?? (quiet ? value : undefined)}
      value={typed ?? value}
      placeholder={quiet ? 'what it is for' : hint}
      maxLength={2000}
      spellCheck={false}
      onChange={(event) => {
        write(event.target.value);
        if (reads) tellReading(reads, event.target.value);
      }}
      onBlur={() => {
        commit();
        // Whoever looks at another window comes back to the field.
        if (document.hasFocus()) close();
      }}
      onPaste={(event) => {
        const text = event.clipboardData.getData('text/plain');
        if (column < 0 || !/[\t\n]/.test(text.replace(/\r?\n$/, ''))) return;
        event.preventDefault();
        write(undefined);
        paste(at, column, text);
      }}
      onKeyDown={(event) => {
        const fresh = typed === undefined || typed === value;
        if (event.key === 'Escape') write(undefined);
        else if (event.key === 'Enter' || event.key === 'ArrowDown' || event.key === 'ArrowUp') {
          event.preventDefault();
          commit();
          go(at + (event.key === 'ArrowUp' || event.shiftKey ? -1 : 1), column);
        } else if ((event.ctrlKey || event.metaKey) && fresh && /^[zy]$/i.test(event.key)) {
          event.preventDefault();
          if (event.key.toLowerCase() === 'y' || event.shiftKey) redo();
          else undo();
        }
      }}
    />
  );
}
