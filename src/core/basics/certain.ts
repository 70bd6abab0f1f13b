/**
 * What is there unless the program is wrong. Types can't say it (an index of the same length, a key that was just put in), so it is
 * looked at: what isn't there is told where it is missing, rather than carried on as `undefined`.
 */

/** The value, which is neither null nor undefined. */
export function certain<T>(value: T, what = 'A value'): NonNullable<T> {
  if (value === null || value === undefined) throw new Error(`${what} is missing where it must be.`);
  return value;
}

export function firstIn<T>(list: readonly T[]): T {
  return itemAt(list, 0);
}

export function lastIn<T>(list: readonly T[]): T {
  return itemAt(list, list.length - 1);
}

export function itemAt<T>(list: readonly T[], index: number): T {
  const item = list[index];
  if (item !== undefined || index in list) return item as T;
  throw new RangeError(`There is no item ${index} in a list of ${list.length}.`);
}

/** The first that passes the test. */
export function foundIn<T>(list: readonly T[], test: (one: T, index: number) => boolean): T {
  const at = list.findIndex(test);
  if (at >= 0) return list[at] as T;
  throw new RangeError(`None of ${list.length} is the one that must be there.`);
}

/** What a map has under a key. */
export function valueAt<K, V>(map: { get(key: K): V | undefined }, key: K): NonNullable<V> {
  const value = map.get(key);
  if (value === null || value === undefined) throw new RangeError(`There is no entry for ${String(key)}.`);
  return value;
}
