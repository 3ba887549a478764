/** What a new instruction begins with. */
import { writeCode } from '@zettak/core/machine/document/codeText';
import type { Plain } from '@zettak/core/machine/document/tree';
import type { Machine } from '@zettak/core/machine/model/machine';
import { fixedAt, freeOpcodes } from '@zettak/core/machine/model/opcodeMap';
import { codeNumber } from './codeNumber';
import { plainAt } from './defining';

interface FreshInstruction {
  readonly title: string;
  readonly family: string;
  readonly forms: readonly { readonly write: string; readonly code: string; readonly execute: string }[];
}

/** A whole instruction of the format without operands where there is one, with the first code that is free, and nothing to do. */
export function freshInstruction(
  name: string,
  document: Plain | undefined,
  machine: Machine | undefined,
): FreshInstruction & { readonly [key: string]: Plain } {
  const formats = Object.keys((plainAt(document, ['formats']) as object | undefined) ?? {});
  const format = formats.find((each) => each === 'alone') ?? formats[0] ?? 'alone';
  const families = Object.values((plainAt(document, ['instructions']) as Record<string, { family?: string }> | undefined) ?? {});
  const [free = 0] = machine ? freeOpcodes(machine, 1) : [];
  const found = machine?.formats.find((each) => each.name === format);
  const fixed = machine && found ? fixedAt(machine, found, ['opcode'], free) : [{ field: 'opcode', value: free }];
  const code = writeCode({ format, fixed: fixed.map(({ field, value }) => ({ field, value: codeNumber(machine, value) })) });
  return { title: 'what it does', family: families.at(-1)?.family ?? 'other', forms: [{ write: name, code, execute: '' }] };
}
