/** Machines that others are based on. */
import { client } from './client';

/** Newest versions, by name in small letters, of the machines that a document may be based on, as far as they are known here. */
export async function baseTexts(text: string): Promise<Record<string, string>> {
  if (!/^based on:/m.test(text)) return {};
  const machines = await client.list('machine');
  const versions = await Promise.all(
    machines.map(async ({ id, name, versions: kept }) => {
      const newest = kept.at(-1);
      return newest && ([name.toLowerCase(), (await client.version('machine', id, newest.number)).text] as const);
    }),
  );
  return Object.fromEntries(versions.filter((each) => each !== undefined));
}
