/** Errors as application/problem+json (RFC 9457): what went wrong, in a sentence, with its status. */
import { isUtf8 } from 'node:buffer';
import type { ErrorRequestHandler, Response } from 'express';
import { z } from 'zod';
import { issueWords } from '@zettak/core/text/issues';
import { DatabaseProblem } from '../database/database';
import { StoreProblem } from '../documents/storeProblem';

const TITLES: Readonly<Record<number, string>> = {
  400: 'The request cannot be read',
  401: 'Not known',
  403: 'Not allowed',
  404: 'Not found',
  409: 'Changed meanwhile',
  413: 'Too long',
  415: 'Not readable',
  422: 'The document has errors',
  503: 'Busy',
  429: 'Too many requests',
  500: 'The server made a mistake',
  507: 'Not saved',
};

/** Thrown by routes and stores; ends as one answer. `more` is added to the body. */
export class HttpProblem extends Error {
  constructor(
    readonly status: keyof typeof TITLES & number,
    readonly detail: string,
    readonly more: Readonly<Record<string, unknown>> = {},
  ) {
    super(detail);
  }
}

/** Answers as RFC 9457 has it. */
export function sendProblem(response: Response, { status, detail, more }: HttpProblem): void {
  const title = TITLES[status] ?? 'Error';
  response
    .status(status)
    .type('application/problem+json')
    .send(JSON.stringify({ type: 'about:blank', title, status, detail, ...more }));
}

/** Reads a body through its schema; a wrong one is a 400 that names the place. */
export function readBody<T>(schema: z.ZodType<T>, body: unknown): T {
  const parsed = schema.safeParse(body);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new HttpProblem(400, `${issue!.path.join('.') || 'The body'}: ${issueWords(issue!)}.`);
}

/** Of an error that says why a body holds what cannot be saved. */
const NOT_TEXT = 'not.text';

/** For the reader of JSON bodies: what the database would cut or change is refused with a sentence, before it is read. */
export function refuseUnsavable(_request: unknown, _response: unknown, body: Buffer): void {
  const refuse = (sentence: string): never => {
    throw Object.assign(new Error(sentence), { type: NOT_TEXT });
  };
  if (!isUtf8(body)) refuse('The text is not valid UTF-8. Save it as UTF-8 and send it again. Nothing was changed.');
  // An even number of backslashes before it stands for backslashes alone.
  if (body.includes('\\u0000') && /(?<!\\)(?:\\\\)*\\u0000/.test(body.toString()))
    refuse('A text holds the character NUL (U+0000), which cannot be saved. Delete it. Nothing was changed.');
}

const STATUS = { missing: 404, changed: 409, refused: 422 } as const;

/** The last handler: whatever was thrown becomes an answer, and what is our mistake is logged. */
export const problemHandler: ErrorRequestHandler = (error: unknown, request, response, next) => {
  if (response.headersSent) return next(error);
  if (error instanceof HttpProblem) return sendProblem(response, error);
  if (error instanceof StoreProblem) return sendProblem(response, new HttpProblem(STATUS[error.kind], error.message, error.more));
  if (error instanceof DatabaseProblem) return sendProblem(response, new HttpProblem(507, error.message));
  const { type, status } = (error ?? {}) as { type?: string; status?: number };
  if (type === 'entity.too.large') return sendProblem(response, new HttpProblem(413, 'This text is longer than the server takes.'));
  if (type === NOT_TEXT) return sendProblem(response, new HttpProblem(422, (error as Error).message));
  if (status === 400) return sendProblem(response, new HttpProblem(400, 'The body is no JSON, or the address is malformed.'));
  if (status === 404) return sendProblem(response, new HttpProblem(404, `Nothing stands at ${request.originalUrl.slice(0, 200)}.`));
  if (status === 415) return sendProblem(response, new HttpProblem(415, 'The body must be JSON in UTF-8.'));
  if (status !== undefined && status >= 400 && status < 500)
    return sendProblem(response, new HttpProblem(400, 'The request cannot be read.'));
  request.log?.error({ error }, 'unexpected error');
  sendProblem(response, new HttpProblem(500, 'Nothing was changed. Try again; the log tells more.'));
};
