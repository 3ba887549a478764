/** A program is moved to the newest version of its machine, after a look at what that changes. */
import { chakra } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import type { DocumentSummary } from '@zettak/api/documents';
import type { Consequences } from '@zettak/core/session/definition';
import { baseTexts } from '../documents/baseTexts';
import { client } from '../documents/client';
import { givenTo } from '../documents/given';
import { partTexts } from '../documents/partTexts';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Hint, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';

export interface Moving {
  readonly program: DocumentSummary;
  readonly machine: DocumentSummary;
  /** The version of the machine that it was kept with. */
  readonly from: number;
}

export function Move({ moving: { program, machine, from }, close }: { moving: Moving; close: () => void }) {
  const to = machine.versions.at(-1)?.number ?? from;
  const [found, setFound] = useState<Consequences>();
  const [refused, setRefused] = useState('');
  useEffect(() => {
    let live = true;
    void (async () => {
      const [before, after, own] = await Promise.all([
        client.version('machine', machine.id, from),
        client.version('machine', machine.id, to),
        client.get('program', program.id),
      ]);
      const parts = await partTexts(machine.id);
      await engine.texts.setBases(await baseTexts(after.text));
      const made = await engine.definition.consequences(before, after.text, [{ source: own.draft, parts, inputs: givenTo(program.id) }]);
      if (!live) return;
      if ('refused' in made) setRefused(made.refused);
      else setFound(made);
    })().catch((error: Error) => live && setRefused(error.message));
    return () => {
      live = false;
    };
  }, [machine.id, program.id, from, to]);
  const move = async (): Promise<void> => {
    try {
      const { revision } = await client.get('program', program.id);
      // A version of a program names the newest of its machine.
      await client.keepVersion('program', program.id, revision);
      close();
    } catch (error) {
      setRefused((error as Error).message);
    }
  };
  const [consequence] = found?.programs ?? [];
  return (
    <Window
      title={`${program.name}: from version ${from} of ${machine.name} to version ${to}`}
      open
      close={close}
      closes="Leave it"
      testId="move"
    >
      {refused && <Refusal role="alert">{refused}</Refusal>}
      {consequence && (
        <p data-testid="move-preview">
          The program {consequence.says}
          {'. '}
        </p>
      )}
      {found && (
        <>
          <Hint as="p" pt="8px">
            What has changed in the machine:
          </Hint>
          <chakra.ul ps="18px" fontSize="13px" maxHeight="200px" overflow="auto" tabIndex={0}>
            {found.changes.length === 0 && <li>nothing that a program can tell</li>}
            {found.changes.map((each) => (
              <li key={each}>{each}</li>
            ))}
          </chakra.ul>
          <Button look="strong" mt="10px" onClick={() => void move()} data-testid="do-move">
            Move it
          </Button>
        </>
      )}
    </Window>
  );
}
