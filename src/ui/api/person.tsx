'use client';

import { createContext, type ReactNode, useContext, useMemo, useSyncExternalStore } from 'react';
import type { MemberView, PersonView } from '@/core/api';
import { PERSON_COOKIE } from './person-cookie';
import { useEverybody, usePeople } from './queries';
import { useSession } from './session';

const KEY = 'oikon.person';
const listeners = new Set<() => void>();
const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => void listeners.delete(listener);
};

const NOBODY: readonly PersonView[] = [];

interface Acting {
  /** Who may be chosen. */
  readonly people: readonly PersonView[];
  /** The id of the person who acts, once the people are known. */
  readonly id: string | null;
  readonly choose: (id: string) => void;
}

const Context = createContext<Acting>({ people: NOBODY, id: null, choose: () => undefined });

/** Who acts in the workspace that the page is about. */
export function PersonProvider({ children }: { children: ReactNode }) {
  return <PersonAmong people={usePeople().data?.people}>{children}</PersonAmong>;
}

/** Who acts where no workspace is open: one of the installation's people. */
export function AnyPersonProvider({ children }: { children: ReactNode }) {
  return <PersonAmong people={useEverybody().data?.people}>{children}</PersonAmong>;
}

/** Who acts: who is signed in; in the demo chosen among people and remembered by this browser. */
function PersonAmong({
  people = NOBODY,
  children,
}: {
  people: readonly PersonView[] | undefined;
  children: ReactNode;
}) {
  const remembered = useSyncExternalStore(
    subscribe,
    () => localStorage.getItem(KEY),
    () => null,
  );
  const session = useSession();
  const partial = useMemo(() => partialOf(people), [people]);
  const acting = useMemo<Acting>(() => {
    if (!session.isDemo) return { people, id: session.person?.id ?? null, choose: () => undefined };
    const known = people.find((person) => person.id === remembered) ?? people[0];
    return {
      ...{ people, id: known?.id ?? null },
      choose: (id) => {
        localStorage.setItem(KEY, id);
        document.cookie = `${PERSON_COOKIE}=${id}; path=/; samesite=lax`;
        // What one of them sees isn't shown to the other.
        if ([id, known?.id].some((one) => partial.has(one ?? ''))) return void location.reload();
        listeners.forEach((listener) => listener());
      },
    };
  }, [people, remembered, session, partial]);
  return <Context value={acting}>{children}</Context>;
}

/** Ids of those who see only a part of the workspace. */
const partialOf = (people: readonly (PersonView | MemberView)[]): ReadonlySet<string> =>
  new Set(people.flatMap((one) => ('seesPart' in one && one.seesPart ? [one.id] : [])));

export const usePerson = (): Acting => useContext(Context);
