/**
 * The service worker: keeps one whole build of the pages, so that they open without a network. A newer build waits until
 * somebody asks for it. Questions to the server's interface are never answered from here.
 */
const FILES = [/* files */].flat();
const VERSION = [/* version */].flat()[0] ?? '';
const CACHE = `zettak ${VERSION}`;
const root = new URL('./', self.location.href);
/** The page itself, as it lies at the root. */
const PAGE = new URL('./', root).href;
const LESSON = new URL('lesson.json', root).href;

self.addEventListener('install', (event) => {
  event.waitUntil(
    caches.open(CACHE).then(async (cache) => {
      await cache.addAll([PAGE, ...FILES.map((each) => new URL(each, root).href)]);
      await freshLesson(cache).catch(() => undefined);
    }),
  );
});

/** What a folder holds besides the pages: the newest that the network gives, else what was kept of it. */
async function freshLesson(cache) {
  const response = await fetch(LESSON, { cache: 'no-cache' });
  if (response.ok && (response.headers.get('content-type') ?? '').includes('json')) await cache.put(LESSON, response.clone());
  return response;
}

self.addEventListener('activate', (event) => {
  const old = (names) => names.filter((each) => each.startsWith('zettak ') && each !== CACHE);
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(old(names).map((each) => caches.delete(each))))
      .then(() => self.clients.claim()),
  );
});

self.addEventListener('message', ({ data }) => {
  if (data === 'take over') void self.skipWaiting();
});

self.addEventListener('fetch', (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== 'GET' || url.origin !== root.origin || !url.href.startsWith(root.href)) return;
  if (url.href.startsWith(new URL('api/', root).href)) return;
  if (url.href === LESSON) {
    event.respondWith(
      caches.open(CACHE).then((cache) => freshLesson(cache).catch(async () => (await cache.match(LESSON)) ?? Response.error())),
    );
    return;
  }
  const key = request.mode === 'navigate' ? PAGE : request;
  event.respondWith(caches.open(CACHE).then(async (cache) => (await cache.match(key, { ignoreSearch: true })) ?? fetch(request)));
});
