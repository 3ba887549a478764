/** Sets the teacher's passphrase in the database; sessions that are open end. What `zettak passphrase` starts. */
import { join } from 'node:path';
import { createSessions } from './access/sessions';
import { createSettings } from './access/settings';
import { askPassphrase } from './access/terminal';
import { openDatabase } from './database/database';

const root = process.env.ZETTAK_ROOT ?? join(import.meta.dirname, '..', '..');
const file = process.env.ZETTAK_DATABASE ?? join(root, 'data', 'zettak.sqlite');
try {
  const database = openDatabase(file, join(root, 'server', 'drizzle'));
  await askPassphrase(createSettings(database));
  createSessions(database, () => new Date()).closeAll();
  database.close();
  process.stdout.write('The passphrase is set. Open sessions have ended.\n');
} catch (error) {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
}
