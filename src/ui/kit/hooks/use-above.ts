import { type RefObject, useEffect, useState } from 'react';

/** The place that scrolls what an element stands in. */
export function scrollerOf(element: HTMLElement | null): HTMLElement | null {
  for (let at = element?.parentElement ?? null; at; at = at.parentElement)
    if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at;
  return null;
}

/**
 * How much stands above the first of many rows within the place that scrolls them, in pixels. It may change in height at any time, with what is narrowed
 * or as it comes in; that matters as soon as one scrolls, and as `shown` is another.
 */
export function useAbove(first: RefObject<HTMLElement | null>, shown?: unknown): number {
  const [above, setAbove] = useState(0);
  useEffect(() => {
    const scroller = scrollerOf(first.current);
    const measure = () => {
      if (!first.current || !scroller) return;
      const [own, its] = [first.current.getBoundingClientRect(), scroller.getBoundingClientRect()];
      setAbove(Math.round(own.top - its.top + scroller.scrollTop));
    };
    measure();
    scroller?.addEventListener('scroll', measure, { passive: true });
    return () => scroller?.removeEventListener('scroll', measure);
  }, [first, shown]);
  return above;
}
