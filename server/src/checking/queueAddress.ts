/** Where the queue of checks is, from the text of ZETTAK_QUEUE. */
export interface QueueAddress {
  readonly host: string;
  readonly port: number;
  readonly username?: string;
  readonly password?: string;
  readonly db: number;
  /** Encrypted; the certificate is looked at. */
  readonly tls?: object;
}

const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|\[::1\])$/;

/** A `redis://` or `rediss://` address; beyond this computer it is encrypted and has a password. */
export function queueAddress(text: string): QueueAddress | { readonly wrong: string } {
  let url: URL;
  try {
    url = new URL(text);
  } catch {
    return { wrong: 'ZETTAK_QUEUE is no address; it is like redis://localhost:6379.' };
  }
  if (url.protocol !== 'redis:' && url.protocol !== 'rediss:')
    return { wrong: `ZETTAK_QUEUE begins with ${url.protocol}//; it begins with redis:// or, encrypted, rediss://.` };
  if (url.hostname === '') return { wrong: 'ZETTAK_QUEUE names no host; it is like redis://localhost:6379.' };
  const path = url.pathname.replace(/^\//, '');
  if (!/^\d{0,3}$/.test(path)) return { wrong: `ZETTAK_QUEUE ends in “${path}”; a number of a database may stand there.` };
  const secure = url.protocol === 'rediss:';
  if (!LOOPBACK.test(url.hostname) && !(secure && url.password !== ''))
    return {
      wrong: `ZETTAK_QUEUE is on ${url.hostname}, which is another computer: the address has to begin with rediss:// and to have a password.`,
    };
  return {
    ...{ host: url.hostname.replace(/^\[|\]$/g, ''), port: Number(url.port || 6379), db: Number(path || 0) },
    ...(url.username !== '' && { username: decodeURIComponent(url.username) }),
    ...(url.password !== '' && { password: decodeURIComponent(url.password) }),
    ...(secure && { tls: {} }),
  };
}
