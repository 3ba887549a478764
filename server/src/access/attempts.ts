/**
 * Wrong passphrases, counted by where they come from: a browser that has signed in before, else an address. After some
 * wrong ones the next must wait, longer from one to the next. A browser on the server's own computer never waits.
 */
import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import type { Request, Response } from 'express';
import type { Clock } from '../documents/store';
import { cookieOf } from './sessions';
import type { Settings } from './settings';

const COOKIE = 'zettak-device';
const DAYS = 180;
/** Wrong ones that cost no time; then seconds double from 1 up to the longest wait. */
const FREE = 5;
const LONGEST = 300;
/** A count is forgotten after so many seconds without another wrong one. */
const FORGOTTEN = 3600;
const MOST_PLACES = 10_000;

interface Place {
  readonly wrong: number;
  /** ms of the clock. */
  readonly last: number;
}

export interface Attempts {
  /** 0: an attempt may be made now. */
  secondsToWait(request: Request): number;
  /** Counts an attempt before it is checked, so that many at once are as many. */
  made(request: Request): void;
  /** Its place is forgiven, and the browser is known from now on. */
  succeeded(request: Request, response: Response): void;
}

/** A proxy on this computer passes on what comes from others, and says so. */
const isThisComputer = ({ socket, headers }: Request): boolean =>
  /^(::1|(::ffff:)?127(\.\d+){3})$/.test(socket.remoteAddress ?? '') &&
  headers['x-forwarded-for'] === undefined &&
  headers.forwarded === undefined;

const waitAfter = (wrong: number): number => (wrong < FREE ? 0 : Math.min(LONGEST, 2 ** (wrong - FREE)));

export function createAttempts({ settings, now, secure }: { settings: Settings; now: Clock; secure: boolean }): Attempts {
  const places = new Map<string, Place>();
  const signed = (id: string): string => `${id}.${createHmac('sha256', settings.secret('devices')).update(id).digest('base64url')}`;

  /** The browser by its signed cookie, else the address. */
  const nameOf = (request: Request): string => {
    const cookie = cookieOf(request, COOKIE) ?? '';
    const id = cookie.split('.')[0]!;
    const expected = Buffer.from(signed(id));
    const given = Buffer.from(cookie);
    if (id !== '' && expected.length === given.length && timingSafeEqual(expected, given)) return `browser ${id}`;
    return `address ${request.ip ?? ''}`;
  };

  const placeOf = (request: Request): Place => {
    const found = places.get(nameOf(request));
    return found && now().getTime() - found.last < FORGOTTEN * 1000 ? found : { wrong: 0, last: 0 };
  };

  return {
    secondsToWait: (request) => {
      if (isThisComputer(request)) return 0;
      const { wrong, last } = placeOf(request);
      return Math.max(0, Math.ceil(waitAfter(wrong) - (now().getTime() - last) / 1000));
    },
    made: (request) => {
      const name = nameOf(request);
      const { wrong } = placeOf(request);
      places.delete(name);
      places.set(name, { wrong: wrong + 1, last: now().getTime() });
      if (places.size > MOST_PLACES) places.delete(places.keys().next().value!);
    },
    succeeded: (request, response) => {
      places.delete(nameOf(request));
      const expires = new Date(now().getTime() + DAYS * 86_400_000);
      const id = randomBytes(12).toString('base64url');
      response.cookie(COOKIE, signed(id), { httpOnly: true, sameSite: 'strict', secure, path: '/api/session', expires });
    },
  };
}
