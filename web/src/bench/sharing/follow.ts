/** The class's side: this page's own engine goes where the shared bench stands; it may let go, and come back. */
import { create } from 'zustand';
import type { BackupDocument } from '@zettak/api/backup';
import type { Shared } from '@zettak/api/share';
import { textOf } from '../../app/textOf';
import { tabMemory } from '../../app/preferences';
import { keepIn } from '../../documents/client';
import { openLessonDocuments } from '../../documents/lessonClient';
import { shareClient } from '../../documents/workClient';
import { engine } from '../../session/engine';
import { useDocument } from '../document';
import { openProgram } from '../opening';
import { OneListener } from './oneListener';

interface FollowState {
  /** This page follows a bench. */
  readonly follows: boolean;
  /** It goes along now. */
  readonly along: boolean;
  readonly shared?: Shared | undefined;
  /** The bench cannot be heard just now. */
  readonly away: boolean;
  readonly failure?: string | undefined;
}

export const useFollow = create<FollowState>()(() => ({ follows: false, along: true, away: false }));
const set = useFollow.setState;
const get = useFollow.getState;

const PROGRAM = 'followed';
const MACHINE = 'followed-machine';
/** ms until a lost line is tried again; twice as long from try to try, up to the most. */
const [AGAIN, MOST_AGAIN] = [2_000, 60_000];

const here: { token: string; run: number; going: boolean; source: string } = { token: '', run: -1, going: false, source: '' };

/** The parts of a run file that make documents. */
interface RunParts {
  readonly machine: { readonly name: string; readonly text: string; readonly language: number };
  readonly program: { readonly text: string; readonly parts?: Readonly<Record<string, string>> };
}

/** Before the first screen: takes the run as it is shared now, or tells why not. */
export async function beginFollowing(): Promise<void> {
  const given = /^#([A-Za-z0-9_-]{22,64})$/.exec(location.hash)?.[1];
  if (given !== undefined) {
    tabMemory.keep('follow', given);
    history.replaceState(null, '', location.pathname);
  }
  here.token = given ?? tabMemory.kept('follow') ?? '';
  set({ follows: true });
  // Until there is a run there is nothing: documents of the server are no business of this page.
  keepIn((await openLessonDocuments('followed', [])).client);
  if (here.token === '') return set({ failure: 'This page is opened by the link that your teacher shows.' });
  try {
    await takeRun();
  } catch (error) {
    set({ failure: textOf(error) });
    return;
  }
  listen();
}

async function takeRun(): Promise<void> {
  const { shared, definition } = await shareClient.seen(here.token);
  set({ shared });
  if (definition === null) return;
  here.run = shared.run;
  const file = JSON.parse(definition) as RunParts & Record<string, unknown>;
  here.source = JSON.stringify([file.machine, file.program]);
  const { client } = await openLessonDocuments('followed', documentsOf(file), { over: true });
  keepIn(client);
  tabMemory.keep(`open.${PROGRAM}`, JSON.stringify({ ...file, tick: shared.tick }));
}

function documentsOf({ machine, program }: RunParts): BackupDocument[] {
  const at = '2000-01-01T00:00:00.000Z';
  const plain = { machine: null, program: null, revision: 1, createdAt: at, updatedAt: at, removedAt: null, versions: [] };
  const version = { number: 1, text: machine.text, machineVersion: null, language: machine.language, createdAt: at };
  return [
    { ...plain, id: MACHINE, kind: 'machine', name: machine.name, draft: machine.text, versions: [version] },
    ...Object.entries(program.parts ?? {}).map(([name, text], index): BackupDocument => ({
      ...plain,
      id: `followed-part-${index + 1}`,
      kind: 'part',
      name,
      machine: MACHINE,
      draft: text,
    })),
    { ...plain, id: PROGRAM, kind: 'program', name: 'the shared bench', machine: MACHINE, draft: program.text },
  ];
}

/** What one page of this browser has heard, for all of them. */
interface Heard {
  readonly shared?: Shared;
  readonly away: boolean;
}

function listen(): void {
  const line = new OneListener<Heard>({
    channel: new BroadcastChannel(`zettak follow ${here.token}`),
    listen: hearing,
    hear: ({ shared, away }) => {
      set({ ...(shared && { shared }), away });
      if (!shared) return;
      if (shared.ended) line.stop();
      else void go();
    },
  });
  line.start();
  window.addEventListener('pagehide', ({ persisted }) => !persisted && line.stop());
}

/** Until it is ended, or another page listens. */
async function hearing(tell: (heard: Heard) => void, signal: AbortSignal): Promise<void> {
  let wait = AGAIN;
  while (!signal.aborted) {
    let ended = false;
    const leaving = new AbortController();
    const leave = (): void => leaving.abort();
    signal.addEventListener('abort', leave);
    await shareClient
      .follow(
        here.token,
        (shared) => {
          tell({ shared, away: false });
          wait = AGAIN;
          ended = shared.ended;
          if (ended) leaving.abort();
        },
        leaving.signal,
      )
      .catch(() => undefined);
    signal.removeEventListener('abort', leave);
    if (ended || signal.aborted) return;
    tell({ away: true });
    // A whole class that lost its line does not come back in one moment.
    await new Promise((resolve) => setTimeout(resolve, wait * (0.75 + Math.random() / 2)));
    wait = Math.min(MOST_AGAIN, 2 * wait);
  }
}

/** One way at a time; what came meanwhile is gone to next. */
async function go(): Promise<void> {
  if (here.going) return;
  here.going = true;
  try {
    for (;;) {
      const { shared, along } = get();
      if (!shared || !along || shared.paused || shared.run === 0) return;
      if (shared.run !== here.run) await anew();
      else await engine.run.follow(shared.tick);
      if (get().shared === shared) return;
    }
  } catch (error) {
    set({ failure: textOf(error) });
  } finally {
    here.going = false;
  }
}

/** The bench has been opened for the first time, or could not be. */
function opened(): Promise<void> {
  const isSo = (): boolean => {
    const { program, machine, failure: fails } = useDocument.getState();
    return (program?.id === PROGRAM && machine !== undefined) || fails !== undefined;
  };
  if (isSo()) return Promise.resolve();
  return new Promise((resolve) => {
    const leave = useDocument.subscribe(() => {
      if (!isSo()) return;
      leave();
      resolve();
    });
  });
}

/** Another definition: another program on the bench, or the same with other data. */
async function anew(): Promise<void> {
  await opened();
  const before = here.source;
  await takeRun();
  if (here.source !== before) useDocument.setState({ program: undefined, machine: undefined, failure: undefined });
  await openProgram(PROGRAM);
  await engine.run.follow(get().shared?.tick ?? 0);
}

/** Tries by itself from here on. */
export const letGo = (): void => set({ along: false });

/** Where the shared bench stands, with its program as it is. */
export async function comeBack(): Promise<void> {
  set({ along: true });
  here.run = -1;
  here.source = '';
  await go();
}
