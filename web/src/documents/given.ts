/** What programs were given in this browser the last time that they were given something: versions of a machine are compared with it. */
import { keep, keptValue } from '../app/preferences';

const nameOf = (program: string): string => `given.${program}`;
const MOST = 2000;

/** `program`: its id. Longer ones are cut off. */
export function keepGiven(program: string, inputs: readonly number[]): void {
  keep(nameOf(program), JSON.stringify(inputs.slice(0, MOST)));
}

export function givenTo(program: string): readonly number[] {
  const found = keptValue(nameOf(program));
  return Array.isArray(found) && found.every((each) => typeof each === 'number') ? found.slice(0, MOST) : [];
}
