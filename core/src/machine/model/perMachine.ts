/** What is worked out once for each machine and then kept beside it. */
import type { Form, Machine } from './machine';

/** As long as a machine is there, what was made for it is; the one that was asked about last is found without looking. */
export function perMachine<T>(make: (machine: Machine) => T): (machine: Machine) => T {
  const known = new WeakMap<Machine, { readonly made: T }>();
  let last: Machine | undefined;
  let found: { readonly made: T } | undefined;
  return (machine) => {
    if (machine !== last || !found) {
      found = known.get(machine);
      if (!found) known.set(machine, (found = { made: make(machine) }));
      last = machine;
    }
    return found.made;
  };
}

/** The same for each form of a machine. */
export const perForm = <T>(): ((machine: Machine) => (T | undefined)[]) => perMachine(() => []);

/**
 * What follows from a form, and from what always goes with it: of a document that is read again and again most forms are the very
 * ones of before.
 */
export function alongForm<T, With extends readonly unknown[] = []>(make: (form: Form, ...and: With) => T): (form: Form, ...and: With) => T {
  const known = new WeakMap<Form, { readonly made: T }>();
  return (form, ...and) => {
    let found = known.get(form);
    if (!found) known.set(form, (found = { made: make(form, ...and) }));
    return found.made;
  };
}
