/** Opens an assignment from its link: what the server tells of it, or what this browser kept of it before. */
import type { BackupDocument } from '@zettak/api/backup';
import type { PublicAssignment, PublicContent, StaticLesson } from '@zettak/api/work';
import type { JournalEntry } from '@zettak/core/trials/handIns/bundle';
import { forget, keep, kept, keptValue } from '../app/preferences';
import { keepIn, Refused, Unreachable } from '../documents/client';
import { Journal, note, openJournal } from '../documents/journal';
import { putBench } from '../documents/lessonBench';
import { openLessonDocuments } from '../documents/lessonClient';
import { workClient, type Tokens } from '../documents/workClient';
import { machineOf, programOf, useWork } from './state';

const set = useWork.setState;
/** ms after a save until the server has the draft, too. */
const SENT_AFTER = 2_000;

/** 128 bits by chance, as they stand in headers. */
function newToken(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return btoa(String.fromCharCode(...bytes))
    .replace(/\+/g, '-')
    .replace(/\//g, '_')
    .replace(/=+$/, '');
}

/** The link's token stands behind the “#” of the address, which no server sees; this browser keeps it, and a token of the student's. */
function tokensOf(id: string): Tokens | undefined {
  const given = /^#([A-Za-z0-9_-]{22,64})$/.exec(location.hash)?.[1];
  if (given !== undefined) {
    keep(`link.${id}`, given);
    history.replaceState(null, '', location.pathname);
  }
  const link = given ?? kept(`link.${id}`);
  const student = kept(`student.${id}`) || newToken();
  keep(`student.${id}`, student);
  return link === '' ? undefined : { link, student };
}

/** Before the first screen is shown; whatever fails is told on it. */
export async function openWork(id: string): Promise<void> {
  const tokens = tokensOf(id);
  if (!tokens) return set({ failure: 'This page is opened by the link that your teacher gives you.' });
  const asked = await ask(tokens);
  if ('failure' in asked) return set({ failure: asked.failure, tokens });
  const { assignment, away } = asked;
  set({ assignment, tokens, away, label: kept('label') });
  if (!assignment.content) return;
  if (!away) keep(`assignment.${id}`, JSON.stringify(assignment));
  const lesson = await openLessonDocuments(id, documentsOf(assignment.id, assignment.name, assignment.content));
  keepIn(lesson.client);
  if (assignment.content.bench) putBench(assignment.content.bench, programOf(id), machineOf(id));
  await takeDraft(id, tokens, lesson.client);
  startJournal(id);
  const sending: { timer: ReturnType<typeof setTimeout> | undefined } = { timer: undefined };
  lesson.onSaved = (kind, document, text) => {
    if (kind !== 'program' || document !== programOf(id)) return;
    note('edited');
    clearTimeout(sending.timer);
    sending.timer = setTimeout(() => void workClient.saveDraft(tokens, text).catch(() => undefined), SENT_AFTER);
  };
  lesson.onResults = (rows) => {
    const verdicts = (JSON.parse(rows) as { row?: { verdict?: string } }[]).map((each) => each.row?.verdict);
    note('tried', `${verdicts.filter((each) => each === 'holds').length} of ${verdicts.length} hold`);
  };
  if (!away)
    await workClient
      .receipts(tokens)
      .then((receipts) => set({ receipts }))
      .catch(() => undefined);
}

async function ask(
  tokens: Tokens,
): Promise<{ readonly assignment: PublicAssignment; readonly away: boolean } | { readonly failure: string }> {
  const id = /^\/w\/([a-z0-9-]+)/.exec(location.pathname)?.[1] ?? '';
  try {
    const assignment = await workClient.assignment(tokens);
    if (assignment.id !== id) return { failure: 'This link is for another assignment.' };
    return { assignment, away: false };
  } catch (error) {
    if (error instanceof Refused) {
      if (error.status === 404) forget(`link.${id}`);
      return { failure: error.detail };
    }
    const assignment = keptValue(`assignment.${id}`) as PublicAssignment | undefined;
    if (error instanceof Unreachable && assignment) return { assignment, away: true };
    return {
      failure: 'The server cannot be reached, and this browser has not seen the assignment before. Try again when there is a network.',
    };
  }
}

/** A lesson in a folder: everything that it needs lies in its file, and there is no server to ask. */
export async function openFolder(file: string): Promise<void> {
  const lesson = await fetch(file)
    .then((response) => (response.ok ? (response.json() as Promise<StaticLesson>) : undefined))
    .catch(() => undefined);
  if (lesson?.zettak !== 'lesson') return set({ failure: 'The lesson cannot be read: lesson.json is missing or damaged.' });
  const where = location.pathname.replace(/index\.html$/, '');
  const documents = lesson.assignments.flatMap(({ id, name, content }) => (content ? documentsOf(id, name, content) : []));
  const own = await openLessonDocuments(`folder ${where}`, documents);
  keepIn(own.client);
  for (const { id, content } of lesson.assignments) if (content?.bench) putBench(content.bench, programOf(id), machineOf(id));
  startJournal(`folder ${where}`);
  own.onSaved = (kind) => kind === 'program' && note('edited');
  set({ choices: lesson.assignments, lesson: lesson.name, label: kept('label') });
  const wanted = lesson.assignments.find((each) => each.id === kept('folder task')) ?? lesson.assignments[0];
  set(wanted ? { assignment: wanted } : { failure: 'There is no task in this lesson.' });
}

/** In another browser of the same student nothing is here yet: then the server's draft counts. */
async function takeDraft(id: string, tokens: Tokens, client: Awaited<ReturnType<typeof openLessonDocuments>>['client']): Promise<void> {
  const program = await client.get('program', programOf(id));
  if (program.revision > 1) return;
  const { content } = await workClient.draft(tokens).catch(() => ({ content: null }));
  if (content !== null && content !== program.draft)
    await client.saveDraft('program', program.id, { text: content, revision: program.revision });
}

function startJournal(id: string): void {
  const before = keptValue(`journal.${id}`);
  const entries = Array.isArray(before) ? (before as JournalEntry[]) : [];
  openJournal(new Journal(entries, (all) => keep(`journal.${id}`, JSON.stringify(all)), Date.now));
  note('opened');
}

/** The assignment as documents: its machine in its version, the parts, the student's program, the shown sets. */
export function documentsOf(id: string, name: string, content: PublicContent): BackupDocument[] {
  const at = '2000-01-01T00:00:00.000Z';
  const plain = { machine: null, program: null, revision: 1, createdAt: at, updatedAt: at, removedAt: null, versions: [] };
  const machine = machineOf(id);
  const version = (text: string, number: number) => ({ number, text, machineVersion: null, language: content.language, createdAt: at });
  return [
    {
      ...plain,
      id: machine,
      kind: 'machine',
      name: content.machineName,
      draft: content.machine,
      versions: [version(content.machine, content.machineVersion)],
    },
    ...Object.entries(content.bases).map(([base, text], index): BackupDocument => ({
      ...plain,
      id: `${id}-base-${index + 1}`,
      kind: 'machine',
      name: base,
      draft: text,
      versions: [version(text, 1)],
    })),
    ...Object.entries(content.parts).map(([part, text], index): BackupDocument => ({
      ...plain,
      id: `${id}-part-${index + 1}`,
      kind: 'part',
      name: part,
      machine,
      draft: text,
    })),
    { ...plain, id: programOf(id), kind: 'program', name, machine, draft: content.frame },
    { ...plain, id: `sets-${id}`, kind: 'trial', name, machine, program: programOf(id), draft: content.sets },
  ];
}
