import { execFile } from 'node:child_process';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { OPERATIONS } from '@zettak/api/openapi';
import { testServer, type TestServer } from '../testing/server';

const root = join(__dirname, '../../..');
const run = promisify(execFile);
let server: TestServer;
beforeAll(async () => {
  server = await testServer();
}, 60_000);
afterAll(() => server.close());

interface Described {
  readonly openapi: string;
  readonly paths: Readonly<
    Record<
      string,
      Readonly<Record<string, { requestBody?: { content: Record<string, { schema: Record<string, unknown> }> }; responses: object }>>
    >
  >;
}

test('the description is OpenAPI 3.1 with the schema of every body', async () => {
  const { body } = (await server.call('GET', '/api/openapi.json')) as unknown as { body: Described };
  expect(body.openapi).toBe('3.1.0');
  expect(Object.values(body.paths).flatMap((each) => Object.keys(each)).length).toBe(OPERATIONS.length);
  const schema = body.paths['/api/assignments/{id}/hand-ins']!.post!.requestBody!.content['application/json']!.schema;
  expect(schema).toMatchObject({ type: 'object', required: ['entries'], additionalProperties: false });
});

test('the page names every path, and has no script', async () => {
  const { text, headers } = await server.call('GET', '/api/docs');
  expect(headers.get('content-type')).toMatch(/text\/html/);
  for (const { path } of OPERATIONS) expect(text).toContain(`<code>${path}</code>`);
  expect(text).not.toMatch(/<script/);
});

test.each(OPERATIONS.filter(({ method }) => method !== 'delete').map(({ method, path }) => [method.toUpperCase(), path]))(
  '%s %s is there: something answers to it',
  async (method, path) => {
    // Streams do not end.
    if (path.endsWith('/events')) return;
    const asked = path
      .replace('{number}', '1')
      .replace('{key}', 'abcdef01')
      .replace(/\{\w+\}/g, 'quay-count');
    const answer = await server.call(method, asked, method === 'GET' ? undefined : {});
    expect(String(answer.body.detail ?? '')).not.toMatch(/^Nothing answers to/);
  },
);

test('the command line hands in, waits for the verdict, and fetches marks', async () => {
  const zettak = (...args: string[]) =>
    run(process.execPath, [join(root, 'cli/dist/zettak.js'), 'class', ...args, '--server', server.base]);
  const file = join(root, 'demo/handIns/quay-count/bench 06.asm');
  expect((await zettak('bring', 'quay-count', file)).stdout).toMatch(/^bench 06: 0 of 7 hold\. jumps to another place than is meant/);
  expect((await zettak('marks', 'quay-count')).stdout).toMatch(/^label,points,of,[\s\S]*\nbench 06,0,7/);
  await expect(zettak('marks', 'nowhere')).rejects.toMatchObject({
    code: 1,
    stderr: expect.stringMatching(/There is no assignment “nowhere”/) as string,
  });
}, 60_000);
