/** Before a version is kept: what has changed since the last one, in words, and what becomes of the programs that are for it. */
import { chakra, Flex, Table } from '@chakra-ui/react';
import { useEffect, useRef, useState } from 'react';
import type { DocumentDetail } from '@zettak/api/documents';
import type { Consequence } from '@zettak/core/session/consequences';
import { client } from '../documents/client';
import { givenTo } from '../documents/given';
import { partTexts } from '../documents/partTexts';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Check } from '../ui/Check';
import { Hint, Refusal } from '../ui/Panel';
import { Window } from '../ui/Window';
import type { Defining } from './defining';

interface OfProgram {
  readonly program: DocumentDetail;
  /** As it would be, names followed. */
  readonly followed: string;
  readonly says: Consequence;
}

export interface Meaning {
  /** The last version. */
  readonly number: number;
  readonly changes: readonly string[];
  readonly programs: readonly OfProgram[];
}

/** Undefined where there is no version before, or nothing has changed since. */
export async function meaningOf(
  machine: string,
  number: number,
  defining: Defining,
): Promise<Meaning | { readonly refused: string } | 'the same'> {
  const { text } = defining.state;
  const kept = await client.version('machine', machine, number);
  if (kept.text === text) return 'the same';
  const own = (await client.list('program')).filter((each) => each.machine === machine);
  const programs = await Promise.all(own.map((each) => client.get('program', each.id)));
  const texts = await partTexts(machine);
  const followed = await engine.definition.follow(
    kept,
    defining.renames,
    programs.map((each) => each.draft),
  );
  const [as, renamed] = await Promise.all([
    engine.definition.consequences(
      kept,
      text,
      programs.map((each) => ({ source: each.draft, parts: texts, inputs: givenTo(each.id) })),
    ),
    engine.definition.assembles(
      text,
      followed.map((source) => ({ source, parts: texts })),
    ),
  ]);
  if ('refused' in as) return as;
  return {
    number,
    changes: as.changes,
    programs: programs.map((program, at) => ({
      program,
      // Names are followed only where that makes a program of it.
      followed: renamed[at] ? (followed[at] ?? program.draft) : program.draft,
      says: as.programs[at] ?? { kind: 'same', says: '' },
    })),
  };
}

interface SaveProps {
  readonly meaning: Meaning;
  /** With the programs whose names are to follow. */
  readonly save: (follow: readonly OfProgram[]) => Promise<void>;
  readonly close: () => void;
}

export function SaveVersion({ meaning: { number, changes, programs }, save, close }: SaveProps) {
  const renamed = programs.filter((each) => each.followed !== each.program.draft);
  const [follow, setFollow] = useState(true);
  const [refused, setRefused] = useState('');
  const main = useRef<HTMLButtonElement>(null);
  useEffect(() => setRefused(''), [follow]);
  const touched = programs.filter((each) => each.says.kind !== 'same' && each.says.kind !== 'as before');
  return (
    <Window title={`Version ${number + 1}, and what it means`} open close={close} closes="Cancel" testId="save-window" first={main}>
      <chakra.h3 fontSize="14px" fontWeight="700">{`Since version ${number}`}</chakra.h3>
      <chakra.ul ps="18px" maxHeight="180px" overflow="auto" fontSize="14px" data-testid="changes" tabIndex={0}>
        {changes.length === 0 && <li>Nothing that a program can tell: words, remarks or layout.</li>}
        {changes.map((each) => (
          <li key={each}>{each}</li>
        ))}
      </chakra.ul>
      <chakra.h3 fontSize="14px" fontWeight="700" mt="12px">
        {programs.length === 0
          ? 'No program is for this machine.'
          : `${programs.length} ${programs.length === 1 ? 'program is' : 'programs are'} for it`}
      </chakra.h3>
      {programs.length > 0 && (
        <chakra.div maxHeight="200px" overflow="auto" tabIndex={0}>
          <Table.Root data-testid="consequences">
            <Table.Body>
              {touched.map(({ program, says }) => (
                <Table.Row key={program.id} data-consequence={says.kind}>
                  <Table.Cell fontWeight="650" whiteSpace="nowrap">
                    {program.name}
                  </Table.Cell>
                  <Table.Cell color={says.kind === 'broken' ? 'problem' : 'ink'}>{says.says}</Table.Cell>
                </Table.Row>
              ))}
            </Table.Body>
          </Table.Root>
          {programs.some(({ program }) => givenTo(program.id).length > 0) && (
            <Hint as="p">Programs run on what they were given last in this browser.</Hint>
          )}
          {touched.length < programs.length && (
            <Hint as="p">
              {touched.length === 0 ? 'All of them stay as they are.' : `The other ${programs.length - touched.length} stay as they are.`}
            </Hint>
          )}
        </chakra.div>
      )}
      {renamed.length > 0 && (
        <Check on={follow} change={setFollow} mt="10px" testId="follow-names">
          {`The new names are written into ${renamed.map((each) => each.program.name).join(', ')}, too`}
        </Check>
      )}
      {refused && <Refusal role="alert">{refused}</Refusal>}
      <Flex mt="12px">
        <Button
          look="strong"
          ref={main}
          onClick={() => void save(follow ? renamed : []).then(close, (error: Error) => setRefused(error.message))}
          data-testid="keep-version"
        >
          {`Save version ${number + 1}`}
        </Button>
      </Flex>
    </Window>
  );
}
