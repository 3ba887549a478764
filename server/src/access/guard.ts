/**
 * Who may do what. Without a passphrase there is one person on this computer, who may do everything. With one, every path
 * refuses but those that are named here; a student's paths look at the student's own tokens, a worker's at the worker's.
 */
import { Router, type RequestHandler } from 'express';
import { rateLimit } from 'express-rate-limit';
import { passphraseEntry } from '@zettak/api/access';
import { HttpProblem, readBody, sendProblem } from '../http/problem';
import { hasPassphrase, isPassphrase } from './passphrase';
import type { Sessions } from './sessions';
import type { Settings } from './settings';

export interface AccessParts {
  readonly settings: Settings;
  readonly sessions: Sessions;
  /** The pages come over TLS. */
  readonly secure: boolean;
}

/** Paths that ask for no session, below /api. */
const OPEN = /^\/(health|docs|openapi\.json|session|work(\/.*)?|worker(\/.*)?)$/;

/** Lets through what may be asked; everything else is refused, whether it exists or not. */
export function guard({ settings, sessions }: AccessParts): RequestHandler {
  return (request, _response, next) => {
    if (!hasPassphrase(settings) || OPEN.test(request.path)) return next();
    if (!sessions.isOpen(request)) throw new HttpProblem(401, 'This asks for the teacher’s passphrase.');
    // A page of another origin cannot set this header, whatever cookies its requests carry.
    if (request.method !== 'GET' && request.method !== 'HEAD' && request.headers['x-zettak'] === undefined)
      throw new HttpProblem(403, 'This came from no page of Zettak.');
    next();
  };
}

/** Wrong passphrases of one address within a quarter of an hour, and of all together. */
const MOST_WRONG = 10;
const MOST_WRONG_OF_ALL = 100;

/** Paths under /api/session: whether one is open, opening one, closing it. */
export function sessionRoutes({ settings, sessions, secure }: AccessParts): Router {
  const routes = Router();
  const refusal = new HttpProblem(429, 'Too many wrong passphrases. Wait a quarter of an hour.');
  const shared = { windowMs: 900_000, skipSuccessfulRequests: true, standardHeaders: true, legacyHeaders: false } as const;
  const handler: Parameters<typeof rateLimit>[0] = { ...shared, handler: (_request, response) => sendProblem(response, refusal) };
  routes.get('/', (request, response) => {
    const guarded = hasPassphrase(settings);
    response.json({ guarded, open: !guarded || sessions.isOpen(request) });
  });
  routes.post(
    '/',
    rateLimit({ ...handler, limit: MOST_WRONG }),
    rateLimit({ ...handler, limit: MOST_WRONG_OF_ALL, keyGenerator: () => 'all' }),
    async (request, response) => {
      const { passphrase } = readBody(passphraseEntry, request.body);
      if (!hasPassphrase(settings)) throw new HttpProblem(409, 'There is no passphrase: everything is open on this computer.');
      if (!(await isPassphrase(settings, passphrase))) throw new HttpProblem(401, 'That is not the passphrase.');
      sessions.open(response, secure);
      response.json({ guarded: true, open: true });
    },
  );
  routes.delete('/', (request, response) => {
    sessions.close(request, response);
    response.status(204).end();
  });
  return routes;
}
