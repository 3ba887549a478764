/** What the course uses of a machine: instructions, registers, flags and traps that no program has a use for. */
import { chakra } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import type { Coverage as Found } from '@zettak/core/session/consequences';
import { client } from '../documents/client';
import { partTexts } from '../documents/partTexts';
import { engine } from '../session/engine';
import { Hint } from '../ui/Panel';
import { useDefined, useMachineId } from './defining';
import { Card } from './Card';

export function Coverage() {
  const { id } = useMachineId();
  const text = useDefined((state) => state.sound?.text);
  const [found, setFound] = useState<Found>();
  useEffect(() => {
    let live = true;
    if (text === undefined) return;
    void (async () => {
      const own = (await client.list('program')).filter((each) => each.machine === id);
      const texts = await partTexts(id);
      const programs = await Promise.all(own.map(async (each) => ({ source: (await client.get('program', each.id)).draft, parts: texts })));
      const made = await engine.definition.coverage(text, programs);
      if (live) setFound(made);
    })().catch(() => undefined);
    return () => {
      live = false;
    };
  }, [id, text]);
  if (!found) return null;
  const rows = [
    ['instructions', found.instructions],
    ['registers', found.registers],
    ['flags', found.flags],
    ['traps', found.traps],
  ] as const;
  return (
    <Card data-testid="coverage">
      <header>
        <h3>Used by the course</h3>
        <Hint>{`${found.programs} ${found.programs === 1 ? 'program' : 'programs'}`}</Hint>
      </header>
      {rows.map(([what, names]) => (
        <chakra.p key={what} fontSize="13px">
          {names.length === 0
            ? `All ${what} are used.`
            : `${names.length} ${names.length === 1 ? what.slice(0, -1) : what} that no program uses: `}
          <chakra.span fontFamily="mono">{names.join(' ')}</chakra.span>
        </chakra.p>
      ))}
    </Card>
  );
}
