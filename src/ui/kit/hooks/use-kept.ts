'use client';

import { useMemo, useSyncExternalStore } from 'react';

const listeners = new Set<() => void>();

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  window.addEventListener('storage', listener);
  return () => {
    listeners.delete(listener);
    window.removeEventListener('storage', listener);
  };
}

/**
 * A choice that this browser remembers under a name, and how it is made. What isn't of its form, or was written there by something else, is
 * as to begin with; so is `null`.
 */
export function useKept<T>(
  place: string,
  first: T,
  isOne: (value: unknown) => value is T,
): [kept: T, keep: (next: T | null) => void] {
  const text = useSyncExternalStore(
    subscribe,
    () => localStorage.getItem(place),
    () => null,
  );
  const kept = useMemo(() => read(text, isOne), [text, isOne]);
  const keep = (next: T | null) => {
    if (next === null) localStorage.removeItem(place);
    else localStorage.setItem(place, JSON.stringify(next));
    for (const listener of listeners) listener();
  };
  return [kept ?? first, keep];
}

function read<T>(text: string | null, isOne: (value: unknown) => value is T): T | null {
  if (text === null) return null;
  try {
    const stored: unknown = JSON.parse(text);
    return isOne(stored) ? stored : null;
  } catch {
    return null; // somebody else wrote there: as to begin with
  }
}

export const isTexts = (value: unknown): value is readonly string[] =>
  Array.isArray(value) && value.every((one) => typeof one === 'string');
