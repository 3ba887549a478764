/**
 * Sends a file of the pages' assets as the build has compressed it (`name.br`, `name.gz`), where the browser takes that. Other
 * files may change under their names, and a copy beside them would be of another text.
 */
import { existsSync } from 'node:fs';
import { extname, join } from 'node:path';
import express, { type RequestHandler } from 'express';

const ENCODINGS = { br: '.br', gzip: '.gz' } as const;
const TYPES: Readonly<Record<string, string>> = {
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.svg': 'image/svg+xml',
  '.json': 'application/json; charset=utf-8',
};

/** For GET and HEAD of files below assets/ in a folder; all else goes on to the next handler. What is there is looked up once. */
export function compressedFiles(folder: string): RequestHandler {
  const known = new Map<string, boolean>();
  const isThere = (path: string): boolean => {
    const found = known.get(path) ?? existsSync(join(folder, path));
    if (known.size < 10_000) known.set(path, found);
    return found;
  };
  const send = express.static(folder, {
    index: false,
    setHeaders: (response, path) => {
      const [, name, ending] = /^(.*)(\.br|\.gz)$/.exec(path) ?? [];
      if (!name) return;
      response.setHeader('Content-Encoding', ending === '.br' ? 'br' : 'gzip');
      response.setHeader('Content-Type', TYPES[extname(name)]!);
      response.setHeader('Cache-Control', 'public, max-age=31536000, immutable');
    },
  });
  return (request, response, next) => {
    const { method, path } = request;
    if (
      (method !== 'GET' && method !== 'HEAD') ||
      !path.startsWith('/assets/') ||
      !TYPES[extname(path)] ||
      path.includes('..') ||
      path.includes('%')
    )
      return next();
    response.vary('Accept-Encoding');
    const encoding = request.acceptsEncodings('br', 'gzip');
    if (encoding !== 'br' && encoding !== 'gzip') return next();
    const file = path + ENCODINGS[encoding];
    if (!isThere(file)) return next();
    const { url } = request;
    request.url = file;
    send(request, response, (error) => {
      request.url = url;
      next(error);
    });
  };
}
