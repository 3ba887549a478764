/** The whole HTTP application over a store: what is let in, the interface under /api, the built pages. Listens nowhere. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import compression from 'compression';
import express, { type Express, type RequestHandler, type Response } from 'express';
import { ipKeyGenerator, rateLimit } from 'express-rate-limit';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import { kinds } from '@zettak/api/kinds';
import { resultRoutes, type ResultStore } from '../trials/results';
import type { Checker } from '../checking/checker';
import { deskRoutes, type DeskAccess } from '../checking/deskRoutes';
import { courseRoutes, type CourseParts } from '../courses/routes';
import { backup } from '@zettak/api/backup';
import { documentRoutes } from '../documents/routes';
import type { Clock, DocumentStore } from '../documents/store';
import { guard, isTeacher, sessionRoutes } from '../access/guard';
import type { Sessions } from '../access/sessions';
import type { Database } from '../database/database';
import type { Together } from '../database/together';
import { followRoutes, shareRoutes } from '../sharing/routes';
import type { Sharing } from '../sharing/sharing';
import type { Settings } from '../access/settings';
import { handInLimit, newTokens } from '../works/limits';
import { STUDENT_HEADER, workRoutes } from '../works/routes';
import { describeRoutes } from './describe';
import { compressedFiles } from './compressed';
import { HttpProblem, problemHandler, readBody, refuseUnsavable, sendProblem } from './problem';

export interface AppParts extends Omit<CourseParts, 'maySee'> {
  readonly free: Database['free'];
  readonly settings: Settings;
  readonly sessions: Sessions;
  readonly now: Clock;
  readonly together: Together;
  readonly sharing: Sharing;
  readonly store: DocumentStore;
  readonly results: ResultStore;
  readonly checker: Checker;
  /** For workers on other computers, where there is a queue. */
  readonly desk?: DeskAccess | undefined;
  readonly log: Logger;
  /** Folder of the built pages. */
  readonly pages: string;
  /** Host names, without port, that a request may be addressed to. */
  readonly hosts: readonly string[];
  readonly limits?: Limits;
  /** The pages come over TLS. */
  readonly secure?: boolean;
}

/** Requests within a minute: all of one address, and saves of one document from it. */
export interface Limits {
  readonly perAddress: number;
  readonly perDocument: number;
}

/** 200 students behind one address, each saving every two seconds, ask 6,000 times a minute: ten times that passes. */
export const LIMITS: Limits = { perAddress: 60_000, perDocument: 600 };

/** A course of some hundred programs with all their versions. */
const MOST_BACKUP = '64mb';
/** Some hundred programs at once. */
const MOST_HANDED_IN = '32mb';

/**
 * ms for which a server keeps a connection that asks for nothing: one that a browser is about to use again must not end under
 * it while the server is busy, or a save would get no answer.
 */
export const KEPT_ALIVE = 65_000;

/** The whole application on a store and a folder of pages; listens to nothing by itself. */
export function createApp(parts: AppParts): Express {
  const {
    free,
    together,
    sharing,
    store,
    results,
    checker,
    desk,
    courses,
    handIns,
    jobs,
    works,
    settings,
    sessions,
    now,
    log,
    pages,
    hosts,
    limits = LIMITS,
    secure = false,
  } = parts;
  const app = express();
  app.disable('x-powered-by');
  app.use(
    pinoHttp({
      logger: log,
      autoLogging: { ignore: (request) => !request.url?.startsWith('/api') },
      // Headers hold tokens, which are written nowhere.
      serializers: {
        req: ({ id, method, url }: { id: unknown; method: string; url: string }) => ({ id, method, url }),
        res: ({ statusCode }: { statusCode: number }) => ({ statusCode }),
      },
    }),
  );
  app.use(security());
  app.use(onlyHosts(hosts, secure));
  for (const each of limiters(limits)) app.use('/api', each);
  app.use('/api', guard({ settings, sessions }));
  app.use('/api', compression({ filter: (_request, response) => COMPRESSED.test(String(response.getHeader('Content-Type'))) }));
  const json = (limit: string): RequestHandler => express.json({ limit, verify: refuseUnsavable });
  app.post('/api/backup', json(MOST_BACKUP));
  app.post('/api/courses/files', json(MOST_HANDED_IN));
  app.post('/api/assignments/:id/hand-ins', json(MOST_HANDED_IN));
  app.use('/api', json('4mb'));
  // A request that writes waits here until no other program does, so that no write stops the whole server.
  app.use('/api', (request, _response, next) => {
    if (['GET', 'HEAD'].includes(request.method)) return next();
    free().then(() => next(), next);
  });
  app.get('/api/backup', (_request, response) => void response.json({ format: 'zettak backup', version: 1, documents: store.backup() }));
  app.post('/api/backup', (request, response) => {
    response.json({ restored: store.restore(readBody(backup, request.body).documents) });
  });
  app.use('/api/session', sessionRoutes({ settings, sessions, secure, now }));
  app.use('/api/share', shareRoutes(sharing));
  app.use('/api/work/follow', followRoutes(sharing));
  app.use('/api/work', newTokens(now), handInLimit(), workRoutes(works, jobs, together));
  app.use('/api/worker', deskRoutes(courses, together, desk));
  app.use('/api', describeRoutes());
  app.get('/api/health', (_request, response) => void response.json({ ok: true }));
  for (const kind of kinds) app.use(`/api/${kind}s`, documentRoutes(kind, store, checker));
  app.use('/api/results', resultRoutes(results));
  app.use('/api', courseRoutes({ courses, handIns, jobs, works, maySee: (request) => isTeacher({ settings, sessions }, request) }));
  app.use('/api', (request) => {
    throw new HttpProblem(404, `Nothing answers to ${request.method} ${request.originalUrl.slice(0, 200)}.`);
  });
  app.use(servePages(pages));
  app.use(problemHandler);
  return app;
}

