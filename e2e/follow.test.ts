import type { Page } from 'puppeteer-core';
import { byId, loadProgram, press, ready, registers, sharedHarness, until } from './support';

const harness = sharedHarness();

const exactly = (ticks: string | number): RegExp => new RegExp(`^${ticks}$`);

/** Where the bench stands after an instruction. */
async function stepped(page: Page): Promise<string> {
  const before = await page.$eval(byId('ticks'), (each) => each.textContent);
  await press(page, 'ArrowRight');
  await page.waitForFunction((where, was) => document.querySelector(where)?.textContent !== was, {}, byId('ticks'), before);
  return page.$eval(byId('ticks'), (each) => each.textContent ?? '');
}

async function shared(teacher: Page): Promise<string> {
  await teacher.click(byId('program-actions'));
  await teacher.waitForSelector(byId('program-actions-share'), { visible: true });
  await teacher.click(byId('program-actions-share'));
  await teacher.waitForSelector(byId('share-link'));
  const link = await teacher.$eval(byId('share-link'), (field) => (field as HTMLInputElement).value);
  await until(teacher, byId('share-bar'), /0 browsers follow/);
  return link.slice(harness.address.length);
}

test('three pages follow a bench: each own engine goes where it stands; one lets go, tries, and comes back', async () => {
  const teacher = await harness.open('/bench/quay-watch');
  await ready(teacher);
  const first = await stepped(teacher);
  const link = await shared(teacher);
  const pages = await Promise.all([1, 2, 3].map(() => harness.open(link, { apart: true })));
  for (const page of pages) await until(page, byId('ticks'), exactly(first));
  await until(teacher, byId('share-bar'), /3 browsers follow/);
  const second = Number(await stepped(teacher));
  await press(teacher, '.');
  await until(teacher, byId('ticks'), exactly(second + 1));
  for (const page of pages) {
    await until(page, byId('ticks'), exactly(second + 1));
    expect(await registers(page)).toEqual(await registers(teacher));
  }
  const [own, other] = pages as [Page, Page];
  await own.click(byId('follow-turn'));
  await until(own, byId('follow-bar'), /your own way/);
  await press(own, 'Home');
  await until(own, byId('ticks'), /^0$/);
  await press(teacher, ',');
  await until(other, byId('ticks'), exactly(second));
  expect(await own.$eval(byId('ticks'), (each) => each.textContent)).toBe('0');
  await own.click(byId('follow-turn'));
  await until(own, byId('ticks'), exactly(second));
  // Two pages of one browser have one connection between them; when the one that listens goes, the other does.
  const beside = await other.browserContext().newPage();
  await beside.goto(harness.address + link);
  await until(beside, byId('ticks'), exactly(second));
  await until(teacher, byId('share-bar'), /3 browsers follow/);
  await other.close();
  await press(teacher, '.');
  await until(beside, byId('ticks'), exactly(second + 1));
  // Another program, and another run of it.
  await loadProgram(teacher, 'start LOAD #7\n INC\n HALT\n');
  const third = await stepped(teacher);
  await until(beside, '.program .cm-content', /LOAD #7/);
  await until(beside, byId('ticks'), exactly(third));
  expect((await registers(beside)).ACC).toBe('07');
  await teacher.click(byId('share-end'));
  await until(beside, byId('follow-bar'), /not shared any more/);
});

test('a hidden set on the bench pauses the sharing: nothing of it reaches a page that follows', async () => {
  const teacher = await harness.open('/bench/quay-watch');
  await ready(teacher);
  const link = await shared(teacher);
  const page = await harness.open(link, { apart: true });
  await until(page, byId('follow-bar'), /follows the teacher’s bench/);
  const token = link.split('#')[1]!;
  await teacher.evaluate(() => {
    sessionStorage.setItem('zettak.hidden.quay-watch', 'yes');
  });
  await press(teacher, '.');
  await until(page, byId('follow-bar'), /looks at something else/);
  await until(teacher, byId('share-bar'), /Paused: a hidden set stands here/);
  const seen = await page.evaluate(
    async (own) => (await fetch('/api/work/follow', { headers: { 'x-zettak-link': own } })).json() as Promise<object>,
    token,
  );
  expect(seen).toMatchObject({ definition: null, shared: { paused: true } });
  await teacher.click(byId('load'));
  await until(page, byId('follow-bar'), /follows the teacher’s bench/);
});
