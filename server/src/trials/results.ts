/** Results of trials: the newest few states of each program. SQL and paths together, for there is little of either. */
import { and, desc, eq, notInArray } from 'drizzle-orm';
import { Router } from 'express';
import { keptResults, resultsKey, type Results } from '@zettak/api/results';
import type { Database } from '../database/database';
import { documents, results } from '../database/schema';
import type { Clock } from '../documents/store';
import { HttpProblem, readBody } from '../http/problem';

/** States of program and machine that results are kept of. */
const MOST_KEPT = 5;

export interface ResultStore {
  /** Newest first. */
  of(program: string): Results[];
  keep(program: string, key: string, rows: string): void;
}

export function createResultStore({ queries, write }: Database, now: Clock): ResultStore {
  const of = (program: string): Results[] =>
    queries
      .select({ key: results.key, rows: results.rows, createdAt: results.createdAt })
      .from(results)
      .where(eq(results.program, program))
      .orderBy(desc(results.createdAt))
      .all();
  return {
    of,
    keep: (program, key, rows) =>
      write(() => {
        const found = queries
          .select({ id: documents.id })
          .from(documents)
          .where(and(eq(documents.kind, 'program'), eq(documents.id, program)))
          .get();
        if (!found) throw new HttpProblem(404, `There is no program “${program}”.`);
        const entry = { program, key, rows, createdAt: now().toISOString() };
        const { createdAt } = entry;
        queries
          .insert(results)
          .values(entry)
          .onConflictDoUpdate({ target: [results.program, results.key], set: { rows, createdAt } })
          .run();
        const newest = [
          key,
          ...of(program)
            .map((each) => each.key)
            .filter((each) => each !== key),
        ].slice(0, MOST_KEPT);
        queries
          .delete(results)
          .where(and(eq(results.program, program), notInArray(results.key, newest)))
          .run();
      }),
  };
}

/** Paths under /api/results. */
export function resultRoutes(store: ResultStore): Router {
  const routes = Router();
  routes.get('/:program', (request, response) => void response.json(store.of(request.params.program)));
  routes.put('/:program/:key', (request, response) => {
    const { program, key } = request.params;
    if (!resultsKey.safeParse(key).success) throw new HttpProblem(400, 'key: a key is made of hex digits.');
    store.keep(program, key, readBody(keptResults, request.body).rows);
    response.status(204).end();
  });
  return routes;
}
