/** The shelf of machines: what each is made of, its opcode map in small, who uses it, whether its draft is sound. */
import { Box, Flex } from '@chakra-ui/react';
import { Plus } from 'lucide-react';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import type { DocumentSummary } from '@zettak/api/documents';
import { documentName, withDocumentName } from '@zettak/core/machine/document/name';
import { programSpaceOf, type Machine, type Tone } from '@zettak/core/machine/model/machine';
import { firstCells } from '@zettak/core/machine/model/opcodeMap';
import { unitOf } from '@zettak/core/text/number';
import { Shell } from '../app/Shell';
import { baseTexts } from '../documents/baseTexts';
import { textOf } from '../app/textOf';
import { client } from '../documents/client';
import { Backup } from '../documents/shelf/Backup';
import { addMachine, besides, isMachineFile, plainName, readFiles, zipOf, type Taken } from '../documents/shelf/files';
import { Lines } from '../documents/shelf/Lines';
import { Shelf } from '../documents/shelf/Shelf';
import { engine } from '../session/engine';
import { Button } from '../ui/Button';
import { saveFile } from '../ui/saveFile';

/** What is known of a machine besides its summary. */
interface Looked {
  readonly text: string;
  readonly machine: Machine | undefined;
  readonly errors: number;
  /** The draft says something else than the newest version. */
  readonly changed: boolean;
}

async function lookAt({ id, versions }: DocumentSummary): Promise<Looked> {
  const { draft } = await client.get('machine', id);
  await engine.texts.setBases(await baseTexts(draft));
  const { machine, clashing, problems } = await engine.texts.checkMachine(draft);
  const newest = versions.at(-1);
  const kept = newest && (await client.version('machine', id, newest.number));
  const errors = problems.filter((each) => each.grade === 'error').length;
  return { text: draft, machine: machine ?? clashing, errors, changed: kept?.text !== draft };
}

export function MachinesShelf() {
  const [machines, setMachines] = useState<readonly DocumentSummary[]>();
  const [programs, setPrograms] = useState<readonly DocumentSummary[]>([]);
  const [failure, setFailure] = useState<string>();
  const [looked, setLooked] = useState<ReadonlyMap<string, Looked>>(new Map());
  const navigate = useNavigate();
  const reload = useCallback((): void => {
    void Promise.all([client.list('machine'), client.list('program')]).then(
      ([own, others]) => {
        setMachines(own);
        setPrograms(others);
        setFailure(undefined);
      },
      (error: unknown) => setFailure(textOf(error)),
    );
  }, []);
  useEffect(reload, [reload]);
  useEffect(() => {
    let live = true;
    void (async () => {
      // One after the other: the first cards are whole while the last are still looked at.
      for (const each of machines ?? []) {
        const found = await lookAt(each).catch(() => undefined);
        if (!live) return;
        if (found) setLooked((all) => new Map(all).set(each.id, found));
      }
    })();
    return () => {
      live = false;
    };
  }, [machines]);
  const all = machines ?? [];
  const draftOf = async ({ id }: DocumentSummary): Promise<string> => (await client.get('machine', id)).draft;
  const make = async (text: string): Promise<void> => void navigate(`/machines/${(await addMachine(text, all)).id}`);
  const take = async (files: readonly File[]): Promise<readonly Taken[]> => {
    const { texts, refused } = await readFiles(files);
    const done: Taken[] = [...refused];
    let present = await client.list('machine');
    for (const { name, text } of texts) {
      if (!isMachineFile(name)) {
        done.push({ file: name, says: 'A machine’s file ends in .yaml; programs are taken in on the screen Programs.', ok: false });
        continue;
      }
      try {
        const made = await addMachine(text, present, plainName(name).replace(/[^A-Za-z0-9_-]/g, '-'));
        present = [...present, made];
        const { problems } = await engine.texts.checkMachine(text);
        const [first, ...more] = problems.filter((each) => each.grade === 'error');
        // One that is sound can be used at once: programs run on versions.
        if (!first) await client.keepVersion('machine', made.id, made.revision);
        const state = first
          ? `, with ${more.length + 1} ${more.length > 0 ? 'errors' : 'error'}. Line ${first.line}: ${first.sentence}`
          : ', version 1.';
        done.push({ file: name, says: `taken as ${made.name}${state}`, ok: !first, id: made.id });
      } catch (error) {
        done.push({ file: name, says: (error as Error).message, ok: false });
      }
    }
    return done;
  };
  const exportAll = async (): Promise<void> => {
    const texts = await Promise.all(all.map(async (each) => ({ name: each.name, text: await draftOf(each) })));
    saveFile('machines.zip', zipOf(texts, []));
  };
  return (
    <Shell
      title="Machines"
      controls={
        <Flex flex="1" justify="flex-end">
          <Button look="go" onClick={() => void navigate('/machines/new')} data-testid="new-machine">
            <Plus size={15} aria-hidden /> New machine
          </Button>
        </Flex>
      }
    >
      <Shelf
        kind="machine"
        documents={machines}
        failure={failure}
        reload={reload}
        linkTo={({ id }) => `/machines/${id}`}
        accept=".yaml,.yml,.zip"
        take={take}
        rename={async (document, name) => {
          const { draft, revision } = await client.get('machine', document.id);
          const plain = besides(
            name.replace(/[^A-Za-z0-9_-]/g, '-'),
            all.filter((each) => each.id !== document.id),
          );
          await client.saveDraft('machine', document.id, { text: withDocumentName(draft, plain), revision, name: plain });
        }}
        actions={(document) => [
          { id: 'card', says: 'Reference card', act: () => void navigate(`/machines/${document.id}/card`) },
          { id: 'duplicate', says: 'Duplicate', act: () => void draftOf(document).then(make) },
          { id: 'derive', says: 'Derive a machine from it', act: () => void make(derived(document.name)) },
          { id: 'export', says: 'Export', act: () => void draftOf(document).then((text) => saveFile(`${document.name}.yaml`, text)) },
        ]}
        body={(document) => (
          <CardBody
            document={document}
            looked={looked.get(document.id)}
            users={programs.filter((each) => each.machine === document.id).map((each) => each.name)}
          />
        )}
        controls={
          <>
            <Backup restored={reload} />
            <Button onClick={() => void exportAll()} disabled={all.length === 0} data-testid="export-all">
              Export all
            </Button>
          </>
        }
        empty={{
          title: 'There is no machine yet.',
          says: 'Press “New machine” above: four questions make a small one that runs at once. Or drop files here.',
        }}
      />
    </Shell>
  );
}

