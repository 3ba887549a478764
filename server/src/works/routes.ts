/** HTTP for students: tokens stand in headers, which are not logged; nothing but one's own is answered. */
import { Router, type Request } from 'express';
import { workDraft, workHandIn } from '@zettak/api/work';
import { isToken } from '../access/tokens';
import type { Together } from '../database/together';
import type { Jobs } from '../checking/jobs';
import { HttpProblem, readBody } from '../http/problem';
import type { WorkStore } from './store';

export const LINK_HEADER = 'x-zettak-link';
export const STUDENT_HEADER = 'x-zettak-student';

/** The token in a header; refused where there is none. */
export function tokenIn({ headers }: Request, name: string): string {
  const token = headers[name];
  if (!isToken(token))
    throw new HttpProblem(401, name === LINK_HEADER ? 'This asks for the link of an assignment.' : 'This asks for a student’s token.');
  return token;
}

/** Paths under /api/work. */
export function workRoutes(works: WorkStore, jobs: Jobs, together: Together): Router {
  const routes = Router();
  const both = (request: Request): [string, string] => [tokenIn(request, LINK_HEADER), tokenIn(request, STUDENT_HEADER)];
  routes.use((_request, response, next) => {
    response.set('Cache-Control', 'no-store');
    next();
  });
  routes.get('/', (request, response) => void response.json(works.assignment(tokenIn(request, LINK_HEADER))));
  routes.get('/draft', (request, response) => void response.json({ content: works.draft(...both(request)) ?? null }));
  routes.put('/draft', async (request, response) => {
    const tokens = both(request);
    const { content } = readBody(workDraft, request.body);
    await together.add(() => works.saveDraft(...tokens, content));
    response.status(204).end();
  });
  routes.post('/hand-ins', (request, response) => {
    const receipt = works.handIn(...both(request), readBody(workHandIn, request.body).bundle);
    jobs.wake();
    response.status(201).json(receipt);
  });
  routes.get('/receipts', (request, response) => void response.json(works.receipts(...both(request))));
  return routes;
}
