import type { ProblemCode } from '@/core/values';
import { v4 as randomKey } from 'uuid';
import { ApiProblem } from './problem';

/** Answers after which the same is sent again: nothing was saved, or it isn't known, and the key sees to it that it is saved once. */
const AGAIN: ReadonlySet<ProblemCode> = new Set<ProblemCode>([
  'server.away',
  'database.away',
  'save.unknown',
  'busy',
]);
const PAUSES = [400, 1_200, 3_000];

/** Waits before something is sent again; tests hand in another. */
type Wait = (milliseconds: number) => Promise<void>;

const waiting: Wait = (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds));

/**
 * Sends something that may be saved, with a key by which the server knows it again (`Idempotency-Key`): where the answer doesn't come it
 * is sent again by itself, and saved once. `send` puts the key into its headers.
 */
export async function sendOnce<T>(
  send: (headers: Readonly<Record<string, string>>) => Promise<T>,
  wait: Wait = waiting,
): Promise<T> {
  const headers = { 'Idempotency-Key': `"${randomKey()}"` };
  for (const pause of PAUSES) {
    try {
      return await send(headers);
    } catch (error) {
      if (!(error instanceof ApiProblem) || !AGAIN.has(error.code)) throw error;
    }
    await wait(pause);
  }
  return send(headers);
}
