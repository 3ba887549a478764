/** The HTTP interface as OpenAPI 3.1, made from the schemas that requests are read with. */
import { z } from 'zod';
import { passphraseEntry } from './access';
import { backup } from './backup';
import { assignmentChange, courseFilesEntry, newAssignment, newCourse, newHandIns, newRemark } from './courses';
import { documentDetail, documentSummary, draftChange, newDocument, newVersion, problemDetail, versionDetail } from './documents';
import { kinds } from './kinds';
import { keptResults } from './results';
import { shareChange } from './share';
import { receipt, workDraft, workHandIn } from './work';
import { beginning, verdict } from './worker';

type Method = 'get' | 'post' | 'put' | 'delete';

/** Who may ask: whoever is there; a student with tokens; a worker with its own; the teacher's session, where there is a passphrase. */
type Who = 'anybody' | 'student' | 'worker' | 'teacher';

interface Operation {
  readonly method: Method;
  /** With `{id}` where something is named. */
  readonly path: string;
  readonly does: string;
  readonly who: Who;
  readonly body?: z.ZodType;
  readonly status: number;
  readonly answer?: z.ZodType;
  /** Of answers that are no JSON. */
  readonly type?: string;
}

const teacher = (method: Method, path: string, does: string, more: Partial<Operation> = {}): Operation => ({
  ...{ method, path, does, who: 'teacher', status: method === 'post' ? 201 : method === 'delete' ? 204 : 200 },
  ...more,
});

const ofKind = (kind: string): Operation[] => {
  const at = `/api/${kind}s`;
  return [
    teacher('get', at, `Every ${kind} on the shelf; with all=yes removed ones too.`, { answer: z.array(documentSummary) }),
    teacher('post', at, `A new ${kind}.`, { body: newDocument, answer: documentDetail }),
    teacher('get', `${at}/{id}`, `One ${kind} with its draft.`, { answer: documentDetail }),
    teacher('put', `${at}/{id}/draft`, 'Saves the draft over the revision that it was made from; 409 where that is older.', {
      body: draftChange,
      answer: documentDetail,
    }),
    teacher('delete', `${at}/{id}`, 'Takes it off the shelf; with for=good deletes it for good.'),
    teacher('post', `${at}/{id}/back`, 'Back on the shelf.', { status: 200, answer: documentDetail }),
    teacher('post', `${at}/{id}/versions`, 'Keeps the draft for ever.', { body: newVersion, answer: versionDetail }),
    teacher('get', `${at}/{id}/versions/{number}`, 'One version.', { answer: versionDetail }),
  ];
};

