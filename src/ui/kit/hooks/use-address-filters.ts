'use client';

import { useSearchParams } from 'next/navigation';
import { useState } from 'react';

interface Chosen {
  readonly text: string;
  /** What the address held, and what was written into it, since it and the choice were last the same. */
  readonly passed: readonly string[];
}

/**
 * What a list is narrowed to, by the names of its filters: it stands in the page's address, so that going back, or opening it again, comes back to it. What is
 * chosen is there at once: the address is told of it, and comes after, so that quick choices and what is typed don't overtake it.
 */
export function useAddressFilters<N extends string>(
  names: readonly N[],
): [Readonly<Partial<Record<N, string>>>, (filters: Readonly<Partial<Record<N, string>>>) => void] {
  const inAddress = queryOf(names, readFilters(names, useSearchParams()));
  const [chosen, setChosen] = useState<Chosen | null>(null);
  if (chosen?.text === inAddress) setChosen(null);
  const text = chosen?.passed.includes(inAddress) ? chosen.text : inAddress;
  return [
    readFilters(names, new URLSearchParams(text)),
    (next) => {
      const written = queryOf(names, next);
      setChosen((was) => ({ text: written, passed: [...(was?.passed ?? []), inAddress, written] }));
      window.history.replaceState(null, '', written === '' ? window.location.pathname : `?${written}`);
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
