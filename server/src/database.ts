/** Opens the SQLite file and brings it up to date. */
import { mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import Sqlite from 'better-sqlite3';
import { drizzle, type BetterSQLite3Database } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import * as schema from './schema';

export type Database = BetterSQLite3Database<typeof schema> & { $client: Sqlite.Database };

/** `file` may be `:memory:`. Applies every migration in `migrations` that the file has not seen. */
export function openDatabase(file: string, migrations: string): Database {
  if (file !== ':memory:') mkdirSync(dirname(file), { recursive: true });
  const client = new Sqlite(file);
  client.pragma('journal_mode = WAL');
  client.pragma('foreign_keys = ON');
  client.pragma('busy_timeout = 3000');
  const database = drizzle(client, { schema });
  migrate(database, { migrationsFolder: migrations });
  return database;
}
