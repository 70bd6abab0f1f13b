'use client';

import { Popover } from 'antd';
import { type ReactNode, useCallback, useState } from 'react';
import { type TermKey, termMeans, termName } from './terms';
import style from './term.module.css';

/** A word that is explained where it stands: under the pointer, on focus, and to those who hear it. */
export function Term({ of, children }: { readonly of: TermKey; readonly children?: ReactNode }) {
  const means = termMeans(of);
  const [isOpen, setOpen] = useState(false);
  // Whoever came to it before the page listened is told as well.
  const comeTo = useCallback((word: HTMLElement | null) => {
    if (word !== null && word === document.activeElement) setOpen(true);
  }, []);
  return (
    <Popover
      open={isOpen}
      onOpenChange={setOpen}
      trigger={['hover', 'focus']}
      content={<span className={style.means}>{means}</span>}
    >
      <span ref={comeTo} tabIndex={0} className={style.term} aria-description={means}>
        {children ?? termName(of)}
      </span>
    </Popover>
  );
}
