/** What programs were given in this browser the last time that they were given something: versions of a machine are compared with it. */
import { z } from 'zod';
import { keep, keptValue } from '../app/preferences';

const nameOf = (program: string): string => `given.${program}`;
const MOST = 2000;
const numbers = z.array(z.number()).max(MOST);

/** `program`: its id. Longer ones are cut off. */
export function keepGiven(program: string, inputs: readonly number[]): void {
  keep(nameOf(program), JSON.stringify(inputs.slice(0, MOST)));
}

export function givenTo(program: string): readonly number[] {
  return numbers.safeParse(keptValue(nameOf(program))).data ?? [];
}
