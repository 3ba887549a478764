/** The description of the interface: for programs as OpenAPI, for people as a page without scripts. */
import { Router } from 'express';
import { OPERATIONS, openApi } from '@zettak/api/openapi';

const VERSION = '1';

const escaped = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');

const ASKS = { anybody: 'anybody', student: 'a student’s tokens', worker: 'a worker’s token', teacher: 'the teacher' } as const;

const page = (): string => `<!doctype html>
<html lang="en">
<head><meta charset="utf-8"><title>Zettak: HTTP interface</title>
<style>body{font:15px/1.5 sans-serif;max-width:70rem;margin:2rem auto;padding:0 1rem;color:#12263a}code{font-family:monospace}
td,th{padding:.25rem .7rem;text-align:left;vertical-align:top;border-bottom:1px solid #c3d3dd}</style></head>
<body><h1>HTTP interface</h1>
<p>Bodies are JSON in UTF-8; what went wrong comes as <code>application/problem+json</code> with a sentence. Requests that write carry the header <code>x-zettak: 1</code>.
The whole description, with the schema of every body: <a href="/api/openapi.json">openapi.json</a> (OpenAPI 3.1).</p>
<table><thead><tr><th>asks</th><th>path</th><th>what it does</th><th>who</th></tr></thead><tbody>
${OPERATIONS.map(({ method, path, does, who }) => `<tr><td>${method.toUpperCase()}</td><td><code>${escaped(path)}</code></td><td>${escaped(does)}</td><td>${ASKS[who]}</td></tr>`).join('\n')}
</tbody></table></body></html>
`;

/** Paths /api/openapi.json and /api/docs. */
export function describeRoutes(): Router {
  const routes = Router();
  const description = openApi(VERSION);
  routes.get('/openapi.json', (_request, response) => void response.json(description));
  routes.get('/docs', (_request, response) => void response.type('html').send(page()));
  return routes;
}
