/** Another name for a part, everywhere: what follows is shown before it is taken. */
import { Box } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import type { VersionDetail } from '@zettak/api/documents';
import type { NewNames } from '@zettak/core/assembler/assist/followRename';
import type { OutlinePart } from '@zettak/core/machine/document/outline';
import { client } from '../documents/client';
import { engine } from '../session/engine';
import { Entry } from '../ui/Field';
import { Hint } from '../ui/Panel';
import { useMachineId } from './defining';

interface NewNameProps {
  readonly part: OutlinePart;
  readonly text: string;
  readonly rename: (name: string) => Promise<void>;
  readonly cancel: () => void;
}

interface CoursePrograms {
  /** The version of the machine that they are for. */
  readonly kept: VersionDetail;
  readonly programs: readonly { readonly name: string; readonly draft: string }[];
}

/** Programs of the course; undefined while there is no version that they could be for. */
async function programsOf(machine: string): Promise<CoursePrograms | undefined> {
  const newest = (await client.get('machine', machine)).versions.at(-1);
  if (!newest) return undefined;
  const kept = await client.version('machine', machine, newest.number);
  const own = (await client.list('program')).filter((each) => each.machine === machine);
  return { kept, programs: await Promise.all(own.map(async ({ id, name }) => ({ name, draft: (await client.get('program', id)).draft }))) };
}

/** Those that call something otherwise then, by their names. */
async function followers(course: CoursePrograms | undefined, names: NewNames): Promise<string[]> {
  if (!course) return [];
  const drafts = course.programs.map((each) => each.draft);
  const followed = await engine.definition.follow(course.kept, [names], drafts);
  return course.programs.filter((_, at) => followed[at] !== drafts[at]).map((each) => each.name);
}

/** Another name for a part, with what it would touch before it is taken. */
export function NewName({ part, text, rename, cancel }: NewNameProps) {
  const [name, setName] = useState(part.name);
  const [touches, setTouches] = useState('');
  const { id } = useMachineId();
  const [course] = useState(() => programsOf(id));
  useEffect(() => {
    let live = true;
    if (name === part.name) return setTouches('');
    void engine.definition.renamePart(text, part.path, name).then(async (made) => {
      if (!live) return;
      if ('refused' in made) return setTouches(made.refused);
      const places = `${made.places === 1 ? 'one place names' : `${made.places} places name`} it, and follow`;
      setTouches(places);
      const programs = await course.then((found) => followers(found, made.programs)).catch(() => []);
      if (live && programs.length > 0) setTouches(`${places}; so do, with the next version, ${programs.join(', ')}`);
    });
    return () => {
      live = false;
    };
  }, [name, part, text, course]);
  return (
    <Box
      as="form"
      px="12px"
      py="6px"
      onSubmit={(event: React.FormEvent) => {
        event.preventDefault();
        if (name === part.name) cancel();
        else void rename(name);
      }}
    >
      <Entry
        autoFocus
        width="100%"
        fontFamily="mono"
        aria-label={`Another name for ${part.name}`}
        value={name}
        maxLength={40}
        onFocus={(event) => event.currentTarget.select()}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && cancel()}
        data-testid="new-name"
      />
      <Hint as="output" display="block" pt="4px" data-testid="touches">
        {touches}
      </Hint>
    </Box>
  );
}
