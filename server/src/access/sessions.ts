/** Sessions of the teacher: a cookie that no script reads, its token kept as a hash. */
import { eq, lt } from 'drizzle-orm';
import type { Request, Response } from 'express';
import type { Database } from '../database/database';
import { sessions } from '../database/schema';
import type { Clock } from '../documents/store';
import { isToken, newSessionToken, tokenHash } from './tokens';

const COOKIE = 'zettak';
const HOURS = 12;

export interface Sessions {
  isOpen(request: Request): boolean;
  open(response: Response, secure: boolean): void;
  close(request: Request, response: Response): void;
  /** A new passphrase ends them all. */
  closeAll(): void;
}

/** The value of a cookie of ours. */
export function cookieOf({ headers }: Request, wanted = COOKIE): string | undefined {
  const found = (headers.cookie ?? '').split(';').map((each) => each.trim().split('='));
  return found.find(([name]) => name === wanted)?.[1];
}

export function createSessions({ queries, write }: Database, now: Clock): Sessions {
  return {
    isOpen: (request) => {
      const token = cookieOf(request);
      if (!isToken(token)) return false;
      const found = queries
        .select()
        .from(sessions)
        .where(eq(sessions.tokenHash, tokenHash(token)))
        .get();
      return found !== undefined && Date.parse(found.expiresAt) > now().getTime();
    },
    open: (response, secure) => {
      const token = newSessionToken();
      const expires = new Date(now().getTime() + HOURS * 3_600_000);
      write(() => {
        queries.delete(sessions).where(lt(sessions.expiresAt, now().toISOString())).run();
        queries
          .insert(sessions)
          .values({ tokenHash: tokenHash(token), expiresAt: expires.toISOString() })
          .run();
      });
      response.cookie(COOKIE, token, { httpOnly: true, sameSite: 'strict', secure, path: '/', expires });
    },
    close: (request, response) => {
      const token = cookieOf(request);
      if (isToken(token))
        write(() =>
          queries
            .delete(sessions)
            .where(eq(sessions.tokenHash, tokenHash(token)))
            .run(),
        );
      response.clearCookie(COOKIE, { httpOnly: true, sameSite: 'strict', path: '/' });
    },
    closeAll: () => void write(() => queries.delete(sessions).run()),
  };
}
