'use client';

import { createContext, type ReactNode, useContext, useMemo, useSyncExternalStore } from 'react';
import { usePeople } from '../api/queries';

const KEY = 'oikon.person';
const listeners = new Set<() => void>();
const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => void listeners.delete(listener);
};

interface Acting {
  /** The id of the person who acts, once the people are known. */
  readonly id: string | null;
  readonly choose: (id: string) => void;
}

const Context = createContext<Acting>({ id: null, choose: () => undefined });

/** Who acts, chosen among the workspace's people and remembered by this browser. */
export function PersonProvider({ children }: { children: ReactNode }) {
  const { data } = usePeople();
  const remembered = useSyncExternalStore(
    subscribe,
    () => localStorage.getItem(KEY),
    () => null,
  );
  const acting = useMemo<Acting>(() => {
    const people = data?.people ?? [];
    const known = people.find((person) => person.id === remembered) ?? people[0];
    return {
      id: known?.id ?? null,
      choose: (id) => {
        localStorage.setItem(KEY, id);
        listeners.forEach((listener) => listener());
      },
    };
  }, [data, remembered]);
  return <Context value={acting}>{children}</Context>;
}

export const usePerson = (): Acting => useContext(Context);
