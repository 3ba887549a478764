/**
 * What has changed between two values that are mostly alike, as a value: small where the change is small, so that it can
 * be sent instead of the whole. Who applies it keeps every part that is as it was, the very object.
 * For plain data without cycles: objects, lists, maps and sets; parts that stand in several places stay one.
 */

export type Patch =
  /** Nothing has changed. */
  'same' | { readonly becomes: unknown } | Changed;

type Changed =
  /** Of a list: how long it is now, changes of items that both have, and what is behind those. */
  | { readonly list: readonly (readonly [at: number, patch: Patch])[]; readonly length: number; readonly more: readonly unknown[] }
  /** Of an object or a map; with `order` where its keys are not those of before, or not in that order. */
  | { readonly fields: readonly Change[]; readonly order?: readonly unknown[] }
  | { readonly map: readonly Change[]; readonly order?: readonly unknown[] };

type Change = readonly [key: unknown, patch: Patch];

type Pairs = ReadonlyMap<unknown, unknown>;

/** What makes `after` of `before`. */
export function patchBetween(before: unknown, after: unknown): Patch {
  return new Comparing().patch(before, after);
}

/** The value that a patch makes of the one it was made for, which is not changed. */
export function patched<T>(before: unknown, patch: Patch): T {
  return new Applying().patched(before, patch) as T;
}

const isPlain = (value: object): boolean => !Array.isArray(value) && !(value instanceof Map) && !(value instanceof Set);
const fieldsOf = (value: object): Pairs => new Map(Object.entries(value));

class Comparing {
  /** What was found for parts that stand in several places. */
  private readonly found = new Map<object, { readonly before: unknown; readonly patch: Patch }>();

  patch(before: unknown, after: unknown): Patch {
    if (Object.is(before, after)) return 'same';
    if (typeof after !== 'object' || after === null || typeof before !== 'object' || before === null) return { becomes: after };
    const known = this.found.get(after);
    if (known?.before === before) return known.patch;
    const patch = this.between(before, after);
    this.found.set(after, { before, patch });
    return patch;
  }

  private between(before: object, after: object): Patch {
    if (Array.isArray(before) && Array.isArray(after)) return this.lists(before, after);
    if (before instanceof Map && after instanceof Map) return this.pairs(before, after, 'map');
    if (isPlain(before) && isPlain(after)) return this.objects(before as Record<string, unknown>, after as Record<string, unknown>);
    if (before instanceof Set && after instanceof Set && sameOrder([...before], [...after])) return 'same';
    return { becomes: after };
  }

  private lists(before: readonly unknown[], after: readonly unknown[]): Patch {
    const list: [number, Patch][] = [];
    const common = Math.min(before.length, after.length);
    for (let at = 0; at < common; at++) {
      const patch = this.patch(before[at], after[at]);
      if (patch !== 'same') list.push([at, patch]);
    }
    if (list.length === 0 && before.length === after.length) return 'same';
    return { list, length: after.length, more: after.slice(common) };
  }

  /** Without a map of them where nothing has changed, which is mostly so. */
  private objects(before: Record<string, unknown>, after: Record<string, unknown>): Patch {
    const keys = Object.keys(after);
    const old = Object.keys(before);
    if (!sameOrder(old, keys)) return this.pairs(fieldsOf(before), fieldsOf(after), 'fields');
    const fields: [string, Patch][] = [];
    for (const key of keys) {
      const patch = this.patch(before[key], after[key]);
      if (patch !== 'same') fields.push([key, patch]);
    }
    return fields.length === 0 ? 'same' : { fields };
  }

  private pairs(before: Pairs, after: Pairs, kind: 'fields' | 'map'): Patch {
    const changed: [unknown, Patch][] = [];
    for (const [key, value] of after) {
      const patch: Patch = before.has(key) ? this.patch(before.get(key), value) : { becomes: value };
      if (patch !== 'same') changed.push([key, patch]);
    }
    const order = [...after.keys()];
    const kept = sameOrder([...before.keys()], order);
    if (kept && changed.length === 0) return 'same';
    const rest = kept ? {} : { order };
    return kind === 'map' ? { map: changed, ...rest } : { fields: changed, ...rest };
  }
}

const sameOrder = (one: readonly unknown[], other: readonly unknown[]): boolean =>
  one.length === other.length && one.every((each, at) => Object.is(each, other[at]));

class Applying {
  private readonly made = new Map<object, { readonly before: unknown; readonly is: unknown }>();

  patched(before: unknown, patch: Patch): unknown {
    if (patch === 'same') return before;
    if ('becomes' in patch) return patch.becomes;
    const known = this.made.get(patch);
    if (known && known.before === before) return known.is;
    const is = this.changed(before, patch);
    this.made.set(patch, { before, is });
    return is;
  }

  private changed(before: unknown, patch: Changed): unknown {
    if ('list' in patch) {
      const list = [...(before as readonly unknown[]).slice(0, patch.length), ...patch.more];
      for (const [at, each] of patch.list) list[at] = this.patched(list[at], each);
      return list;
    }
    if ('map' in patch) return this.pairs(before as Pairs, patch.map, patch.order);
    return Object.fromEntries(this.pairs(fieldsOf(before as object), patch.fields, patch.order));
  }

  private pairs(before: Pairs, changed: readonly Change[], order: readonly unknown[] | undefined): Map<unknown, unknown> {
    const all = new Map(before);
    for (const [key, patch] of changed) all.set(key, this.patched(all.get(key), patch));
    return order ? new Map(order.map((key) => [key, all.get(key)])) : all;
  }
}