const derived = (name: string): string =>
  `# Everything is as in ${name}, but for what is said here.\nmachine: ${name}-changed\nbased on: ${name}\ntitle: ${name}, changed\n`;

function CardBody({ document, looked, users }: { document: DocumentSummary; looked: Looked | undefined; users: readonly string[] }) {
  const number = document.versions.at(-1)?.number;
  const machine = looked?.machine;
  return (
    <>
      <Lines most={2} color="ink2">
        {machine?.title ?? (looked ? (documentName(looked.text) ? '' : 'no name yet') : '…')}
      </Lines>
      <Flex gap="12px" height="90px">
        <Box flex="1" minWidth="0">
          <Lines most={3} color="ink">
            {machine && shapeWords(machine)}
          </Lines>
          <Lines most={2} color={looked && looked.errors > 0 ? 'problem' : 'ink3'} data-verdict={looked?.errors}>
            {(number ? `version ${number}` : 'no version yet') + (looked ? verdict(looked, number) : '')}
          </Lines>
        </Box>
        {machine && <SmallMap machine={machine} />}
      </Flex>
      <Lines most={1}>{usedBy(users)}</Lines>
    </>
  );
}

const verdict = ({ errors, changed }: Looked, number: number | undefined): string =>
  errors > 0 ? `, ${errors} ${errors === 1 ? 'error' : 'errors'} in the draft` : changed && number ? ', changed since' : '';

/** “8-bit words, 7 registers, 33 instructions”. */
function shapeWords(machine: Machine): string {
  const count = (size: number, noun: string): string => `${size} ${noun}${size === 1 ? '' : 's'}`;
  const mnemonics = new Set(machine.forms.map((each) => each.mnemonic)).size;
  const words = `words of ${machine.wordWidth} ${unitOf(machine.radix)}`;
  return `${words}, ${count(machine.registers.length, 'register')}, ${count(mnemonics, 'instruction')}, ${programSpaceOf(machine).cells.toLocaleString('en-US')} cells`;
}

const usedBy = (users: readonly string[]): string =>
  users.length === 0
    ? 'no program is for it'
    : users.length <= 2
      ? `for ${users.join(' and ')}`
      : `for ${users.length} programs, ${users[0]} first`;

const FILL: Readonly<Record<Tone, string>> = { water: 'address', sand: 'wire', rust: 'data', mist: 'ink3', moss: 'moss', plum: 'plum' };

/** The opcode map in small: used first cells in the colours of their families. */
function SmallMap({ machine }: { machine: Machine }) {
  const { columns, cells } = useMemo(() => firstCells(machine), [machine]);
  const tones = useMemo(() => new Map(machine.families.map((each) => [each.name, each.tone])), [machine]);
  const rows = Math.ceil(cells.length / columns);
  return (
    <svg
      width="84"
      height="90"
      viewBox={`0 0 ${columns} ${rows}`}
      preserveAspectRatio="none"
      role="img"
      aria-label={`Opcode map of ${machine.name}`}
    >
      <rect width={columns} height={rows} fill="var(--z-colors-sea2)" />
      {cells.map(({ forms: [form], clash }, at) =>
        form ? (
          <rect
            key={at}
            x={(at % columns) + 0.08}
            y={Math.floor(at / columns) + 0.08}
            width="0.84"
            height="0.84"
            fill={`var(--z-colors-${clash ? 'problem' : FILL[tones.get(form.family) ?? 'mist']})`}
          />
        ) : null,
      )}
    </svg>
  );
}
