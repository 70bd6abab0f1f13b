import { useEffect, useRef } from 'react';

/** Ctrl+S (or ⌘S) saves what the page is about, where there is something to save; the browser's own saving is of no use here. */
export function useSaveKey(save: (() => void) | null): void {
  const latest = useRef(save);
  useEffect(() => {
    latest.current = save;
  }, [save]);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 's') return;
      event.preventDefault();
      latest.current?.();
    };
    addEventListener('keydown', listen);
    return () => removeEventListener('keydown', listen);
  }, []);
}
