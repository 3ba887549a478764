/** Speaks HTTP as a student: the assignment behind a link, one's own draft, hand-ins and receipts. Tokens go in headers. */
import type { PublicAssignment, Receipt } from '@zettak/api/work';
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

/** The teacher's session. */
export const sessionClient = {
  state: (): Promise<SessionState> => call('GET', '/api/session'),
  open: (passphrase: string): Promise<SessionState> => call('POST', '/api/session', { passphrase }),
  close: (): Promise<void> => call('DELETE', '/api/session'),
};
