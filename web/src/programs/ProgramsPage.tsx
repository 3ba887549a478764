/** The shelf of programs: a card each with its machine, where it lies in memory, breakpoints and last run; two of them beside each other. */
import { Box, Flex } from '@chakra-ui/react';
import { Plus } from 'lucide-react';
import { useCallback, useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import type { DocumentSummary } from '@zettak/api/documents';
import { firstProgram } from '@zettak/core/assembler/assist/firstProgram';
import type { Footprint } from '@zettak/core/session/footprint';
import { Shell } from '../app/Shell';
import { kept, keptValue } from '../app/preferences';
import { baseTexts } from '../documents/baseTexts';
import { textOf } from '../app/textOf';
import { client } from '../documents/client';
import { partTexts } from '../documents/partTexts';
import { Backup } from '../documents/shelf/Backup';
import { besides, isMachineFile, plainName, readFiles, zipOf, type Taken } from '../documents/shelf/files';
import { Lines } from '../documents/shelf/Lines';
import { Shelf } from '../documents/shelf/Shelf';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { saveFile } from '../ui/saveFile';
import { Compare } from './Compare';
import { Move, type Moving } from './Move';

interface Looked {
  readonly footprint: Footprint;
  /** The version of the machine that its newest version was kept with. */
  readonly machineVersion: number | null;
}

/** What a machine is in its newest version, or while it has none, its draft. */
async function machineText(machine: DocumentSummary): Promise<{ text: string; language?: number }> {
  const newest = machine.versions.at(-1);
  if (newest) return client.version('machine', machine.id, newest.number);
  return { text: (await client.get('machine', machine.id)).draft };
}

export function ProgramsPage() {
  const [programs, setPrograms] = useState<readonly DocumentSummary[]>();
  const [machines, setMachines] = useState<readonly DocumentSummary[]>([]);
  const [looked, setLooked] = useState<ReadonlyMap<string, Looked>>(new Map());
  const [failure, setFailure] = useState<string>();
  const [only, setOnly] = useState('');
  const [compared, setCompared] = useState<readonly [DocumentSummary, DocumentSummary | undefined]>();
  const [moving, setMoving] = useState<Moving>();
  const navigate = useNavigate();
  const reload = useCallback((): void => {
    void Promise.all([client.list('program'), client.list('machine')]).then(
      ([own, others]) => {
        setPrograms(own);
        setMachines(others);
        setFailure(undefined);
      },
      (error: unknown) => setFailure(textOf(error)),
    );
  }, []);
  useEffect(reload, [reload]);
  useEffect(() => {
    let live = true;
    void (async () => {
      for (const machine of machines) {
        const own = (programs ?? []).filter((each) => each.machine === machine.id);
        if (own.length === 0) continue;
        const version = await machineText(machine);
        await engine.texts.setBases(await baseTexts(version.text));
        const parts = await partTexts(machine.id);
        const details = await Promise.all(own.map((each) => client.get('program', each.id)));
        const footprints = await engine.definition.footprints(
          version,
          details.map((each) => ({ source: each.draft, parts })),
        );
        const versions = await Promise.all(
          own.map(async ({ id, versions: all }) =>
            all.length > 0 ? (await client.version('program', id, all.at(-1)?.number ?? 1)).machineVersion : null,
          ),
        );
        if (!live) return;
        setLooked((all) => {
          const more = new Map(all);
          own.forEach((each, at) => {
            const footprint = footprints[at];
            if (footprint) more.set(each.id, { footprint, machineVersion: versions[at] ?? null });
          });
          return more;
        });
      }
    })().catch(() => undefined);
    return () => {
      live = false;
    };
  }, [programs, machines]);
  const shown = programs?.filter((each) => only === '' || each.machine === only);
  const machineOf = ({ machine }: DocumentSummary): DocumentSummary | undefined => machines.find((each) => each.id === machine);
  const target = only || machines[0]?.id;
  const create = async (name: string, text: string, machine: string): Promise<DocumentSummary> =>
    client.create('program', { name: besides(name, programs ?? []), text, machine });
  const createNew = async (): Promise<void> => {
    const machine = machines.find((each) => each.id === target);
    if (!machine) return;
    const { text, language } = await machineText(machine);
    const { machine: read } = await engine.texts.checkMachine(text, language);
    const made = await create('new program', firstProgram(read, machine.name), machine.id);
    await navigate(`/bench/${made.id}`);
  };
  const take = async (files: readonly File[]): Promise<readonly Taken[]> => {
    const { texts, refused } = await readFiles(files);
    const done: Taken[] = [...refused];
    let present = await client.list('program');
    for (const { name, text, machine: named } of texts) {
      const machine =
        machines.find((each) => named !== undefined && each.name.toLowerCase() === named.toLowerCase()) ??
        machines.find((each) => each.id === target);
      if (isMachineFile(name)) done.push({ file: name, says: 'It is a machine; those are taken in on the screen Machines.', ok: false });
      else if (!machine) done.push({ file: name, says: 'There is no machine that it could be for.', ok: false });
      else {
        const made = await client.create('program', { name: besides(plainName(name), present), text, machine: machine.id });
        present = [...present, made];
        done.push({ file: name, says: `taken as “${made.name}” for ${machine.name}`, ok: true, id: made.id });
      }
    }
    return done;
  };
  const exportAll = async (): Promise<void> => {
    const own = await Promise.all(
      (shown ?? []).map(async (each) => ({
        name: each.name,
        text: (await client.get('program', each.id)).draft,
        machine: machineOf(each)?.name ?? '',
      })),
    );
    saveFile('programs.zip', zipOf([], own));
  };
  return (
    <Shell
      title="Programs"
      controls={
        <Flex flex="1" justify="flex-end">
          <Button look="go" onClick={() => void createNew()} disabled={!target} data-testid="new-program">
            <Plus size={15} aria-hidden /> New program
          </Button>
        </Flex>
      }
    >
      <Shelf
        kind="program"
        documents={shown}
        failure={failure}
        reload={reload}
        linkTo={({ id }) => `/bench/${id}`}
        accept=".asm,.s,.txt,.zip"
        take={take}
        rename={async (document, name) => {
          const { draft, revision } = await client.get('program', document.id);
          await client.saveDraft('program', document.id, { text: draft, revision, name });
        }}
        actions={(document) => [
          { id: 'trials', says: 'Trials', act: () => void navigate(`/trials/${document.id}`) },
          { id: 'duplicate', says: 'Duplicate', act: () => void duplicate(document).then(reload) },
          { id: 'compare', says: 'Compare with …', act: () => setCompared([document, originOf(document, programs ?? [])]) },
          ...moves(document, machineOf(document), looked.get(document.id)).map((from) => ({
            ...{
              id: 'move',
              says: `Move to version ${machineOf(document)?.versions.at(-1)?.number ?? ''} of ${machineOf(document)?.name ?? ''}`,
            },
            act: () => setMoving({ program: document, machine: machineOf(document)!, from }),
          })),
          {
            id: 'export',
            says: 'Export',
            act: () => void client.get('program', document.id).then(({ draft, name }) => saveFile(`${name}.asm`, draft)),
          },
        ]}
        body={(document) => <CardBody document={document} machine={machineOf(document)} looked={looked.get(document.id)} />}
        controls={
          <>
            <Choice
              label="Programs for"
              value={only}
              choose={setOnly}
              options={[{ value: '', says: 'all machines' }, ...machines.map((each) => ({ value: each.id, says: each.name }))]}
              testId="for-machine"
            />
            <Backup restored={reload} />
            <Button onClick={() => void exportAll()} disabled={!shown?.length} data-testid="export-all">
              Export all
            </Button>
          </>
        }
        empty={{ title: 'There is no program yet.', says: 'Press “New program” above, or drop files here.' }}
      />
      {compared && <Compare one={compared[0]} other={compared[1]} programs={programs ?? []} close={() => setCompared(undefined)} />}
      {moving && (
        <Move
          moving={moving}
          close={() => {
            setMoving(undefined);
            reload();
          }}
        />
      )}
    </Shell>
  );

  async function duplicate(document: DocumentSummary): Promise<void> {
    const { draft } = await client.get('program', document.id);
    const made = await create(document.name, draft, document.machine ?? '');
    const sets = (await client.list('trial')).find((each) => each.program === document.id);
    if (sets) await client.create('trial', { name: made.name, text: (await client.get('trial', sets.id)).draft, program: made.id });
  }
}

/** The version that a program is to leave, where there is a newer one. */
function moves(_: DocumentSummary, machine: DocumentSummary | undefined, looked: Looked | undefined): readonly number[] {
  const newest = machine?.versions.at(-1)?.number ?? 0;
  const own = looked?.machineVersion;
  return own !== null && own !== undefined && own < newest ? [own] : [];
}

/** A duplicate is called as its origin, with a number behind. */
const originOf = ({ name, id }: DocumentSummary, programs: readonly DocumentSummary[]): DocumentSummary | undefined => {
  const stem = name.replace(/-\d+$/, '');
  return programs.find((each) => each.id !== id && each.name.replace(/-\d+$/, '') === stem);
};

function CardBody({
  document,
  machine,
  looked,
}: {
  document: DocumentSummary;
  machine: DocumentSummary | undefined;
  looked: Looked | undefined;
}) {
  const stops = keptValue(`stops.${document.id}`);
  const count = Array.isArray(stops) ? stops.length : 0;
  const newest = machine?.versions.at(-1)?.number;
  const { footprint, machineVersion } = looked ?? {};
  const ran = kept(`ran.${document.id}`);
  return (
    <>
      <Lines most={1} color="ink">
        {(machine?.name ?? 'no machine') +
          (machineVersion ? ` ${machineVersion}` : '') +
          (machineVersion && newest && newest > machineVersion ? `, newest ${newest}` : '') +
          (document.versions.length > 0 ? ` · version ${document.versions.at(-1)?.number ?? ''}` : '')}
      </Lines>
      <Box height="36px">
        {footprint &&
          (footprint.problem === undefined ? (
            <>
              <Lines most={1} color="ink">{`${footprint.cells} of ${footprint.size.toLocaleString('en-US')} cells`}</Lines>
              <Strip footprint={footprint} name={document.name} />
            </>
          ) : (
            <Lines most={2} color="problem">
              {footprint.problem}
            </Lines>
          ))}
      </Box>
      <Lines most={1}>{(ran || 'not run yet') + (count > 0 ? ` · ${count} ${count === 1 ? 'breakpoint' : 'breakpoints'}` : '')}</Lines>
    </>
  );
}

/** Where it lies: code, data, and room that is kept free. */
function Strip({ footprint: { size, regions }, name }: { footprint: Footprint; name: string }) {
  const fill = { code: 'wire', data: 'data', room: 'edge' };
  return (
    <svg
      width="100%"
      height="14"
      viewBox={`0 0 ${size} 10`}
      preserveAspectRatio="none"
      role="img"
      aria-label={`Where ${name} lies in memory`}
    >
      <rect width={size} height="10" fill="var(--z-colors-sea2)" />
      {regions.map(({ from, to, kind }) => (
        <rect key={from} x={from} width={Math.max(size / 160, to - from + 1)} height="10" fill={`var(--z-colors-${fill[kind]})`}>
          <title>{kind}</title>
        </rect>
      ))}
    </svg>
  );
}
