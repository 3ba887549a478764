/** Everything that answers requests, over one database: stores, the reader of machines, the checks of hand-ins. */
import { join } from 'node:path';
import type { Logger } from 'pino';
import { createSessions } from './access/sessions';
import { createSettings } from './access/settings';
import { startChecker } from './checking/checker';
import { buildOf } from './checking/build';
import type { DeskAccess } from './checking/deskRoutes';
import { startJobs } from './checking/jobs';
import type { QueueAddress } from './checking/queueAddress';
import type { startQueuedJobs } from './checking/queued';
import { createCourseStore } from './courses/store';
import { seedCourses } from './courses/seed';
import { Together } from './database/together';
import type { Database } from './database/database';
import { seed } from './documents/seed';
import { createDocumentStore, type Clock } from './documents/store';
import { createHandInStore } from './handIns/store';
import { Sharing } from './sharing/sharing';
import { createWorkStore } from './works/store';
import { createResultStore } from './trials/results';

export interface ServiceParts {
  readonly database: Database;
  readonly now: Clock;
  readonly log: Logger;
  /** Folder of the demo course. */
  readonly demo: string;
  /** Folder of the built threads. */
  readonly threads: string;
  readonly queue?: QueueParts | undefined;
}

/** Where workers take checks from, and the token that they show; without them threads of this process check. */
export interface QueueParts {
  readonly address: QueueAddress;
  readonly token: string;
  /** Given, and not imported: what speaks with a queue is a quarter of what a server reads when it starts, and few have one. */
  readonly start: typeof startQueuedJobs;
}

export type Services = ReturnType<typeof startServices>;

/** Puts the demo course into an empty database, and begins with what waits to be checked. */
export function startServices({ database, now, log, demo, threads, queue }: ServiceParts) {
  const store = createDocumentStore(database, now);
  const results = createResultStore(database, now);
  const courses = createCourseStore(database, store, now);
  const handIns = createHandInStore(database, now);
  database.write(() => {
    seed(store, demo);
    seedCourses({ courses, handIns, store }, demo);
  });
  handIns.readOldBundles();
  const settings = createSettings(database);
  const sessions = createSessions(database, now);
  const works = createWorkStore({ database, handIns, settings, now });
  const sharing = new Sharing();
  const together = new Together(database);
  const checker = startChecker(join(threads, 'machineErrors.js'));
  const queued = queue?.start({ handIns, courses, log, address: queue.address, name: `checks-${settings.secret('queue').slice(0, 16)}` });
  const jobs = queued ?? startJobs({ handIns, courses, log, worker: join(threads, 'checkHandIn.js') });
  const desk: DeskAccess | undefined = queue && queued && { desk: queued.desk, token: queue.token, build: buildOf(threads) };
  const close = async (): Promise<void> => void (await Promise.all([checker.close(), jobs.close()]));
  return {
    free: database.free,
    now,
    store,
    results,
    courses,
    handIns,
    works,
    settings,
    sessions,
    together,
    sharing,
    checker,
    jobs,
    desk,
    log,
    close,
  };
}
