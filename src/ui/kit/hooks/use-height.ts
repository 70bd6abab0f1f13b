'use client';

import { type RefCallback, useCallback, useRef, useState } from 'react';

/** The height of an element in pixels, as it is laid out and whenever it changes. */
export function useHeight(): [RefCallback<HTMLElement>, number] {
  const [height, setHeight] = useState(0);
  const observer = useRef<ResizeObserver | null>(null);
  const ref = useCallback((element: HTMLElement | null) => {
    observer.current?.disconnect();
    if (!element) return;
    setHeight(element.clientHeight);
    observer.current = new ResizeObserver(() => setHeight(element.clientHeight));
    observer.current.observe(element);
  }, []);
  return [ref, height];
}
