import type { Refusal } from '@/server/refusal';

/** What some work is refused with; work that isn't refused fails the test. */
export const refusal = (work: Promise<unknown>): Promise<Refusal> =>
  work.then(
    () => Promise.reject(new Error('It wasn’t refused')),
    (error: unknown) => error as Refusal,
  );
