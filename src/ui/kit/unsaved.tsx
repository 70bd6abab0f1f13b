'use client';

import { App } from 'antd';
import { useEffect } from 'react';

/** What is written on the page and not saved, each in words that a question can name: “Changes of “Robes””. */
const held = new Map<symbol, string>();

type Ask = (what: string, leave: () => void) => void;
let ask: Ask = (_what, leave) => leave();

/** Holds the page while something on it isn't saved, until it is let go: whoever leaves is asked first. */
export function hold(what: string): () => void {
  const key = Symbol(what);
  held.set(key, what);
  return () => void held.delete(key);
}

/** The same as long as it stands there; `null`: there is nothing. */
export function useUnsaved(what: string | null): void {
  useEffect(() => (what === null ? undefined : hold(what)), [what]);
}

export const isHeld = (): boolean => held.size > 0;

/** Leaves the page, once whoever does knows what isn't saved. */
export function leave(go: () => void): void {
  const [what] = held.values();
  if (what === undefined) return go();
  ask(what, () => {
    held.clear();
    go();
  });
}

/** Where in the browser's history this page is; nothing where the browser doesn't tell. */
const placeInHistory = (): number | null =>
  (window as { navigation?: { currentEntry?: { index: number } | null } }).navigation?.currentEntry?.index ??
  null;

/**
 * Looks out for leaving by going back, by a reload or by closing. Whoever listens first is told first, whatever “capture” says, since these events come
 * to the window itself: it is called before the framework begins (`instrumentation-client.ts`).
 */
export function guardLeaving(): void {
  window.addEventListener('beforeunload', (event) => {
    if (isHeld()) event.preventDefault();
  });
  let at = placeInHistory();
  let isReturning = false;
  // It has happened by the time it is told: it is taken back before the question.
  window.addEventListener('popstate', (event) => {
    if (isReturning) {
      isReturning = false;
      event.stopImmediatePropagation();
      return;
    }
    const to = placeInHistory();
    const steps = at === null || to === null || to === at ? -1 : to - at;
    if (!isHeld()) {
      at = to;
      return;
    }
    event.stopImmediatePropagation();
    isReturning = true;
    history.go(-steps);
    leave(() => history.go(steps));
  });
  const navigation = (window as { navigation?: EventTarget }).navigation;
  navigation?.addEventListener('currententrychange', (event) => {
    const { navigationType } = event as Event & { navigationType?: string | null };
    if (navigationType === 'push') at = placeInHistory();
  });
}

/** Asks, in words, where something that isn't saved would be left. Stands once around all pages. */
export function UnsavedQuestion() {
  const { modal } = App.useApp();
  useEffect(() => {
    ask = (what, go) =>
      void modal.confirm({
        title: 'Leave without saving?',
        content: `${what} aren’t saved.`,
        okText: 'Leave',
        cancelText: 'Stay',
        onOk: go,
      });
  }, [modal]);
  return null;
}
