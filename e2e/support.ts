/** Starts the built server on a database of its own and Chromium, and speaks the bench's language to tests. */
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { copyFileSync, existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import puppeteer, { type Browser, type ElementHandle, type Page } from 'puppeteer-core';

const root = process.env.ZETTAK_ROOT ?? join(__dirname, '..');

export interface Harness {
  readonly browser: Browser;
  readonly address: string;
  /** A page at a path, `apart` in a browser context of its own; motion is off unless asked for. */
  open(path: string, options?: { motion?: boolean; apart?: boolean }): Promise<Page>;
  /** Closes all pages and forgets what they kept, but not the scripts that the browser has read already. */
  forget(): Promise<void>;
  stopServer(): Promise<void>;
  startServer(): Promise<void>;
  close(): Promise<void>;
  /** Errors that pages have thrown so far. */
  readonly errors: string[];
}

/** A server that other computers reach, under a name that the browser alone knows. */
export interface Opened {
  readonly passphrase: string;
  readonly name: string;
  /** Over TLS: files in PEM, and the SHA-256 of the public key, for which the browser takes the certificate. */
  readonly tls?: { readonly cert: string; readonly key: string; readonly sum: string };
  /** Another folder with the pages and all that the server reads. */
  readonly folder?: string;
}

function startServer(database: string, port: number, opened?: Opened): Promise<{ process: ChildProcess; address: string }> {
  const { tls } = opened ?? {};
  const reached = opened && { ZETTAK_HOST: '0.0.0.0', ZETTAK_NAMES: opened.name };
  const secure = tls && { ZETTAK_TLS_CERT: tls.cert, ZETTAK_TLS_KEY: tls.key };
  const plain = { ZETTAK_ROOT: opened?.folder ?? root, ZETTAK_DATABASE: database, PORT: String(port) };
  const env = { ...process.env, ...plain, ...reached, ...secure };
  const child = spawn(process.execPath, [join(root, 'server/dist/main.js')], { env, stdio: ['ignore', 'pipe', 'pipe'] });
  return new Promise((resolve, reject) => {
    child.stdout.on('data', (chunk: Buffer) => {
      const found = /(https?):\/\/(?:localhost|0\.0\.0\.0):(\d+)/.exec(chunk.toString());
      if (found) resolve({ process: child, address: `${found[1]}://${opened?.name ?? 'localhost'}:${found[2]}` });
    });
    child.stderr.on('data', (chunk: Buffer) => reject(new Error(chunk.toString())));
    child.on('exit', (code) => reject(new Error(`The server ended with ${code}`)));
  });
}

const FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--force-device-scale-factor=1',
];
const tested = process.env.JEST_WORKER_ID !== undefined;
/**
 * Pages of tests live for seconds: what the last compilers make of their code comes too late for them, not for benchmarks. And
 * scripts that their process has compiled before are compiled once more, beside the page, where they are fetched in the background.
 */
const HASTY = tested ? ['--js-flags=--no-turbofan --no-maglev', '--disable-features=BackgroundResourceFetch'] : [];

