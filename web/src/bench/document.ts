/** Which program lies on the bench, on which machine, and what the course keeps for that. */
import { create } from 'zustand';
import type { LanguageHelp } from '@zettak/core/assembler/assist/help';
import type { Row } from '@zettak/core/image/program';
import type { Machine, PanelName } from '@zettak/core/machine/model/machine';
import type { DocumentDetail, DocumentSummary } from '@zettak/api/documents';
import { client } from '../documents/client';
import type { Draft, SaveState } from '../documents/drafts';

export interface DocumentState {
  readonly programs: readonly DocumentSummary[];
  readonly program?: DocumentDetail;
  readonly draft?: Draft;
  readonly saveState: SaveState;
  readonly machineName: string;
  readonly machineVersion: number;
  /** A newer version of the machine than the one on the bench. */
  readonly newerVersion?: number | undefined;
  /** Undefined also where the program's own cannot be put on the bench: its text can be read all the same. */
  readonly machine?: Machine | undefined;
  readonly help: LanguageHelp;
  /** Lines of the machine's system program that have cells. */
  readonly systemRows: readonly Row[];
  readonly course: readonly DocumentDetail[];
  /** Why there is nothing on the bench. */
  readonly failure?: string | undefined;
}

export const useDocument = create<DocumentState>()(() => ({
  programs: [],
  saveState: { kind: 'saved' },
  machineName: '',
  machineVersion: 0,
  help: { offers: [], names: [] },
  systemRows: [],
  course: [],
}));

/** What a panel is called: in the machine's own words where it has any. */
export const useHeading = (panel: PanelName, plain: string): string => useDocument((state) => state.machine?.words.panels[panel] ?? plain);

const set = useDocument.setState;
const get = useDocument.getState;

/** Its id; undefined where there is no machine to write it for. */
export async function createProgram(name: string, text: string): Promise<string | undefined> {
  const machine = get().program?.machine ?? get().programs[0]?.machine ?? (await client.list('machine'))[0]?.id;
  if (!machine) return undefined;
  return (await client.create('program', { name, text, machine })).id;
}

/** Saves the draft and makes a version of it; the sentence that tells of it. Throws what the server refuses. */
export async function keepProgramVersion(): Promise<string> {
  const { draft } = get();
  if (!draft) return '';
  await draft.flush();
  const { number } = await client.keepVersion('program', draft.id, draft.revision);
  return `Kept as version ${number}.`;
}

/** Takes over what the server knows of the program's versions. */
export async function refreshProgram(): Promise<void> {
  const { program } = get();
  if (program) set({ program: { ...program, versions: (await client.get('program', program.id)).versions } });
}

/** After another page or the Machines screen has saved a version. */
export async function lookForNewerMachine(): Promise<void> {
  const { program, machineVersion } = get();
  if (!program?.machine) return;
  const machine = await client.get('machine', program.machine).catch(() => undefined);
  const newest = machine?.versions.at(-1)?.number ?? 0;
  set({ newerVersion: newest > machineVersion ? newest : undefined });
}
