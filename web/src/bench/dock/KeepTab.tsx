/** Moments of runs that are kept, put back and compared; and the run as files in open formats. */
import { useState } from 'react';
import { addToSets } from '../../documents/addToSets';
import { engine } from '../../session/engine';
import { saveFile } from '../../ui/saveFile';
import { keep, kept } from '../../app/preferences';
import type { Difference, RunExport } from '@zettak/core/trials/runFiles';
import { useDocument } from '../document';
import { linkHere } from '../link';
import { useLooks, type Looks, setLooks } from '../looks';
import { useRun } from '../run';
import { useText } from '../text';
import { Table } from '@chakra-ui/react';
import { Button } from '../../ui/Button';
import { Entry, Label } from '../../ui/Field';
import { Answer, Controls, Heading, Hint, Item, List } from '../../ui/Panel';
import { FileButton } from '../../ui/FileButton';

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

const lined = { variant: 'lined' } as object;

/** Moments lie in this browser, under the program. */
export function KeepTab() {
  const program = useDocument((state) => state.program?.id ?? '');
  const ticks = useRun((state) => state.marked?.ticks);
  const [list, setList] = useState(() => readSnapshots(program));
  const [note, setNote] = useState('');
  const [cells, setCells] = useState(() => kept(`signals.${program}`));
  const [told, setTold] = useState<string>();
  const [compared, setCompared] = useState<readonly Difference[]>();
  if (ticks === undefined) return <Hint as="p">Load a program first.</Hint>;
  const put = (snapshots: Snapshot[]): void => {
    if (keep(`snapshots.${program}`, JSON.stringify(snapshots))) setList(snapshots);
    else setTold('The browser has no room for another one. Save it as a file, or drop an older one.');
  };
  const copyLink = async (): Promise<void> => {
    const link = await linkHere(program);
    if ('refused' in link) return setTold(link.refused);
    try {
      await navigator.clipboard.writeText(link.address);
      setTold('The link is copied: it opens this program, with what this run was given, at this tick.');
    } catch {
      setTold(link.address);
    }
  };
  const keepAsSet = async (): Promise<void> => {
    const set = await engine.files.asSet(note.trim() || 'from the bench');
    if ('refused' in set) return setTold(set.refused);
    const { program: document } = useDocument.getState();
    if (!document) return;
    setTold(await addToSets(document, set));
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
    <div data-testid="keep">
      <Heading>Keep this moment</Heading>
      <Controls
        as="form"
        onSubmit={(event) => {
          event.preventDefault();
          // As it is looked at when it is asked for, behind whatever is kept by the time that it comes.
          const { base, space } = useLooks.getState();
          const moment = { note: note.trim() || `tick ${ticks.toLocaleString('en-US')}`, tick: ticks, looks: { base, space } };
          void take().then((text) => {
            if (text === undefined) return;
            put([...readSnapshots(program), { ...moment, text }]);
            setNote((now) => (now === note ? '' : now));
          });
        }}
      >
        <Entry
          value={note}
          placeholder={`tick ${ticks.toLocaleString('en-US')}`}
          maxLength={120}
          aria-label="Note on this moment"
          onChange={(event) => setNote(event.target.value)}
          data-testid="note"
        />
        <Button type="submit" data-testid="keep-moment">
          Keep
        </Button>
        <Button onClick={() => void take().then((text) => text !== undefined && saveFile(`${program}.run.json`, text))}>
          Save the run as a file
        </Button>
        <Button onClick={() => void copyLink()} data-testid="copy-link">
          Copy a link to here
        </Button>
        <Button onClick={() => void keepAsSet()} data-testid="keep-as-set">
          Keep as a set of trials
        </Button>
        <FileButton
          words="Open a run …"
          label="A kept run to open"
          accept=".json"
          testId="open-run"
          take={(file) => void file.text().then((text) => open(text))}
        />
      </Controls>
      <List>
        {list.map((each, at) => (
          <Item lined key={at} data-snapshot={each.note}>
            <b>{each.note}</b> <Hint>tick {each.tick.toLocaleString('en-US')}</Hint>
            <Button onClick={() => void open(each.text, each.looks)}>Put back</Button>
            <Button onClick={() => void compare(each.text)}>Compare with now</Button>
            <Button aria-label={`Drop ${each.note}`} onClick={() => put(list.filter((_, other) => other !== at))}>
              ×
            </Button>
          </Item>
        ))}
      </List>
      <Answer role="status" data-testid="kept-told">
        {told}
      </Answer>
      {compared && compared.length > 0 && (
        <Table.Root data-testid="compared" {...lined}>
          <Table.Header>
            <Table.Row>
              <Table.ColumnHeader scope="col">place</Table.ColumnHeader>
              <Table.ColumnHeader scope="col">kept</Table.ColumnHeader>
              <Table.ColumnHeader scope="col">now</Table.ColumnHeader>
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {compared.map((each) => (
              <Table.Row key={each.place}>
                <Table.Cell as="th" scope="row">
                  {each.place}
                </Table.Cell>
                <Table.Cell>{each.kept}</Table.Cell>
                <Table.Cell>{each.now}</Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
      <Heading>Write it out</Heading>
      <Controls>
        <Label>
          cells among the signals{' '}
          <Entry
            value={cells}
            placeholder="the program’s data"
            maxLength={2000}
            onChange={(event) => {
              setCells(event.target.value);
              keep(`signals.${program}`, event.target.value);
            }}
            data-testid="signals"
          />
        </Label>
      </Controls>
      <Controls>
        {EXPORTS.map(({ kind, says }) => (
          <Button key={kind} onClick={() => void write(kind)} data-testid={`export-${kind}`}>
            {says}
          </Button>
        ))}
      </Controls>
    </div>
  );
}
