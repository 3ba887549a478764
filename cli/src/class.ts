/** zettak class: hands in, checks and fetches marks through the HTTP interface of a server. */
import { basename } from 'node:path';
import { labelsOf } from '@zettak/core/trials/handIns/labels';
import type { HandInRow, Matrix } from '@zettak/api/matrix';
import { PROBLEMS, type Terminal } from './terminal';

export interface ClassOptions {
  /** Where it answers. */
  readonly server: string;
  readonly out?: string;
}

/** Asks a server, with the session that the passphrase in ZETTAK_PASSPHRASE opens, where one is given. */
class Remote {
  private cookie: string | undefined;

  constructor(private readonly server: string) {}

  async open(): Promise<void> {
    const passphrase = process.env.ZETTAK_PASSPHRASE;
    if (!passphrase) return;
    const response = await this.ask('POST', '/api/session', { passphrase });
    this.cookie = response.headers.get('set-cookie')?.split(';')[0];
  }

  /** Throws with the sentence that the server gives. */
  async ask(method: string, path: string, body?: unknown): Promise<Response> {
    const response = await fetch(new URL(path, this.server), {
      method,
      headers: { 'x-zettak': '1', 'content-type': 'application/json', ...(this.cookie !== undefined && { cookie: this.cookie }) },
      ...(body !== undefined && { body: JSON.stringify(body) }),
    }).catch(() => {
      throw new Error(`No server answers at ${this.server}.`);
    });
    if (response.ok) return response;
    const { detail } = (await response.json().catch(() => ({}))) as { detail?: string };
    throw new Error(detail ?? `The server answered ${response.status}.`);
  }
}

const PAUSE = 300;

async function checked(remote: Remote, assignment: string): Promise<Matrix> {
  for (;;) {
    const matrix = (await (await remote.ask('GET', `/api/assignments/${assignment}/matrix`)).json()) as Matrix;
    if (matrix.progress.waiting === 0) return matrix;
    await new Promise((resolve) => setTimeout(resolve, PAUSE));
  }
}

function told({ label, checked: found, sentence }: HandInRow): string {
  if (!found) return `${label}: ${sentence || 'not checked'}`;
  if (found.errors) return `${label}: does not assemble, line ${found.errors[0]?.line ?? 1}: ${found.errors[0]?.sentence ?? ''}`;
  return `${label}: ${found.holds} of ${found.rows.length} hold${found.mistake ? `. ${found.mistake.sentence}` : ''}`;
}

/** Exit code 0, or 1 with the sentence of the server on the error stream. */
async function asked(terminal: Terminal, { server }: ClassOptions, act: (remote: Remote) => Promise<void>): Promise<number> {
  try {
    const remote = new Remote(server);
    await remote.open();
    await act(remote);
    return 0;
  } catch (error) {
    terminal.warn(error instanceof Error ? error.message : String(error));
    return PROBLEMS;
  }
}

/** Brings files in, labels by their names, waits until they are checked, and tells what came of each. */
export const bring = (terminal: Terminal, assignment: string, files: readonly string[], options: ClassOptions): Promise<number> =>
  asked(terminal, options, async (remote) => {
    const texts = files.map((file) => ({ file, text: terminal.read(file) }));
    const missing = texts.find((each) => each.text === undefined);
    if (missing) throw new Error(`${missing.file} cannot be read.`);
    const entries = labelsOf(files).map(({ label, file }, at) => ({ label, file: basename(file), text: texts[at]!.text }));
    await remote.ask('POST', `/api/assignments/${assignment}/hand-ins`, { entries });
    const { rows } = await checked(remote, assignment);
    for (const { label } of entries) terminal.write(told(rows.find((each) => each.label === label)!));
  });

/** Checks everything again, and tells what came of each. */
export const checkAll = (terminal: Terminal, assignment: string, options: ClassOptions): Promise<number> =>
  asked(terminal, options, async (remote) => {
    await remote.ask('POST', `/api/assignments/${assignment}/checks`);
    for (const row of (await checked(remote, assignment)).rows) terminal.write(told(row));
  });

/** Marks as CSV, on the terminal or in a file. */
export const marks = (terminal: Terminal, assignment: string, options: ClassOptions): Promise<number> =>
  asked(terminal, options, async (remote) => {
    const csv = await (await remote.ask('GET', `/api/assignments/${assignment}/marks.csv`)).text();
    if (options.out === undefined) terminal.write(csv.trimEnd());
    else if (!terminal.save(options.out, csv)) throw new Error(`${options.out} cannot be written.`);
  });
