/** Opens the SQLite file, sees whether it is ours, and brings it up to date. The only place that speaks to the driver. */
import { mkdirSync, statSync } from 'node:fs';
import { dirname } from 'node:path';
import { getTableColumns, getTableName } from 'drizzle-orm';
import { BetterSQLiteSession } from 'drizzle-orm/better-sqlite3/session';
import { readMigrationFiles, type MigrationMeta } from 'drizzle-orm/migrator';
import { BaseSQLiteDatabase } from 'drizzle-orm/sqlite-core/db';
import { SQLiteSyncDialect } from 'drizzle-orm/sqlite-core/dialect';
import Sqlite from 'libsql';
import * as schema from './schema';

export type Queries = BaseSQLiteDatabase<'sync', Sqlite.RunResult>;

/** Why a database cannot be used, or cannot be written to, in a sentence. Nothing was changed. */
export class DatabaseProblem extends Error {}

export interface Database {
  readonly queries: Queries;
  /** All of it or nothing, inside another one as part of that. Throws a DatabaseProblem where the file cannot take it. */
  write<T>(act: () => T): T;
  /**
   * Resolves once no other program is writing to the file; rejects with a DatabaseProblem where that takes longer than
   * PATIENCE. The process goes on meanwhile, which a `write` would stop.
   */
  free(): Promise<void>;
  /** One value of the driver's own, as `journal_mode`. */
  pragma(text: string): unknown;
  /** Afterwards the file alone is the whole database. */
  close(): void;
}

/** `file` may be `:memory:`. Applies every migration in the folder that the file has not seen; throws a DatabaseProblem where it is not ours. */
export function openDatabase(file: string, folder: string): Database {
  const migrations = readMigrationFiles({ migrationsFolder: folder });
  const client = openedFile(file);
  try {
    const known = seenMigrations(client);
    checkHistory(file, known, migrations);
    client.pragma('journal_mode = WAL');
    client.pragma('synchronous = FULL');
    client.pragma('foreign_keys = ON');
    client.pragma('busy_timeout = 3000');
    const dialect = new SQLiteSyncDialect();
    // The driver has the interface that this session is written for, and ships its binary instead of compiling it.
    const session = new BetterSQLiteSession(client as never, dialect, undefined) as never;
    dialect.migrate(migrations, session);
    checkColumns(file, client);
    client.pragma(`busy_timeout = ${BLOCKED}`);
    const queries: Queries = new BaseSQLiteDatabase('sync', dialect, session, undefined);
    return {
      queries,
      write: writerOf(file, client),
      free: freeOf(client),
      pragma: (text) => (client.prepare(`PRAGMA ${text}`).raw().get() as unknown[] | undefined)?.[0],
      close: () => {
        gather(client);
        client.close();
      },
    };
  } catch (error) {
    client.close();
    throw error instanceof DatabaseProblem ? error : new DatabaseProblem(openingSentence(file, error));
  }
}

/** ms for which a write may stop the whole process while another program has the file. */
const BLOCKED = 20;
/** ms between two looks whether the file is free, and until nobody waits for it any more. */
const LOOK_EVERY = 100;
const PATIENCE = 10_000;

const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** All who wait share one look at the file. */
function freeOf(client: Sqlite.Database): Database['free'] {
  let waiting: Promise<void> | undefined;
  const isFree = (): boolean => {
    if (client.inTransaction) return true;
    try {
      client.exec('BEGIN IMMEDIATE');
      client.exec('ROLLBACK');
      return true;
    } catch (error) {
      if (codeOf(error) !== 'SQLITE_BUSY') throw writeProblem(error);
      return false;
    }
  };
  const wait = async (): Promise<void> => {
    for (let waited = 0; waited < PATIENCE; waited += LOOK_EVERY) {
      if (isFree()) return;
      await pause(LOOK_EVERY);
    }
    throw new DatabaseProblem('Another program is using the database, so nothing could be saved.');
  };
  return () => (waiting ??= wait().finally(() => (waiting = undefined)));
}

/** What stands in the log beside the file goes into it, so that the file alone is the whole database. */
function gather(client: Sqlite.Database): void {
  try {
    client.pragma('wal_checkpoint(TRUNCATE)');
  } catch {
    // The file is gone or cannot be written: the log stays where it is, and is read at the next start.
  }
}

