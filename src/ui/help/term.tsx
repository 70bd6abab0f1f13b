'use client';

import { Popover } from 'antd';
import type { ReactNode } from 'react';
import { type TermKey, termMeans, termName } from './terms';
import style from './term.module.css';

/** A word that is explained where it stands: under the pointer, on focus, and to those who hear it. */
export function Term({ of, children }: { readonly of: TermKey; readonly children?: ReactNode }) {
  const means = termMeans(of);
  return (
    <Popover trigger={['hover', 'focus']} content={<span className={style.means}>{means}</span>}>
      <span tabIndex={0} className={style.term} aria-description={means}>
        {children ?? termName(of)}
      </span>
    </Popover>
  );
}
