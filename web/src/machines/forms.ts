/** Written forms of an instruction, as the document has them. */
import type { Plain } from '@zettak/core/machine/document/tree';
import { plainAt } from './defining';

/** Which form of which instruction is edited. */
export interface FormProps {
  readonly name: string;
  readonly chosen: number;
}

export const formsIn = (document: Plain | undefined, name: string): readonly Plain[] => {
  const forms = plainAt(document, ['instructions', name, 'forms']);
  return Array.isArray(forms) ? (forms as readonly Plain[]) : [];
};
