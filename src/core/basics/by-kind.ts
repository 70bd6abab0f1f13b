interface HasKind {
  readonly kind: string;
}

/**
 * What is done with a member of a closed union, as a table with an entry for each kind: a kind without its entry doesn't compile. Each
 * entry gets the member as its own kind.
 */
export type KindTable<U extends HasKind, A extends readonly unknown[], R> = {
  readonly [K in U['kind']]: (one: Extract<U, { readonly kind: K }>, ...rest: A) => R;
};

/** A function over a closed union, from its table. */
export function byKind<U extends HasKind, A extends readonly unknown[], R>(
  table: KindTable<U, A, R>,
): (one: U, ...rest: A) => R {
  const entries: Readonly<Record<string, (one: never, ...rest: A) => R>> = table;
  return (one, ...rest) => {
    const entry = Object.hasOwn(entries, one.kind) ? entries[one.kind] : undefined;
    if (!entry) throw new TypeError(`Unexpected kind: ${JSON.stringify(one.kind)}`);
    return entry(one as never, ...rest);
  };
}
