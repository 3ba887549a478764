/** What stands at a place of a list that has to have one there. */
interface List<T> {
  readonly length: number;
  readonly [index: number]: T;
}

/** Throws a RangeError that names the place where there is none: a mistake of ours, not of somebody's text. */
export function itemAt<T>(list: List<T>, index: number): T {
  if (index >= 0 && index < list.length) return list[index] as T;
  throw new RangeError(`There is no item ${index} in a list of ${list.length}`);
}