function openedFile(file: string): Sqlite.Database {
  try {
    if (file !== ':memory:') mkdirSync(dirname(file), { recursive: true });
    return new Sqlite(file);
  } catch (error) {
    throw new DatabaseProblem(openingSentence(file, error));
  }
}

const codeOf = (error: unknown): string => (error as { code?: string } | null)?.code ?? '';

function openingSentence(file: string, error: unknown): string {
  const text = error instanceof Error ? error.message : String(error);
  if (codeOf(error) === 'SQLITE_NOTADB' || /not a database/i.test(text))
    return `${file} is no database of SQLite. It was left as it is: move it away, or name another file with ZETTAK_DATABASE.`;
  if (/readonly|read-only|EACCES|EROFS|unable to open/i.test(`${codeOf(error)} ${text}`))
    return `${file} cannot be opened for writing. Check who may write there, or name another file with ZETTAK_DATABASE.`;
  if (/locked|busy/i.test(text)) return `${file} is in use by another program. Close that first.`;
  return `${file} cannot be used as the database: ${text}.`;
}

/** Hashes of the migrations that a file has seen, in order; none where it is new. */
function seenMigrations(client: Sqlite.Database): readonly string[] {
  const tables = client.prepare("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'").all() as {
    name: string;
  }[];
  if (!tables.some((each) => each.name === '__drizzle_migrations')) {
    if (tables.length > 0)
      throw new DatabaseProblem(`The database holds tables of another program (${tables[0]!.name}). It was left as it is.`);
    return [];
  }
  return (client.prepare('SELECT hash FROM __drizzle_migrations ORDER BY created_at').all() as { hash: string }[]).map((each) => each.hash);
}

function checkHistory(file: string, seen: readonly string[], migrations: readonly MigrationMeta[]): void {
  if (seen.every((hash, at) => migrations[at]?.hash === hash)) return;
  throw new DatabaseProblem(
    `${file} was written by another version of Zettak, which this one does not know. It was left as it is: use the newer version, or name another file with ZETTAK_DATABASE.`,
  );
}

const TABLES = [
  ...[schema.documents, schema.versions, schema.results, schema.courses, schema.assignments, schema.handIns],
  ...[schema.handInTexts, schema.checks, schema.labelChoices, schema.remarks, schema.works, schema.sessions, schema.settings],
];

/** Whether every column that queries name is there. */
function checkColumns(file: string, client: Sqlite.Database): void {
  for (const table of TABLES) {
    const name = getTableName(table);
    const present = (client.prepare(`PRAGMA table_info(${name})`).all() as { name: string }[]).map((each) => each.name);
    const missing = Object.values(getTableColumns(table)).find((each) => !present.includes(each.name));
    if (missing) throw new DatabaseProblem(`${file} lacks the column ${name}.${missing.name}. It was changed by hand, and left as it is.`);
  }
}

/** Sees before each write that the file is still the one that was opened; else what is written would be lost with it. */
function writerOf(file: string, client: Sqlite.Database): Database['write'] {
  const identity = (): string | undefined => {
    if (file === ':memory:') return file;
    const found = statSync(file, { throwIfNoEntry: false });
    return found && `${found.dev} ${found.ino}`;
  };
  const opened = identity();
  return (act) => {
    if (client.inTransaction) return act();
    if (identity() !== opened)
      throw new DatabaseProblem('The database file has been moved or deleted. Nothing can be saved: start Zettak again.');
    try {
      client.exec('BEGIN IMMEDIATE');
      const result = act();
      client.exec('COMMIT');
      return result;
    } catch (error) {
      if (client.inTransaction) client.exec('ROLLBACK');
      throw writeProblem(error);
    }
  };
}

function writeProblem(error: unknown): unknown {
  const code = codeOf(error) || codeOf((error as { cause?: unknown } | null)?.cause);
  if (code === 'SQLITE_FULL') return new DatabaseProblem('The disk is full, so nothing could be saved. Make room on it.');
  if (code === 'SQLITE_READONLY') return new DatabaseProblem('The database may not be written to. Check who may write to its file.');
  if (code.startsWith('SQLITE_IOERR')) return new DatabaseProblem('The disk reports an error, so nothing could be saved.');
  if (code === 'SQLITE_BUSY') return new DatabaseProblem('Another program is using the database, so nothing could be saved.');
  return error;
}
