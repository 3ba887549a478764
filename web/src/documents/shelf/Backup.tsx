/** Everything as one file, and back from it: what would come is shown before it does. */
import { chakra } from '@chakra-ui/react';
import { useState } from 'react';
import type { Backup as BackupFile, Restored } from '@zettak/api/backup';
import { Button } from '../../ui/Button';
import { FileButton } from '../../ui/FileButton';
import { Hint, Refusal } from '../../ui/Panel';
import { saveFile } from '../../ui/saveFile';
import { Window } from '../../ui/Window';
import { client } from '../client';

interface Preview {
  readonly backup: BackupFile;
  readonly rows: readonly { readonly name: string; readonly kind: string; readonly what: string }[];
}

/** A press makes a backup; another puts one back after a preview. */
export function Backup({ restored }: { restored: () => void }) {
  const [open, setOpen] = useState(false);
  const [said, setSaid] = useState('');
  const [refused, setRefused] = useState('');
  const [preview, setPreview] = useState<Preview>();
  const make = async (): Promise<void> => {
    setRefused('');
    try {
      const backup = await client.backup();
      saveFile(`zettak-${new Date().toISOString().slice(0, 10)}.json`, `${JSON.stringify(backup, undefined, 1)}\n`);
      setSaid(`${backup.documents.length} documents are in the file, each with its versions.`);
    } catch (error) {
      setRefused((error as Error).message);
    }
  };
  const look = async (file: File): Promise<void> => {
    setSaid('');
    setRefused('');
    setPreview(undefined);
    try {
      const backup = backupIn(await file.text());
      const present = await client.backup();
      setPreview({ backup, rows: backup.documents.map((each) => ({ name: each.name, kind: each.kind, what: becomes(each, present) })) });
    } catch (error) {
      setRefused(`${file.name}: ${(error as Error).message}`);
    }
  };
  const restore = async (): Promise<void> => {
    if (!preview) return;
    try {
      const done = (await client.restore(preview.backup)).restored;
      setPreview(undefined);
      setSaid(saysDone(done));
      restored();
    } catch (error) {
      setRefused((error as Error).message);
    }
  };
  const news = preview?.rows.filter((each) => each.what !== 'is here as it is') ?? [];
  return (
    <>
      <Button onClick={() => setOpen(true)} data-testid="backup">
        Backup
      </Button>
      <Window title="Backup of everything" open={open} close={() => setOpen(false)} testId="backup-window">
        <p>Machines, programs and texts of the course with all their versions, removed ones too, as one file.</p>
        <chakra.div display="flex" gap="8px" my="10px">
          <Button look="strong" onClick={() => void make()} data-testid="make-backup">
            Make a backup
          </Button>
          <FileButton
            words="Put one back …"
            label="Backup to put back"
            accept=".json"
            take={(file) => void look(file)}
            testId="restore-file"
          />
        </chakra.div>
        {said && <p role="status">{said}</p>}
        {refused && <Refusal role="alert">{refused}</Refusal>}
        {preview && (
          <>
            <p data-testid="restore-preview">
              {news.length === 0
                ? 'All of it is here as it is; nothing would change.'
                : `${news.length} of ${preview.rows.length} documents would come. Nothing that is here is overwritten.`}
            </p>
            <chakra.ul maxHeight="220px" overflow="auto" fontSize="13px" listStyleType="none" my="6px" tabIndex={0}>
              {news.map((each, at) => (
                <li key={at}>
                  <b>{each.name}</b> <Hint>{`${each.kind}: ${each.what}`}</Hint>
                </li>
              ))}
            </chakra.ul>
            {news.length > 0 && (
              <Button look="tone" onClick={() => void restore()} data-testid="restore">
                Put it back
              </Button>
            )}
          </>
        )}
      </Window>
    </>
  );
}

function backupIn(text: string): BackupFile {
  let said: unknown;
  try {
    said = JSON.parse(text);
  } catch {
    throw new Error('This is no backup: it is no JSON.');
  }
  const format = typeof said === 'object' && said !== null && 'format' in said ? said.format : undefined;
  if (format !== 'zettak backup' || !Array.isArray((said as { documents?: unknown }).documents))
    throw new Error('This is no backup of Zettak.');
  return said as BackupFile;
}

function becomes(entry: BackupFile['documents'][number], present: BackupFile): string {
  const known = present.documents.find((each) => each.id === entry.id);
  if (!known) return 'comes back';
  const written = (each: typeof entry): string =>
    JSON.stringify([each.kind, each.name, each.machine, each.draft, each.versions.map((version) => version.text)]);
  return written(known) === written(entry) ? 'is here as it is' : 'comes beside the one that is here, which is another by now';
}

function saysDone(done: readonly Restored[]): string {
  const count = (what: Restored['what']): number => done.filter((each) => each.what === what).length;
  return `${count('added')} came back, ${count('beside')} stand beside what is here, ${count('same')} were here already.${count('left out') > 0 ? ` Sets of ${count('left out')} programs were left out: these have others now.` : ''}`;
}
