/** The versions of a machine: what has changed since each, in words and beside each other. */
import { chakra } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import type { VersionDetail } from '@zettak/api/documents';
import { client } from '../documents/client';
import { SideBySide } from '../editor/SideBySide';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Hint, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';
import { useDefining, useMachineId } from './defining';
import { Card } from './Card';

export function Versions() {
  const { id, version } = useMachineId();
  const [chosen, setChosen] = useState<number>();
  const [open, setOpen] = useState(false);
  if (version === 0) return null;
  const number = Math.min(chosen ?? version, version);
  return (
    <Card data-testid="versions">
      <header>
        <h3>Versions</h3>
        <Choice
          label="Version"
          value={number}
          choose={(value) => setChosen(Number(value))}
          options={Array.from({ length: version }, (_, at) => ({ value: version - at, says: `version ${version - at}` }))}
        />
        <Button onClick={() => setOpen(true)} data-testid="since-version">
          What has changed since
        </Button>
      </header>
      {open && <Since key={number} machine={id} number={number} close={() => setOpen(false)} />}
    </Card>
  );
}

function Since({ machine, number, close }: { machine: string; number: number; close: () => void }) {
  const defining = useDefining();
  const [found, setFound] = useState<{ version: VersionDetail; changes: readonly string[]; refused: string }>();
  const [said, setSaid] = useState('');
  const [{ text }] = useState(defining.state);
  useEffect(() => {
    let live = true;
    void (async () => {
      const version = await client.version('machine', machine, number);
      const made = await engine.definition.consequences(version, text, []);
      if (live)
        setFound('refused' in made ? { version, changes: [], refused: made.refused } : { version, changes: made.changes, refused: '' });
    })().catch((error: Error) => live && setSaid(error.message));
    return () => {
      live = false;
    };
  }, [machine, number, text]);
  return (
    <Window title={`Since version ${number}`} open close={close} testId="since" wide>
      {said && <Refusal role="alert">{said}</Refusal>}
      {found && (
        <>
          {found.refused && <Hint as="p">{found.refused}</Hint>}
          <chakra.ul ps="18px" pb="8px" fontSize="14px" data-testid="since-changes">
            {found.changes.map((each) => (
              <li key={each}>{each}</li>
            ))}
            {found.changes.length === 0 && !found.refused && <li>Nothing that a program can tell.</li>}
          </chakra.ul>
          {found.version.text === text ? (
            <Hint>The text is the same.</Hint>
          ) : (
            <SideBySide left={{ name: `version ${number}`, text: found.version.text }} right={{ name: 'now', text }} />
          )}
        </>
      )}
    </Window>
  );
}