function limiters({ perAddress, perDocument }: Limits): RequestHandler[] {
  const refusal = new HttpProblem(429, 'Too many requests came from this address within a minute. Nothing is lost: wait, then go on.');
  const shared = {
    windowMs: 60_000,
    standardHeaders: true,
    legacyHeaders: false,
    handler: (_: unknown, response: Response) => sendProblem(response, refusal),
  } as const;
  const all = rateLimit({ ...shared, limit: perAddress });
  const saves = rateLimit({
    ...shared,
    limit: perDocument,
    skip: ({ method }) => method !== 'PUT',
    // Students of one room share an address, and each has a draft of his own under one path.
    keyGenerator: ({ ip, path, headers }) => `${ipKeyGenerator(ip ?? '')} ${path} ${String(headers[STUDENT_HEADER] ?? '')}`,
  });
  return [all, saves];
}

/** Streams of events are none of these: each event goes out at once. */
const COMPRESSED = /^(application\/(json|problem\+json)|text\/(html|csv))/;

/** Styles are set by the style library at run time; scripts come from here alone and are never made from text. */
const security = (): RequestHandler =>
  helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        // Machines are compiled to WebAssembly; that allows no other code made from text.
        scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:'],
        fontSrc: ["'self'"],
        connectSrc: ["'self'"],
        workerSrc: ["'self'"],
        objectSrc: ["'none'"],
        baseUri: ["'none'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    strictTransportSecurity: false,
  });

/** Refuses names that merely resolve to this machine, and pages of other origins that write. */
function onlyHosts(hosts: readonly string[], secure: boolean): RequestHandler {
  const nameOf = (host: string): string => host.replace(/:\d+$/, '').toLowerCase();
  return (request, _response, next) => {
    const host = request.headers.host ?? '';
    const given = request.rawHeaders.filter((each, at) => at % 2 === 0 && each.toLowerCase() === 'host');
    if (given.length !== 1) throw new HttpProblem(400, 'A request names one host.');
    if (!hosts.includes(nameOf(host))) throw new HttpProblem(403, 'This server answers only under its own address.');
    const { origin } = request.headers;
    if (origin !== undefined && origin !== `${secure ? 'https' : 'http'}://${host}`)
      throw new HttpProblem(403, 'Pages of other origins may not use this server.');
    next();
  };
}

function servePages(pages: string): RequestHandler {
  const routes = express.Router();
  routes.use(compressedFiles(pages));
  routes.use('/assets', express.static(join(pages, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }));
  routes.use(express.static(pages, { index: false }));
  routes.get('/{*path}', (_request, response) => {
    const page = join(pages, 'index.html');
    if (!existsSync(page)) throw new HttpProblem(404, 'The pages are not built. Start with npm start.');
    // The pages are built to work in any folder; here they lie at the root, whatever path is asked for.
    const text = readFileSync(page, 'utf8').replace(/(src|href)="\.\//g, '$1="/');
    response.set('Cache-Control', 'no-cache').type('html').send(text);
  });
  return routes;
}
