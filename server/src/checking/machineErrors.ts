/** What a worker thread does: reads a machine's document with all its checks. */
import { readWholeMachine } from '@zettak/core/assembler/machines';
import type { Problem } from '@zettak/core/text/diagnostic';

export interface MachineTexts {
  readonly text: string;
  /** Newest versions, by name in small letters, of the machines that it may be based on. */
  readonly bases: Readonly<Record<string, string>>;
}

/** Errors in a document; none where it is a machine. */
export default function machineErrors({ text, bases }: MachineTexts): Problem[] {
  const base = (name: string): string | undefined => (Object.hasOwn(bases, name.toLowerCase()) ? bases[name.toLowerCase()] : undefined);
  return readWholeMachine(text, { base }).problems.filter((each) => each.grade === 'error');
}
