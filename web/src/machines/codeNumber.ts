/** Codes as documents write them. */
import type { Machine } from '@zettak/core/machine/model/machine';

/** Decimal on a decimal machine, else hexadecimal. */
export const codeNumber = (machine: Pick<Machine, 'radix'> | undefined, value: number): string =>
  machine?.radix === 10 ? String(value) : `0x${value.toString(16).toUpperCase()}`;
