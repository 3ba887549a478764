/**
 * Who may do what. Without a passphrase there is one person on this computer, who may do everything. With one, every path
 * refuses but those that are named here; a student's paths look at the student's own tokens, a worker's at the worker's.
 */
import { Router, type Request, type RequestHandler } from 'express';
import { passphraseEntry } from '@zettak/api/access';
import type { Clock } from '../documents/store';
import { count } from '@zettak/core/text/number';
import { HttpProblem, readBody } from '../http/problem';
import { createAttempts } from './attempts';
import { hasPassphrase, isPassphrase } from './passphrase';
import type { Sessions } from './sessions';
import type { Settings } from './settings';

export interface AccessParts {
  readonly settings: Settings;
  readonly sessions: Sessions;
  readonly now: Clock;
  /** The pages come over TLS. */
  readonly secure: boolean;
}

/** Paths that ask for no session, below /api. */
const OPEN = /^\/(health|docs|openapi\.json|session|work(\/.*)?|worker(\/.*)?)$/;

/** Whether a request may see and do what a teacher does. */
export const isTeacher = ({ settings, sessions }: Pick<AccessParts, 'settings' | 'sessions'>, request: Request): boolean =>
  !hasPassphrase(settings) || sessions.isOpen(request);

/** Lets through what may be asked; everything else is refused, whether it exists or not. */
export function guard({ settings, sessions }: Pick<AccessParts, 'settings' | 'sessions'>): RequestHandler {
  return (request, _response, next) => {
    if (!hasPassphrase(settings) || OPEN.test(request.path)) return next();
    if (!sessions.isOpen(request)) throw new HttpProblem(401, 'This asks for the teacher’s passphrase.');
    // A page of another origin cannot set this header, whatever cookies its requests carry.
    if (request.method !== 'GET' && request.method !== 'HEAD' && request.headers['x-zettak'] === undefined)
      throw new HttpProblem(403, 'This came from no page of Zettak.');
    next();
  };
}

/** Paths under /api/session: whether one is open, opening one, closing it. */
export function sessionRoutes({ settings, sessions, secure, now }: AccessParts): Router {
  const routes = Router();
  const attempts = createAttempts({ settings, now, secure });
  routes.get('/', (request, response) => {
    const guarded = hasPassphrase(settings);
    response.json({ guarded, open: !guarded || sessions.isOpen(request) });
  });
  routes.post('/', async (request, response) => {
    const { passphrase } = readBody(passphraseEntry, request.body);
    if (!hasPassphrase(settings)) throw new HttpProblem(409, 'There is no passphrase: everything is open on this computer.');
    const wait = attempts.secondsToWait(request);
    if (wait > 0) {
      response.set('Retry-After', String(wait));
      throw new HttpProblem(429, `Too many wrong passphrases came from here. Try again in ${count(wait, 'second')}.`);
    }
    attempts.made(request);
    if (!(await isPassphrase(settings, passphrase))) throw new HttpProblem(401, 'That is not the passphrase.');
    sessions.open(response, secure);
    attempts.succeeded(request, response);
    response.json({ guarded: true, open: true });
  });
  routes.delete('/', (request, response) => {
    sessions.close(request, response);
    response.status(204).end();
  });
  return routes;
}