export const OPERATIONS: readonly Operation[] = [
  { method: 'get', path: '/api/health', does: 'Whether the server answers.', who: 'anybody', status: 200 },
  { method: 'get', path: '/api/openapi.json', does: 'This description.', who: 'anybody', status: 200 },
  { method: 'get', path: '/api/docs', does: 'This description, to be read.', who: 'anybody', status: 200, type: 'text/html' },
  {
    method: 'get',
    path: '/api/session',
    does: 'Whether there is a passphrase, and whether a session is open.',
    who: 'anybody',
    status: 200,
  },
  {
    method: 'post',
    path: '/api/session',
    does: 'Opens the teacher’s session: a cookie.',
    who: 'anybody',
    body: passphraseEntry,
    status: 200,
  },
  { method: 'delete', path: '/api/session', does: 'Closes it.', who: 'anybody', status: 204 },
  { method: 'get', path: '/api/work', does: 'The assignment of a link, with the shown sets alone.', who: 'student', status: 200 },
  { method: 'get', path: '/api/work/draft', does: 'One’s own draft.', who: 'student', status: 200 },
  { method: 'put', path: '/api/work/draft', does: 'Saves one’s own draft.', who: 'student', body: workDraft, status: 204 },
  {
    method: 'post',
    path: '/api/work/hand-ins',
    does: 'Hands in a bundle; the answer is a receipt.',
    who: 'student',
    body: workHandIn,
    status: 201,
    answer: receipt,
  },
  { method: 'get', path: '/api/work/receipts', does: 'One’s own receipts.', who: 'student', status: 200, answer: z.array(receipt) },
  { method: 'get', path: '/api/work/follow', does: 'Where the shared bench of a link stands, and its run.', who: 'student', status: 200 },
  {
    method: 'get',
    path: '/api/work/follow/events',
    does: 'Where it stands from now on, as Server-Sent Events.',
    who: 'student',
    status: 200,
    type: 'text/event-stream',
  },
  { method: 'get', path: '/api/worker', does: 'The queue that a worker takes checks from.', who: 'worker', status: 200 },
  {
    method: 'post',
    path: '/api/worker/jobs',
    does: 'Begins a check; the answer is its source.',
    who: 'worker',
    body: beginning,
    status: 200,
  },
  { method: 'get', path: '/api/worker/texts/{key}', does: 'What hand-ins are checked against.', who: 'worker', status: 200 },
  { method: 'post', path: '/api/worker/verdicts', does: 'What came of a check; written once.', who: 'worker', body: verdict, status: 200 },
  ...kinds.flatMap(ofKind),
  teacher('get', '/api/results/{program}', 'Kept results of the sets of a program.'),
  teacher('put', '/api/results/{program}/{key}', 'Keeps results.', { body: keptResults, status: 204 }),
  teacher('get', '/api/backup', 'All documents as one value.', { answer: backup }),
  teacher('post', '/api/backup', 'Puts back what is missing.', { body: backup, status: 200 }),
  teacher('get', '/api/courses', 'Courses with their assignments.'),
  teacher('post', '/api/courses', 'A new course.', { body: newCourse }),
  teacher('get', '/api/courses/{id}/files', 'A course as files by their paths, with hidden sets and solutions.'),
  teacher('post', '/api/courses/files', 'Takes in a course.', { body: courseFilesEntry }),
  teacher('put', '/api/courses/{id}', 'Another name.', { body: newCourse, status: 204 }),
  teacher('delete', '/api/courses/{id}', 'Deletes a course with everything that came in for it.'),
  teacher('post', '/api/assignments', 'A new assignment, made of a program.', { body: newAssignment }),
  teacher('get', '/api/assignments/{id}', 'One assignment.'),
  teacher('get', '/api/assignments/{id}/texts', 'What its hand-ins are checked against.'),
  teacher('put', '/api/assignments/{id}', 'Changes an assignment; what decides over verdicts is checked anew.', { body: assignmentChange }),
  teacher('delete', '/api/assignments/{id}', 'Deletes it with everything that came in.'),
  teacher('post', '/api/assignments/{id}/link', 'A new link for students; its token is told this once.'),
  teacher('delete', '/api/assignments/{id}/link', 'Ends the link.'),
  teacher('put', '/api/assignments/{id}/remarks', 'A remark on a group of mistakes or on a label.', { body: newRemark, status: 204 }),
  teacher('get', '/api/assignments/{id}/matrix', 'Hand-ins by sets, with groups, remarks and progress.'),
  teacher('get', '/api/assignments/{id}/marks.csv', 'Marks of the newest hand-in of each label.', { type: 'text/csv' }),
  teacher('get', '/api/assignments/{id}/events', 'Progress of checks, as Server-Sent Events.', { type: 'text/event-stream' }),
  teacher('post', '/api/assignments/{id}/hand-ins', 'Takes in programs or bundles, all or none.', { body: newHandIns }),
  teacher('delete', '/api/assignments/{id}/hand-ins', 'Deletes all hand-ins for good.'),
  teacher('post', '/api/hand-ins/{id}/choice', 'Makes the hand-ins of this origin the ones that count for their label.', { status: 204 }),
  teacher('post', '/api/assignments/{id}/checks', 'Checks everything again.', { status: 202 }),
  teacher('delete', '/api/assignments/{id}/checks', 'Calls off what waits.', { status: 200 }),
  teacher('post', '/api/share', 'Shares the bench; the share before ends. The token of its link is told this once.'),
  teacher('put', '/api/share', 'Where the shared bench stands, and its run where that is another.', { body: shareChange }),
  teacher('delete', '/api/share', 'Ends the share.'),
  teacher('get', '/api/hand-ins/{id}', 'One hand-in with its history.'),
  teacher('delete', '/api/hand-ins/{id}', 'Deletes one hand-in for good.'),
  teacher('post', '/api/receipts', 'Whether a receipt is one that this server has signed.', { body: receipt, status: 200 }),
];

const schemaOf = (schema: z.ZodType, io: 'input' | 'output'): object => {
  const { $schema: _, ...rest } = z.toJSONSchema(schema, { io, unrepresentable: 'any' }) as Record<string, unknown>;
  return rest;
};

const SECURITY: Readonly<Record<Who, readonly object[]>> = {
  anybody: [{}],
  student: [{ link: [], student: [] }],
  worker: [{ worker: [] }],
  teacher: [{ session: [] }],
};

/** The description; plain data. */
export function openApi(version: string): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const { method, path, does, who, body, status, answer, type } of OPERATIONS) {
    const named = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({ name, in: 'path', required: true, schema: { type: 'string' } }));
    const content = answer
      ? { 'application/json': { schema: schemaOf(answer, 'output') } }
      : type === undefined
        ? undefined
        : { [type]: {} };
    (paths[path] ??= {})[method] = {
      summary: does,
      security: SECURITY[who],
      ...(named.length > 0 && { parameters: named }),
      ...(body && { requestBody: { required: true, content: { 'application/json': { schema: schemaOf(body, 'input') } } } }),
      responses: {
        [status]: { description: 'As asked.', ...(content && { content }) },
        default: {
          description: 'What went wrong, in a sentence (RFC 9457).',
          content: { 'application/problem+json': { schema: schemaOf(problemDetail, 'output') } },
        },
      },
    };
  }
  const header = (name: string, description: string) => ({ type: 'apiKey', in: 'header', name, description });
  return {
    openapi: '3.1.0',
    info: {
      title: 'Zettak',
      version,
      description: 'Machines, programs, trials and classes. Requests that write carry the header x-zettak.',
    },
    paths,
    components: {
      securitySchemes: {
        session: { type: 'apiKey', in: 'cookie', name: 'zettak', description: 'The teacher’s session, where there is a passphrase.' },
        link: header('x-zettak-link', 'The token of an assignment’s link.'),
        worker: { type: 'http', scheme: 'bearer', description: 'The token in ZETTAK_WORKER_TOKEN.' },
        student: header('x-zettak-student', 'The token of a student’s browser.'),
      },
    },
  };
}
