/** Speaks HTTP as a student: the assignment behind a link, one's own draft, hand-ins and receipts. Tokens go in headers. */
import type { PublicAssignment, Receipt } from '@zettak/api/work';
import type { Shared, ShareChange } from '@zettak/api/share';
import type { SessionState } from '@zettak/api/access';
import { call } from './client';

export interface Tokens {
  /** Of the assignment's link. */
  readonly link: string;
  /** Of this student, made in this browser. */
  readonly student: string;
}

const headers = ({ link, student }: Tokens): Record<string, string> => ({ 'x-zettak-link': link, 'x-zettak-student': student });

export const workClient = {
  assignment: (tokens: Tokens): Promise<PublicAssignment> => call('GET', '/api/work', undefined, headers(tokens)),
  draft: (tokens: Tokens): Promise<{ content: string | null }> => call('GET', '/api/work/draft', undefined, headers(tokens)),
  saveDraft: (tokens: Tokens, content: string): Promise<void> => call('PUT', '/api/work/draft', { content }, headers(tokens)),
  handIn: (tokens: Tokens, bundle: string): Promise<Receipt> => call('POST', '/api/work/hand-ins', { bundle }, headers(tokens)),
  receipts: (tokens: Tokens): Promise<Receipt[]> => call('GET', '/api/work/receipts', undefined, headers(tokens)),
};

/** A bench that is shared: the teacher's side, and the class's. */
export const shareClient = {
  open: (): Promise<{ token: string }> => call('POST', '/api/share'),
  change: (change: Omit<ShareChange, 'paused'> & { paused?: boolean }): Promise<{ followers: number }> => call('PUT', '/api/share', change),
  end: (): Promise<void> => call('DELETE', '/api/share'),
  seen: (token: string): Promise<{ shared: Shared; definition: string | null }> =>
    call('GET', '/api/work/follow', undefined, { 'x-zettak-link': token }),
  /** Told of every place where it stands, until the stream ends. Tokens go in a header, which an EventSource has not. */
  follow: async (token: string, told: (shared: Shared) => void, signal: AbortSignal): Promise<void> => {
    const response = await fetch('/api/work/follow/events', { headers: { 'x-zettak-link': token }, signal });
    if (!response.ok || !response.body) throw new Error(`The server answered ${response.status}.`);
    const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
    let text = '';
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      text += value;
      const events = text.split('\n\n');
      text = events.pop() ?? '';
      const newest = events.findLast((each) => each.startsWith('data: '));
      if (newest !== undefined) told(JSON.parse(newest.slice(6)) as Shared);
    }
  },
};

/** The teacher's session. */
export const sessionClient = {
  state: (): Promise<SessionState> => call('GET', '/api/session'),
  open: (passphrase: string): Promise<SessionState> => call('POST', '/api/session', { passphrase }),
  close: (): Promise<void> => call('DELETE', '/api/session'),
};
