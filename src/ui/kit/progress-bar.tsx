'use client';

import { writeCount } from '@/core/values';
import type { Progress as At } from '@/core/api';
import { Progress } from 'antd';

/** How much of the whole each step is, about: reading, checking, writing, and the rules. */
const STEPS = { sent: 40, reading: 40, checking: 55, writing: 70, rules: 80 };

const percentOf = (share: number, at: At | null): number => {
  if (!at) return STEPS.sent * share;
  if (at.stage !== 'rules') return STEPS[at.stage];
  return STEPS.rules + ((100 - STEPS.rules) * at.done) / Math.max(at.of, 1);
};

/** Where long work stands, in words. */
export function progressWords(at: At | null, isSaving: boolean): string {
  switch (at?.stage) {
    case undefined:
      return 'Reading …';
    case 'reading':
      return `Read ${writeCount(at.rows)} rows …`;
    case 'checking':
      return 'Finding records and checking values …';
    case 'writing':
      return isSaving ? 'Writing …' : 'Working out what it would write …';
    case 'rules':
      return `Working rules out: ${writeCount(at.done)} of ${writeCount(at.of)} groups done …`;
  }
}

/** `share`: how much of what is sent has gone out, from 0 to 1. */
export function ProgressBar({ share, at, isSaving }: { share: number; at: At | null; isSaving: boolean }) {
  return (
    <>
      <Progress percent={Math.round(percentOf(share, at))} size="small" />
      {progressWords(at, isSaving)}
    </>
  );
}
