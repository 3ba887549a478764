/** HTTP for workers on other computers: a token opens it, and nothing but checks and the texts they need is answered. */
import { timingSafeEqual } from 'node:crypto';
import { Router } from 'express';
import { beginning, verdict, type WorkerWelcome } from '@zettak/api/worker';
import { isToken, tokenHash } from '../access/tokens';
import type { CourseStore } from '../courses/store';
import type { Together } from '../database/together';
import { HttpProblem, readBody } from '../http/problem';
import { BUILD_HEADER, OTHER_BUILD } from './build';
import type { Desk } from './queued';

export interface DeskAccess {
  readonly desk: Desk;
  /** 128 bits or more, which the workers have, too. */
  readonly token: string;
  /** Of the checks that this server is built with; another one might come to other verdicts. */
  readonly build: string;
}

/** Paths under /api/worker. Without `access` everything is refused. */
export function deskRoutes(courses: CourseStore, together: Together, access: DeskAccess | undefined): Router {
  const routes = Router();
  const expected = access && Buffer.from(tokenHash(access.token), 'hex');
  const opened = (): DeskAccess => access!;
  routes.use((request, response, next) => {
    const given = /^Bearer (\S+)$/.exec(request.headers.authorization ?? '')?.[1];
    if (!expected || !isToken(given) || !timingSafeEqual(Buffer.from(tokenHash(given), 'hex'), expected))
      throw new HttpProblem(401, 'This asks for the token of a worker.');
    response.set('Cache-Control', 'no-store');
    next();
  });
  routes.get('/', (_request, response) => {
    const { desk, build } = opened();
    response.json({ queue: desk.queue, build } satisfies WorkerWelcome);
  });
  routes.use((request, _response, next) => {
    if (request.headers[BUILD_HEADER] !== opened().build) throw new HttpProblem(409, OTHER_BUILD);
    next();
  });
  routes.post('/jobs', (request, response) => {
    const { ticket, entry } = readBody(beginning, request.body);
    const job = opened().desk.begin(ticket, entry);
    if (!job) throw new HttpProblem(410, 'There is nothing to do here any more.');
    response.json({ source: job.source });
  });
  routes.get('/texts/:key', (request, response) => {
    const texts = courses.textsOf(request.params.key);
    if (!texts) throw new HttpProblem(410, 'No assignment has these texts any more.');
    response.json(texts);
  });
  routes.post('/verdicts', async (request, response) => {
    const { ticket, outcome } = readBody(verdict, request.body);
    response.json({ written: await together.add(() => opened().desk.end(ticket, outcome)) });
  });
  return routes;
}
