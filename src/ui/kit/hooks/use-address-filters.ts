'use client';

import { useSearchParams } from 'next/navigation';

/**
 * What a list is narrowed to, by the names of its filters: it stands in the page's address, so that going back, or opening it again, comes back to it.
 */
export function useAddressFilters<N extends string>(
  names: readonly N[],
): [Readonly<Partial<Record<N, string>>>, (filters: Readonly<Partial<Record<N, string>>>) => void] {
  const query = useSearchParams();
  return [
    readFilters(names, query),
    (next) => {
      const text = queryOf(names, next);
      window.history.replaceState(null, '', text === '' ? window.location.pathname : `?${text}`);
    },
  ];
}

/** The filters that an address holds; what is empty isn't there. */
export const readFilters = <N extends string>(
  names: readonly N[],
  query: Pick<URLSearchParams, 'get'>,
): Readonly<Partial<Record<N, string>>> =>
  Object.fromEntries(
    names.flatMap((name) => {
      const value = query.get(name);
      return value ? [[name, value]] : [];
    }),
  ) as Partial<Record<N, string>>;

/** Filters as they stand in an address. */
export function queryOf<N extends string>(
  names: readonly N[],
  filters: Readonly<Partial<Record<N, string>>>,
): string {
  const query = new URLSearchParams();
  for (const name of names) {
    const value = filters[name];
    if (value) query.set(name, value);
  }
  return query.toString();
}

/** The filters with one of them otherwise; without it where it is empty. */
export function withFilter<N extends string>(
  filters: Readonly<Partial<Record<N, string>>>,
  name: N,
  value: string | undefined,
): Readonly<Partial<Record<N, string>>> {
  const others = Object.entries(filters).filter(([one]) => one !== name);
  return Object.fromEntries(value ? [...others, [name, value]] : others) as Partial<Record<N, string>>;
}
