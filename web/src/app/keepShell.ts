/** Lets the browser keep the pages for times without a network, where it does that: over TLS and on this computer. */

/** ms after the start: the first screen has the network to itself. */
const LATER = 4_000;

/** `newer` is told when a newer build is here; what it is given takes that over, and loads the page anew. */
export function keepShell(newer: (takeOver: () => void) => void): void {
  if (!window.isSecureContext || !('serviceWorker' in navigator)) return;
  const root = new URL(import.meta.url.includes('/assets/') ? '../' : './', import.meta.url);
  setTimeout(() => void register(root, newer), LATER);
}

async function register(root: URL, newer: (takeOver: () => void) => void): Promise<void> {
  const { serviceWorker } = navigator;
  const registration = await serviceWorker.register(new URL('shell.js', root), { scope: root.pathname }).catch(() => undefined);
  if (!registration) return;
  const offer = (): void => {
    const { waiting } = registration;
    // Without one before it there is nothing newer than what is shown.
    if (!waiting || !serviceWorker.controller) return;
    newer(() => {
      serviceWorker.addEventListener('controllerchange', () => location.reload(), { once: true });
      waiting.postMessage('take over');
    });
  };
  offer();
  registration.addEventListener('updatefound', () => registration.installing?.addEventListener('statechange', offer));
}
