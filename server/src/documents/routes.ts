/** HTTP for documents of one kind; the same paths for each, as under /api/machines and /api/programs. */
import { Router } from 'express';
import { draftChange, newDocument, newVersion } from '@zettak/api/documents';
import { courseKinds, type CourseKind, type Kind } from '@zettak/api/kinds';
import type { Checker } from '../checking/checker';
import { HttpProblem, readBody } from '../http/problem';
import type { DocumentStore } from './store';
import { basesFor } from './bases';
import { LANGUAGE } from '@zettak/core/notation/parse';
import { documentName } from '@zettak/core/machine/document/name';

/** Paths of all kinds of documents; problems of the store become problem+json. */
export function documentRoutes(kind: Kind, store: DocumentStore, checker: Checker): Router {
  const routes = Router();

  routes.get('/', (request, response) => void response.json(store.list(kind, request.query.all === 'yes' ? 'all' : 'shelf')));

  routes.post('/', (request, response) => {
    const entry = readBody(newDocument, request.body);
    if (kind === 'trial' && !entry.program) throw new HttpProblem(400, 'program: sets name the program that they are for.');
    if (kind !== 'trial' && entry.program) throw new HttpProblem(400, `program: a ${kind} is for no program.`);
    if (kind !== 'machine' && !entry.machine && !entry.program) throw new HttpProblem(400, `machine: a ${kind} names its machine.`);
    response.status(201).json(store.create(kind, entry));
  });

  routes.get('/:id', (request, response) => void response.json(store.get(kind, request.params.id)));

  routes.put('/:id/draft', (request, response) => {
    response.json(store.saveDraft(kind, request.params.id, readBody(draftChange, request.body)));
  });

  // Machines and programs are removed first, and can be brought back; texts of the course are copied when they are used.
  routes.delete('/:id', (request, response) => {
    if (kind === 'trial' || isCourseKind(kind) || request.query.for === 'good') store.destroy(kind, request.params.id);
    else store.remove(kind, request.params.id);
    response.status(204).end();
  });

  routes.post('/:id/back', (request, response) => void response.json(store.bringBack(kind, request.params.id)));

  routes.post('/:id/versions', async (request, response) => {
    const { revision } = readBody(newVersion, request.body);
    const { id } = request.params;
    if (kind === 'machine') await refuseErrors(store.get(kind, id).draft, store, checker);
    const { draft } = store.get(kind, id);
    const name = kind === 'machine' ? documentName(draft) : undefined;
    response.status(201).json(store.keepVersion(kind, id, { revision, language: languageOf(draft), name }));
  });

  routes.get('/:id/versions/:number', (request, response) => {
    const { id, number } = request.params;
    if (!/^[1-9]\d{0,8}$/.test(number)) throw new HttpProblem(404, 'A version is named by its number.');
    response.json(store.version(kind, id, Number(number)));
  });

  return routes;
}

/** Only a document without errors becomes a version of a machine. */
async function refuseErrors(text: string, store: DocumentStore, checker: Checker): Promise<void> {
  const errors = await checker.machineErrors({ text, bases: basesFor(text, store) });
  const [first] = errors;
  if (first) throw new HttpProblem(422, `Line ${first.line}: ${first.sentence}`, { problems: errors.slice(0, 20) });
}

/** The language that a document is read in. */
const languageOf = (text: string): number => {
  const said = Number(/^language:[ \t]*([1-9][0-9]{0,8})[ \t]*(?:#.*)?$/m.exec(text)?.[1]);
  return said >= 1 ? said : LANGUAGE;
};

const isCourseKind = (kind: Kind): kind is CourseKind => (courseKinds as readonly Kind[]).includes(kind);
