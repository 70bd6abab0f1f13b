import type { Progress, SearchProgress } from '@/core/api';

/** Tells how far long work has come. Throws where nobody waits for it any more: what was done is then taken back. */
export type Tell = (progress: Progress | SearchProgress) => void;

export const untold: Tell = () => undefined;
