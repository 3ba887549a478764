/**
 * The first script of a page, read before all others: makes the worker of the screen that the address names, and has that
 * screen's files and what it will ask the server for fetched at once. Nothing depends on it; pages that the browser has
 * kept begin with it as those do that come from the server.
 */
(() => {
  const screens = [/* screens */][0] ?? {};
  const root = new URL('./', document.currentScript.src);
  const [first, ...rest] = location.pathname
    .slice(root.pathname.length)
    .split('/')
    .filter((each) => each !== '');
  const [named = ''] = rest;
  const own = (address) => (Object.hasOwn(screens, address) ? screens[address] : undefined);
  const screen = own([first, ...rest].join('/')) ?? (rest.length === 1 ? own(`${first}/*`) : undefined);
  // In a folder of any file server nobody can be asked, and the path stands behind the mark.
  if (!screen || document.querySelector('meta[name=zettak-lesson]')) return;
  const link = (parts) => document.head.append(Object.assign(document.createElement('link'), { crossOrigin: 'anonymous' }, parts));
  const { workers, files, styles, asks } = screen;
  globalThis.begunWorkers = Object.fromEntries(
    Object.entries(workers).map(([name, file]) => [name, new Worker(new URL(file, root), { type: 'module' })]),
  );
  for (const each of styles) link({ rel: 'stylesheet', href: new URL(each, root) });
  for (const each of files) link({ rel: 'modulepreload', href: new URL(each, root) });
  // Whoever was asked for the passphrase last time is asked for it first.
  const asksFirst = (() => {
    try {
      return localStorage.getItem('zettak.closed') !== null;
    } catch {
      return false;
    }
  })();
  for (const each of asksFirst ? [] : asks)
    if (!each.includes('*') || /^[a-z0-9-]{1,80}$/.test(named)) link({ rel: 'preload', as: 'fetch', href: each.replace('*', named) });
})();
