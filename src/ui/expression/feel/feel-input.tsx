'use client';

import dynamic from 'next/dynamic';
import type { FeelInputProps } from './feel-props';

/** FEEL text in an editor that knows the model; it is loaded when it is first shown. */
export const FeelInput = dynamic<FeelInputProps>(
  () => import('./feel-editor').then((module) => module.FeelEditor),
  {
    ssr: false,
    loading: () => <span className="feel-loading quiet">…</span>,
  },
);
