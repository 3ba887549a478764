/** What programs of a machine may take in. */
import { client } from './client';

/** The course's parts for a machine, by name. */
export async function partTexts(machine: string): Promise<Record<string, string>> {
  const parts = (await client.list('part')).filter((each) => each.machine === machine);
  return Object.fromEntries(await Promise.all(parts.map(async (each) => [each.name, (await client.get('part', each.id)).draft] as const)));
}
