/** Places of a list of rules, or of rules that go together, by the types that matter to them. */
const placesOfTypes = new WeakMap<readonly (readonly string[])[], ReadonlyMap<string, readonly number[]>>();

function placesBy(types: readonly (readonly string[])[]): ReadonlyMap<string, readonly number[]> {
  const known = placesOfTypes.get(types);
  if (known) return known;
  const places = new Map<string, number[]>();
  for (const [at, ofPlace] of types.entries())
    for (const type of ofPlace) {
      const of = places.get(type);
      if (of) of.push(at);
      else places.set(type, [at]);
    }
  placesOfTypes.set(types, places);
  return places;
}

/**
 * Whether a run has touched records of a type that matters at a place, by what is touched when it is asked. Of hundreds of rules a run reaches a few:
 * each touched type marks its places once, and no rule is asked for its types.
 */
export function reachedPlaces(
  types: readonly (readonly string[])[],
  touched: ReadonlyMap<string, { readonly type: string }>,
): (at: number) => boolean {
  const places = placesBy(types);
  const isReached = new Uint8Array(types.length);
  const seen = new Set<string>();
  let size = -1;
  const mark = () => {
    for (const { type } of touched.values()) {
      if (seen.has(type)) continue;
      seen.add(type);
      for (const at of places.get(type) ?? []) isReached[at] = 1;
    }
    size = touched.size;
  };
  return (at) => {
    if (size !== touched.size) mark();
    return isReached[at] === 1;
  };
}