/** `together`: pages live in one process, which has read their code before; as whoever goes from one to the other has it. */
export async function startHarness(opened?: Opened, together = false): Promise<Harness> {
  const executablePath = process.env.ZETTAK_CHROMIUM ?? '/usr/bin/chromium';
  if (!existsSync(executablePath)) throw new Error('The browser tests need Chromium; npm test installs it.');
  const folder = mkdtempSync(join(tmpdir(), 'zettak-e2e-'));
  const database = join(folder, 'test.sqlite');
  // Benchmarks and pictures run without what Jest prepares, and fill a database of their own.
  if (tested) copyFileSync(join(root, '.cache', 'filled.sqlite'), database);
  if (opened)
    spawnSync(process.execPath, [join(root, 'server/dist/passphrase.js')], {
      env: { ...process.env, ZETTAK_ROOT: root, ZETTAK_DATABASE: database },
      input: `${opened.passphrase}\n`,
    });
  let server = await startServer(database, 0, opened);
  const port = Number(new URL(server.address).port);
  const mapped = opened ? [`--host-resolver-rules=MAP ${opened.name} 127.0.0.1`] : [];
  const trusted = opened?.tls ? [`--ignore-certificate-errors-spki-list=${opened.tls.sum}`] : [];
  const browser = await puppeteer.launch({
    executablePath,
    headless: true,
    args: [...FLAGS, ...HASTY, ...mapped, ...trusted],
    userDataDir: join(folder, 'profile'),
  });
  const errors: string[] = [];
  const [first] = await browser.pages();
  if (together) await first!.goto(`${server.address}/api/health`);
  /** A browser gives a process to pages that other pages open, and one of its own to any other. */
  const newPage = async (): Promise<Page> => {
    const page = new Promise<Page | null>((resolve) => first!.once('popup', resolve));
    await first!.evaluate(() => void window.open('about:blank'));
    const opened = (await page)!;
    // As if its window were in front, as that of a page is which nobody has opened.
    await opened.emulateFocusedPage(true);
    return opened;
  };
  const stopServer = (): Promise<void> =>
    new Promise((resolve) => {
      // A test that has failed may have stopped it already.
      if (server.process.signalCode !== null) return resolve();
      server.process.once('exit', () => resolve());
      server.process.kill('SIGKILL');
    });
  return {
    browser,
    address: server.address,
    errors,
    async forget() {
      // One page stays, so that the browser does.
      const pages = (await browser.pages()).filter((each) => each !== first);
      await Promise.all(pages.map(leave));
      await Promise.all(pages.map((each) => each.close()));
      const client = await first!.createCDPSession();
      await client.send('Storage.clearDataForOrigin', { origin: server.address, storageTypes: 'local_storage,indexeddb,cookies' });
      await client.detach();
    },
    async open(path, { motion = false, apart = false } = {}) {
      const page = await (apart ? (await browser.createBrowserContext()).newPage() : together ? newPage() : browser.newPage());
      await page.setViewport({ width: 1280, height: 800 });
      await page.emulateMediaFeatures([{ name: 'prefers-reduced-motion', value: motion ? 'no-preference' : 'reduce' }]);
      page.on('pageerror', (error) => errors.push(String(error)));
      page.setDefaultTimeout(PATIENCE);
      await page.evaluateOnNewDocument(countAsked);
      const click = page.click.bind(page);
      page.click = async (selector, options) => {
        await atRest(page, selector);
        await click(selector, options);
      };
      await page.goto(server.address + path);
      return page;
    },
    stopServer,
    startServer: async () => {
      server = await startServer(database, port, opened);
    },
    async close() {
      await browser.close();
      await stopServer();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

/** Counts, in a page, what its workers have been asked and have not answered yet. */
function countAsked(): void {
  const asked = new Set<unknown>();
  Object.assign(globalThis, { asked });
  const idOf = (data: unknown): unknown => (data as { id?: unknown } | null)?.id;
  globalThis.Worker = class extends Worker {
    constructor(...all: ConstructorParameters<typeof Worker>) {
      super(...all);
      this.addEventListener('message', ({ data }) => asked.delete(idOf(data)));
    }
    override postMessage(data: unknown, ...others: unknown[]): void {
      if (idOf(data) !== undefined) asked.add(idOf(data));
      super.postMessage(data, ...(others as [Transferable[]]));
    }
  };
}

/** Waits until what was done has been answered by the workers and is drawn; for what goes on, a run or a search, not for ever. */
export const answered = (page: Page): Promise<void> =>
  page
    .evaluate(
      (most) =>
        new Promise<void>((done) => {
          const { asked } = globalThis as unknown as { asked?: Set<unknown> };
          const end = performance.now() + most;
          let quiet = 0;
          const look = (): void => {
            quiet = asked?.size ? 0 : quiet + 1;
            if (quiet === 3 || performance.now() > end) return done();
            requestIdleCallback(look, { timeout: 200 });
          };
          requestIdleCallback(look, { timeout: 200 });
        }),
      2000,
    )
    // The key has led to another page.
    .catch(() => undefined);

/** Before a page is closed: what was typed there is on its way no more, or the next test would begin with half of it. */
const leave = (page: Page): Promise<unknown> =>
  page
    .waitForFunction(() => !/^saving/.test(document.querySelector('[data-testid=save-state]')?.textContent ?? ''), {
      timeout: 3000,
      polling: 30,
    })
    .catch(() => undefined);

/** Waits until an element stands still and the page has nothing else to do, as whoever aims at it does; not for ever. */
const atRest = (page: Page, selector: string): Promise<void> =>
  page.evaluate(
    (where) =>
      new Promise<void>((done) => {
        let before: string | undefined;
        let looks = 0;
        const look = (): void => {
          const now = JSON.stringify(document.querySelector(where)?.getBoundingClientRect());
          if (now === before || ++looks === 40) return done();
          before = now;
          requestIdleCallback(look, { timeout: 200 });
        };
        requestIdleCallback(look, { timeout: 200 });
      }),
    selector,
  );

export const textOf = (page: Page, selector: string): Promise<string> =>
  page.$eval(selector, (element) => (element.textContent ?? '').replaceAll('\u2060', ''));

/** ms that anything may take: a computer that others use is slow at times, and a test is no clock. */
const PATIENCE = 60_000;

export const byId = (id: string): string => `[data-testid="${id}"]`;

/** Waits until the text of an element matches. */
export async function until(page: Page, selector: string, pattern: RegExp): Promise<string> {
  await page
    .waitForFunction(
      (where, source, flags) => new RegExp(source, flags).test((document.querySelector(where)?.textContent ?? '').replaceAll('\u2060', '')),
      { timeout: PATIENCE, polling: 30 },
      selector,
      pattern.source,
      pattern.flags,
    )
    .catch(async () => {
      const found = await textOf(page, selector).catch(() => 'nothing');
      throw new Error(`${selector} never showed ${pattern}; it shows: ${found.slice(0, 400)}`);
    });
  return textOf(page, selector);
}

export const ready = (page: Page): Promise<string> => until(page, byId('status'), /Ready to run/);

/** What was typed is on the server: the next test begins with it. */
export const saved = (page: Page): Promise<string> => until(page, byId('save-state'), /^saved$/);

/** The browser has kept the pages for times without a network. */
export const kept = (page: Page): Promise<unknown> =>
  page.waitForFunction(async () => (await navigator.serviceWorker.ready).active?.state === 'activated', { timeout: 30_000 });

/** The registers as the panel shows them, in hex. */
export const registers = (page: Page): Promise<Record<string, string>> =>
  page.$$eval(`${byId('registers')} b[data-value]`, (list) =>
    Object.fromEntries(list.map((each) => [(each as HTMLElement).dataset.value!, each.textContent ?? ''])),
  );

export const flags = (page: Page): Promise<string> =>
  page.$$eval(`${byId('flags')} button`, (list) =>
    list.map((each) => `${each.dataset.flag}${each.querySelector('b')!.textContent}`).join(' '),
  );

/** Presses keys on the bench, not in the editor, and waits until what they did is shown. */
export async function press(page: Page, ...keys: Parameters<Page['keyboard']['press']>[0][]): Promise<void> {
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  for (const key of keys) await page.keyboard.press(key);
  await answered(page);
}

const LONG = 400;

/** Replaces the whole text of the page's editor, as a person would. */
export async function rewrite(page: Page, text: string): Promise<void> {
  await page.waitForSelector('.cm-content');
  await page.focus('.cm-content');
  await page.keyboard.down('Control');
  await page.keyboard.press('a');
  await page.keyboard.up('Control');
  // A browser takes seconds to have a long text typed; whoever has one pastes it.
  if (text.length < LONG) return page.keyboard.sendCharacter(text);
  await paste(page, text);
}

/** Pastes a text into the page's editor, over what is selected there. */
export const paste = (page: Page, text: string): Promise<void> =>
  page.$eval(
    '.cm-content',
    (editor, pasted) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text/plain', pasted);
      editor.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
    },
    text,
  );

/** Shows a machine by its text, or by its parts. */
export async function showFace(page: Page, face: 'parts' | 'text'): Promise<void> {
  await page.waitForSelector(byId('face'));
  await page.evaluate(
    (wanted) =>
      [...document.querySelectorAll<HTMLElement>('[data-testid=face] label')].find((each) => each.textContent === wanted)?.click(),
    face,
  );
  await page.waitForFunction((wanted) => (document.querySelector('[data-testid=part-editor]') === null) === (wanted === 'text'), {}, face);
}

/** Replaces the text of a machine's document, as a person would. */
export async function rewriteDocument(page: Page, text: string): Promise<void> {
  await showFace(page, 'text');
  await rewrite(page, text);
}

export const editorText = (page: Page): Promise<string> =>
  page.$$eval('.cm-content .cm-line', (lines) => lines.map((each) => each.textContent).join('\n'));

export const chooseSpeed = (page: Page, speed: string): Promise<unknown> => page.select(byId('speed'), speed);

/** Line numbers that carry a mark in the editor, and the words at the right edge. */
export const marks = (page: Page): Promise<Record<string, number>> =>
  page.evaluate(() => {
    const found: Record<string, number> = {};
    const lines = [...document.querySelectorAll('.program .cm-line')];
    lines.forEach((line, at) => {
      if (line.classList.contains('cm-executing')) found.executing = at + 1;
      if (line.classList.contains('cm-next')) found.next = at + 1;
    });
    return found;
  });

/** One of the things that can be done with the program on the bench: new, keep, clear. */
export async function programAction(page: Page, action: 'new' | 'keep' | 'clear'): Promise<void> {
  await page.click(byId('program-actions'));
  await page.waitForSelector(byId(`program-actions-${action}`), { visible: true });
  await page.click(byId(`program-actions-${action}`));
}

export const loadProgram = async (page: Page, text: string): Promise<void> => {
  await rewrite(page, text);
  await page.click(byId('load'));
  await page.waitForFunction(() => !document.querySelector('[data-testid=older]'), { timeout: PATIENCE });
};

/** One server and one browser for all tests of a file; at the end no page may have thrown. */
export function sharedHarness(opened?: Opened): Pick<Harness, 'open' | 'address' | 'stopServer' | 'startServer'> {
  jest.setTimeout(240_000);
  let harness: Harness;
  beforeAll(async () => {
    harness = await startHarness(opened, true);
  });
  afterEach(() => harness.forget());
  afterAll(async () => {
    await harness.close();
    expect(harness.errors).toEqual([]);
  });
  return {
    open: (...all) => harness.open(...all),
    get address() {
      return harness.address;
    },
    stopServer: () => harness.stopServer(),
    startServer: () => harness.startServer(),
  };
}

/** Chooses a file of this computer in a page. */
export async function chooseFile(page: Page, selector: string, path: string): Promise<void> {
  const field = (await page.waitForSelector(selector)) as ElementHandle<HTMLInputElement>;
  await field.uploadFile(path);
}
