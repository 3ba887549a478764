import fc from 'fast-check';
import { patchBetween, patched } from './patch';

/** Values of all the sorts that a patch is for. */
const values = fc.letrec<{ value: unknown }>((tie) => ({
  value: fc.oneof(
    { maxDepth: 4, withCrossShrink: true },
    fc.constantFrom(undefined, null, true, 0, -0, NaN, 1, 'a', 'b'),
    fc.array(tie('value'), { maxLength: 4 }),
    fc.dictionary(fc.constantFrom('a', 'b', 'c', '1', '__proto__'), tie('value'), { maxKeys: 4, noNullPrototype: true }),
    fc.array(fc.tuple(fc.constantFrom<unknown>('a', 'b', 1, 2), tie('value')), { maxLength: 4 }).map((pairs) => new Map(pairs)),
    fc.array(fc.constantFrom(1, 2, 3), { maxLength: 3 }).map((items) => new Set(items)),
  ),
})).value;

/** As being sent makes one: anew, and what was one stays one. */
function copied<T>(value: T, known = new Map<unknown, unknown>()): T {
  if (typeof value !== 'object' || value === null) return value;
  if (known.has(value)) return known.get(value) as T;
  const keep = <Made>(made: Made): Made => (known.set(value, made), made);
  if (Array.isArray(value)) {
    const list = keep([] as unknown[]);
    for (const each of value) list.push(copied(each, known));
    return list as T;
  }
  if (value instanceof Map) {
    const map = keep(new Map());
    for (const [key, each] of value) map.set(key, copied(each, known));
    return map as T;
  }
  if (value instanceof Set) return keep(new Set(value)) as T;
  const fields = keep({} as Record<string, unknown>);
  for (const [key, each] of Object.entries(value))
    Object.defineProperty(fields, key, { value: copied(each, known), enumerable: true, writable: true, configurable: true });
  return fields as T;
}

const orders = (value: unknown): unknown =>
  value instanceof Map ? [...value.keys()] : typeof value === 'object' && value !== null ? Object.keys(value) : value;

describe('patches', () => {
  test('what a patch makes of one value is the other, in its order, after being sent, and the first is as it was', () => {
    fc.assert(
      fc.property(values, values, (before, after) => {
        const held = copied(before);
        const made = patched(before, copied(patchBetween(before, after)));
        expect(made).toStrictEqual(after);
        expect(orders(made)).toStrictEqual(orders(after));
        expect(before).toStrictEqual(held);
      }),
      { numRuns: 2000 },
    );
  });
  test('a copy is the same, and nothing is made anew', () => {
    fc.assert(
      fc.property(values, (value) => {
        expect(patchBetween(value, copied(value))).toBe('same');
        expect(patched(value, 'same')).toBe(value);
      }),
    );
  });
  test('parts that have not changed stay the very ones, and the patch says only what has', () => {
    const before = {
      forms: [
        { name: 'ADD', ticks: [1, 2] },
        { name: 'SUB', ticks: [3] },
      ],
      names: new Map([['a', { n: 1 }]]),
    };
    const after = copied(before);
    after.forms[1]!.name = 'SUBTRACT';
    const patch = patchBetween(before, after);
    expect(patch).toEqual({ fields: [['forms', { list: [[1, { fields: [['name', { becomes: 'SUBTRACT' }]] }]], length: 2, more: [] }]] });
    const made = patched<typeof before>(before, patch);
    expect(made.forms[0]).toBe(before.forms[0]);
    expect(made.forms[1]?.ticks).toBe(before.forms[1]?.ticks);
    expect(made.names).toBe(before.names);
  });
  test('a part that stands in several places is one afterwards', () => {
    const format = { width: 4 };
    const before = { formats: [format], forms: [{ format }, { format }] };
    const other = { width: 8 };
    const after = { formats: [other], forms: [{ format: other }, { format: other }] };
    const made = patched<typeof before>(before, copied(patchBetween(before, after)));
    expect(made).toEqual(after);
    expect(made.forms[0]?.format).toBe(made.formats[0]);
    expect(made.forms[1]?.format).toBe(made.formats[0]);
  });
});
