/** How fast students' pages of one address may begin and hand in. A class of some hundred behind one address never meets these bounds. */
import type { RequestHandler } from 'express';
import { rateLimit } from 'express-rate-limit';
import type { Clock } from '../documents/store';
import { HttpProblem, sendProblem } from '../http/problem';
import { STUDENT_HEADER } from './routes';

/** Hand-ins of one address within ten minutes. */
const MOST_HAND_INS = 1000;
/** Students' tokens that one address shows for the first time within an hour. */
const MOST_TOKENS = 600;
const HOUR = 3_600_000;
const MOST_ADDRESSES = 10_000;

const refusal = (what: string): HttpProblem => new HttpProblem(429, `${what} Nothing is lost: wait some minutes, then try again.`);

/** Refuses hand-ins of an address that come faster than any class. */
export const handInLimit = (): RequestHandler =>
  rateLimit({
    ...{ windowMs: 600_000, limit: MOST_HAND_INS, standardHeaders: true, legacyHeaders: false },
    skip: ({ method }) => method !== 'POST',
    handler: (_request, response) => sendProblem(response, refusal('Too many hand-ins came from this address.')),
  });

/** Refuses what writes under yet another token, where an address has shown too many of them. */
export function newTokens(now: Clock): RequestHandler {
  const seen = new Map<string, { since: number; readonly tokens: Set<string> }>();
  return ({ method, ip = '', headers }, _response, next) => {
    const token = headers[STUDENT_HEADER];
    if (method === 'GET' || typeof token !== 'string') return next();
    const at = now().getTime();
    const found = seen.get(ip);
    const own = found && at - found.since < HOUR ? found : { since: at, tokens: new Set<string>() };
    seen.set(ip, own);
    if (seen.size > MOST_ADDRESSES) seen.delete(seen.keys().next().value!);
    if (!own.tokens.has(token) && own.tokens.size >= MOST_TOKENS) return next(refusal('Too many new students came from this address.'));
    own.tokens.add(token);
    next();
  };
}
