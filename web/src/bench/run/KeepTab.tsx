/** Moments of runs that are kept, put back and compared; and the run as files in open formats. */
import { useState } from 'react';
import { engine } from '../../session/engine';
import { saveFile } from '../../ui/saveFile';
import { keep, kept } from '../../app/preferences';
import type { Difference, RunExport } from '@zettak/core/trials/runFiles';
import { useDocument } from '../document';
import { useLooks, type Looks, setLooks } from '../looks';
import { useRun } from '../run';
import { useText } from '../text';

interface Snapshot {
  readonly note: string;
  readonly tick: number;
  readonly text: string;
  /** How it was looked at. */
  readonly looks?: Looks;
}

/** Rubbish in the storage counts as nothing kept. */
function readSnapshots(program: string): Snapshot[] {
  try {
    const list: unknown = JSON.parse(kept(`snapshots.${program}`) || '[]');
    return Array.isArray(list)
      ? list.filter((each) => typeof each?.note === 'string' && typeof each?.text === 'string' && typeof each?.tick === 'number')
      : [];
  } catch {
    return [];
  }
}

const EXPORTS: readonly { readonly kind: RunExport; readonly says: string }[] = [
  { kind: 'trace', says: 'Ticks as CSV' },
  { kind: 'memory', says: 'Memory as CSV' },
  { kind: 'registers', says: 'State as text' },
  { kind: 'vcd', says: 'Signals as VCD' },
];

export function KeepTab() {
  const program = useDocument((state) => state.program?.id ?? '');
  const ticks = useRun((state) => state.view?.ticks);
  const [list, setList] = useState(() => readSnapshots(program));
  const [note, setNote] = useState('');
  const [cells, setCells] = useState(() => kept(`signals.${program}`));
  const [told, setTold] = useState<string>();
  const [compared, setCompared] = useState<readonly Difference[]>();
  if (ticks === undefined) return <p className="hint pad">Load a program first.</p>;
  const put = (snapshots: Snapshot[]): void => {
    if (keep(`snapshots.${program}`, JSON.stringify(snapshots))) setList(snapshots);
    else setTold('The browser has no room for another one. Save it as a file, or drop an older one.');
  };
  const take = async (): Promise<string | undefined> => {
    const made = await engine.files.keepRun(note.trim());
    if ('refused' in made) setTold(made.refused);
    return 'text' in made ? made.text : undefined;
  };
  const open = async (text: string, looks: Looks = {}): Promise<void> => {
    setCompared(undefined);
    const opened = await engine.files.openRun(text);
    if ('refused' in opened) return setTold(opened.refused);
    setLooks(looks);
    setTold(opened.source === useText.getState().source ? undefined : 'The program in the editor is another one than that of this run.');
  };
  const compare = async (text: string): Promise<void> => {
    const found = await engine.files.compareWith(text);
    if ('refused' in found) return setTold(found.refused);
    setTold(found.list.length === 0 ? 'Nothing differs from the present state.' : undefined);
    setCompared(found.list);
  };
  const write = async (kind: RunExport): Promise<void> => {
    const made = await engine.files.exportRun(kind, cells);
    if ('refused' in made) setTold(made.refused);
    else saveFile(`${program}.${made.name}`, made.content);
  };
  return (
    <div className="keep-tool" data-testid="keep">
      <h3>Keep this moment</h3>
      <form
        className="choices"
        onSubmit={(event) => {
          event.preventDefault();
          void take().then((text) => {
            if (text === undefined) return;
            const { base, space } = useLooks.getState();
            put([...list, { note: note.trim() || `tick ${ticks.toLocaleString('en-US')}`, tick: ticks, text, looks: { base, space } }]);
            setNote('');
          });
        }}
      >
        <input
          value={note}
          placeholder={`tick ${ticks.toLocaleString('en-US')}`}
          maxLength={120}
          aria-label="Note on this moment"
          onChange={(event) => setNote(event.target.value)}
          data-testid="note"
        />
        <button type="submit" className="plain" data-testid="keep-moment">
          Keep
        </button>
        <button
          type="button"
          className="plain"
          onClick={() => void take().then((text) => text !== undefined && saveFile(`${program}.run.json`, text))}
        >
          Save the run as a file
        </button>
        <label className="plain file">
          Open a run …
          <input
            type="file"
            accept=".json"
            className="sr-only"
            data-testid="open-run"
            onChange={(event) => {
              void event.target.files?.[0]?.text().then((text) => open(text));
              event.target.value = '';
            }}
          />
        </label>
      </form>
      <ul className="snapshots">
        {list.map((each, at) => (
          <li key={at} data-snapshot={each.note}>
            <b>{each.note}</b> <span className="hint">tick {each.tick.toLocaleString('en-US')}</span>
            <button type="button" className="plain" onClick={() => void open(each.text, each.looks)}>
              Put back
            </button>
            <button type="button" className="plain" onClick={() => void compare(each.text)}>
              Compare with now
            </button>
            <button
              type="button"
              className="plain"
              aria-label={`Drop ${each.note}`}
              onClick={() => put(list.filter((_, other) => other !== at))}
            >
              ×
            </button>
          </li>
        ))}
      </ul>
      <p role="status" className="answer" data-testid="kept-told">
        {told}
      </p>
      {compared && compared.length > 0 && (
        <table data-testid="compared">
          <thead>
            <tr>
              <th scope="col">place</th>
              <th scope="col">kept</th>
              <th scope="col">now</th>
            </tr>
          </thead>
          <tbody>
            {compared.map((each) => (
              <tr key={each.place}>
                <th scope="row">{each.place}</th>
                <td>{each.kept}</td>
                <td>{each.now}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <h3>Write it out</h3>
      <p className="choices">
        <label>
          cells among the signals{' '}
          <input
            value={cells}
            placeholder="the program’s data"
            maxLength={2000}
            onChange={(event) => {
              setCells(event.target.value);
              keep(`signals.${program}`, event.target.value);
            }}
            data-testid="signals"
          />
        </label>
      </p>
      <p className="choices">
        {EXPORTS.map(({ kind, says }) => (
          <button key={kind} type="button" className="plain" onClick={() => void write(kind)} data-testid={`export-${kind}`}>
            {says}
          </button>
        ))}
      </p>
    </div>
  );
}
