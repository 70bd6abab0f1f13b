import { useEffect, useEffectEvent } from 'react';

/** Something that a person did which a first look waits for. */
export type Happening = 'edited' | 'opened' | 'proofKept' | 'takenLive';

const listeners = new Set<(what: Happening) => void>();

/** Tells whoever listens that a person did something. */
export const happened = (what: Happening): void => {
  for (const listener of listeners) listener(what);
};

/** Listens for what people do. */
export function useHappened(listen: (what: Happening) => void): void {
  const hear = useEffectEvent(listen);
  useEffect(() => {
    const listener = (what: Happening) => hear(what);
    listeners.add(listener);
    return () => void listeners.delete(listener);
  }, []);
}
