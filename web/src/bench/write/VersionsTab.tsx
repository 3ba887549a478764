/** Kept versions of a program: keep another, duplicate, and see what is different between two. */
import { Window } from '../../ui/Window';
import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { client } from '../../documents/client';
import { useEditor } from '../../editor/handle';
import { createProgram, keepProgramVersion, refreshProgram, useDocument } from '../document';
import { say, useText } from '../text';

const DRAFT = 0;
const nameOf = (number: number): string => (number === DRAFT ? 'what is in the editor' : `version ${number}`);

export function VersionsTab() {
  const program = useDocument((state) => state.program);
  const navigate = useNavigate();
  const editor = useEditor();
  const newest = program?.versions.at(-1)?.number ?? DRAFT;
  const [chosen, setOne] = useState<number>();
  const one = chosen ?? newest;
  const [other, setOther] = useState(DRAFT);
  const [shown, setShown] = useState<{ readonly before: string; readonly after: string }>();
  if (!program) return null;
  const tell = (error: unknown): void => say(error instanceof Error ? error.message : String(error));
  const textOf = async (number: number): Promise<string> =>
    number === DRAFT ? useText.getState().source : (await client.version('program', program.id, number)).text;
  const compare = async (): Promise<void> => setShown({ before: await textOf(one), after: await textOf(other) });
  const keep = async (): Promise<void> => {
    say(await keepProgramVersion());
    await refreshProgram();
  };
  const duplicate = async (): Promise<void> => {
    const id = await createProgram(nextName(program.name), useText.getState().source);
    if (id) await navigate(`/bench/${id}`);
  };
  const choices = [DRAFT, ...program.versions.map((each) => each.number).toReversed()];
  const choice = (label: string, value: number, set: (value: number) => void) => (
    <select aria-label={label} value={value} onChange={(event) => set(Number(event.target.value))}>
      {choices.map((each) => (
        <option key={each} value={each}>
          {nameOf(each)}
        </option>
      ))}
    </select>
  );
  return (
    <div className="versions" data-testid="versions">
      <p className="choices">
        <button type="button" className="plain" onClick={() => void keep().catch(tell)} data-testid="keep-version">
          Keep this as version {newest + 1}
        </button>
        <button type="button" className="plain" onClick={() => void duplicate().catch(tell)} data-testid="duplicate">
          Duplicate as “{nextName(program.name)}”
        </button>
      </p>
      <ul>
        {program.versions.toReversed().map((each) => (
          <li key={each.number}>
            <b>{each.number}</b>
            <time dateTime={each.createdAt}>
              {new Date(each.createdAt).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
            </time>
            <button
              type="button"
              className="plain"
              onClick={() => void textOf(each.number).then((text) => editor.replaceText(text), tell)}
              title="Undo brings the present text back"
            >
              bring into the editor
            </button>
          </li>
        ))}
      </ul>
      {program.versions.length === 0 && <p className="hint">No version has been kept yet.</p>}
      <h3>Difference</h3>
      <p className="choices">
        {choice('From', one, setOne)} to {choice('To', other, setOther)}
        <button type="button" className="plain" onClick={() => void compare().catch(tell)} data-testid="compare">
          show
        </button>
      </p>
      {shown && <Difference {...shown} from={nameOf(one)} to={nameOf(other)} close={() => setShown(undefined)} />}
    </div>
  );
}

/** “mean level” becomes “mean level 2”, and that “mean level 3”. */
function nextName(name: string): string {
  const number = /^(.*?) (\d{1,4})$/.exec(name);
  return number ? `${number[1]} ${Number(number[2]) + 1}` : `${name} 2`;
}

function Difference({ before, after, from, to, close }: { before: string; after: string; from: string; to: string; close: () => void }) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let view: { destroy(): void } | undefined;
    let live = true;
    void import('./difference').then(({ showDifference }) => {
      if (live && place.current) view = showDifference(place.current, before, after);
    });
    return () => {
      live = false;
      view?.destroy();
    };
  }, [before, after]);
  return (
    <Window title={`From ${from} to ${to}`} open testId="difference" close={close} wide>
      {before === after ? <p>They are the same, letter by letter.</p> : <div ref={place} className="difference" />}
    </Window>
  );
}
