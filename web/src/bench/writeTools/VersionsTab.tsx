/** Kept versions of a program: keep another, duplicate, and see what is different between two. */
import { Window } from '../../ui/Window';
import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { client } from '../../documents/client';
import { useEditor } from '../../editor/handle';
import { createProgram, keepProgramVersion, refreshProgram, useDocument } from '../document';
import { say, sayError, useText } from '../text';
import { Button } from '../../ui/Button';
import { Controls, Heading, Hint, Item, List } from '../../ui/Panel';
import { Choice } from '../../ui/Choice';
import { Box } from '@chakra-ui/react';

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
  const versionText = async (number: number): Promise<string> =>
    number === DRAFT ? useText.getState().source : (await client.version('program', program.id, number)).text;
  const compare = async (): Promise<void> => setShown({ before: await versionText(one), after: await versionText(other) });
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
    <Choice
      label={label}
      value={value}
      choose={(chosen) => set(Number(chosen))}
      options={choices.map((each) => ({ value: each, says: nameOf(each) }))}
    />
  );
  return (
    <div data-testid="versions">
      <Controls>
        <Button onClick={() => void keep().catch(sayError)} data-testid="keep-version">
          Keep this as version {newest + 1}
        </Button>
        <Button onClick={() => void duplicate().catch(sayError)} data-testid="duplicate">
          Duplicate as “{nextName(program.name)}”
        </Button>
      </Controls>
      <List>
        {program.versions.toReversed().map((each) => (
          <Item key={each.number}>
            <b>{each.number}</b>
            <Box as="time" flex="1" color="ink2" {...{ dateTime: each.createdAt }}>
              {new Date(each.createdAt).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
            </Box>
            <Button
              onClick={() => void versionText(each.number).then((text) => editor.replaceText(text), sayError)}
              title="Undo brings the present text back"
            >
              bring into the editor
            </Button>
          </Item>
        ))}
      </List>
      {program.versions.length === 0 && <Hint as="p">No version has been kept yet.</Hint>}
      <Heading>Difference</Heading>
      <Controls>
        {choice('From', one, setOne)} to {choice('To', other, setOther)}
        <Button onClick={() => void compare().catch(sayError)} data-testid="compare">
          show
        </Button>
      </Controls>
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
      {before === after ? (
        <p>They are the same, letter by letter.</p>
      ) : (
        <Box ref={place} className="difference" maxHeight="60vh" overflow="auto" border="1px solid" borderColor="line" />
      )}
    </Window>
  );
}
