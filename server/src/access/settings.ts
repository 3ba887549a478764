/** What the server keeps for itself, by name. */
import { randomBytes } from 'node:crypto';
import { eq } from 'drizzle-orm';
import type { Database } from '../database/database';
import { settings } from '../database/schema';

export interface Settings {
  get(name: string): string | undefined;
  set(name: string, value: string): void;
  /** 256 bits in hex under a name, made when they are asked for first. */
  secret(name: string): string;
}

export function createSettings({ queries, write }: Database): Settings {
  const get = (name: string): string | undefined => queries.select().from(settings).where(eq(settings.name, name)).get()?.value;
  const set = (name: string, value: string): void =>
    write(() => void queries.insert(settings).values({ name, value }).onConflictDoUpdate({ target: settings.name, set: { value } }).run());
  return {
    get,
    set,
    secret: (name) => {
      const known = get(name);
      if (known !== undefined) return known;
      const made = randomBytes(32).toString('hex');
      set(name, made);
      return made;
    },
  };
}
