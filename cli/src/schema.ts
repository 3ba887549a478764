/** zettak schema: JSON Schemas of machine documents and of hand-ins, for editors and programs that know JSON Schema. */
import { documentSchema } from '@zettak/core/machine/document/schema';
import { bundleSchema } from '@zettak/core/trials/handIns/bundle';
import type { Terminal } from './terminal';

/** Prints a schema: of machine documents, or of what is named. Exit code 0, or 2 where there is no such schema. */
export function schema(terminal: Terminal, what = 'machine'): number {
  const schemas: Readonly<Record<string, () => object>> = { machine: documentSchema, 'hand-in': bundleSchema };
  const found = Object.hasOwn(schemas, what) ? schemas[what] : undefined;
  if (!found) return terminal.wrongUse(`There is no schema “${what}”. There are: ${Object.keys(schemas).join(', ')}.`);
  terminal.write(JSON.stringify(found(), null, 2));
  return 0;
}
