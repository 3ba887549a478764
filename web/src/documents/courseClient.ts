/** Speaks HTTP for courses, assignments and hand-ins; progress comes as Server-Sent Events. */
import type { AssignmentChange, NewAssignment, NewHandIns } from '@zettak/api/courses';
import type { AssignmentDetail, CourseSummary, HandInDetail, Matrix, Progress, Remark } from '@zettak/api/matrix';
import type { AssignmentTexts } from '@zettak/core/trials/handIns/assignment';
import type { Receipt } from '@zettak/api/work';
import { call } from './client';

const of = (assignment: string, ...rest: string[]): string => ['/api/assignments', assignment, ...rest].join('/');

export const courseClient = {
  list: (): Promise<CourseSummary[]> => call('GET', '/api/courses'),
  create: (name: string): Promise<CourseSummary> => call('POST', '/api/courses', { name }),
  files: (id: string): Promise<Record<string, string>> => call('GET', `/api/courses/${id}/files`),
  addFiles: (files: Readonly<Record<string, string>>): Promise<CourseSummary> => call('POST', '/api/courses/files', files),
  remove: (id: string): Promise<void> => call('DELETE', `/api/courses/${id}`),
  assign: (entry: NewAssignment): Promise<AssignmentDetail> => call('POST', '/api/assignments', entry),
  change: (id: string, change: AssignmentChange): Promise<AssignmentDetail> => call('PUT', of(id), change),
  drop: (id: string): Promise<void> => call('DELETE', of(id)),
  matrix: (id: string): Promise<Matrix> => call('GET', of(id, 'matrix')),
  texts: (id: string): Promise<AssignmentTexts> => call('GET', of(id, 'texts')),
  remark: (id: string, remark: Remark): Promise<void> => call('PUT', of(id, 'remarks'), remark),
  bring: (id: string, brought: NewHandIns): Promise<{ ids: number[]; same: number }> => call('POST', of(id, 'hand-ins'), brought),
  /** A new link; the token is told this once. */
  link: (id: string): Promise<{ token: string }> => call('POST', of(id, 'link')),
  unlink: (id: string): Promise<void> => call('DELETE', of(id, 'link')),
  isOurs: (receipt: Receipt): Promise<{ ours: boolean }> => call('POST', '/api/receipts', receipt),
  removeAll: (id: string): Promise<void> => call('DELETE', of(id, 'hand-ins')),
  handIn: (id: number): Promise<HandInDetail> => call('GET', `/api/hand-ins/${id}`),
  choose: (id: number): Promise<void> => call('POST', `/api/hand-ins/${id}/choice`),
  removeOne: (id: number): Promise<void> => call('DELETE', `/api/hand-ins/${id}`),
  check: (id: string): Promise<Progress> => call('POST', of(id, 'checks')),
  callOff: (id: string): Promise<Progress> => call('DELETE', of(id, 'checks')),
  /** Path of the marks as a file. */
  marks: (id: string): string => of(id, 'marks.csv'),
  /** Told at once and whenever something has been checked; comes back by itself after a break. Returns its undoing. */
  follow: (id: string, told: (progress: Progress) => void): (() => void) => {
    const events = new EventSource(of(id, 'events'));
    events.onmessage = ({ data }: MessageEvent<string>) => told(JSON.parse(data) as Progress);
    return () => events.close();
  },
};
