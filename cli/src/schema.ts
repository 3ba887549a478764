/** zettak schema: the JSON Schema of machine documents, for editors that know JSON Schema. */
import { documentSchema } from '@zettak/core/machine/document/schema';
import type { Terminal } from './terminal';

/** Prints the JSON schema of machine documents. Exit code 0. */
export function schema(terminal: Terminal): number {
  terminal.write(JSON.stringify(documentSchema(), null, 2));
  return 0;
}
