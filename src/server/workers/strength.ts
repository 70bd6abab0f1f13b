import { MessageChannel } from 'node:worker_threads';
import type { Strength, StrengthInput, StrengthProgress } from '@/core/verify';
import { Refusal } from '@/server/refusal';
import { numberSetting } from '@/server/setting';
import { inThread, plain } from './threads';

/** Seconds that a search may take. */
const mostSeconds = (): number => numberSetting('OIKON_STRENGTH_SECONDS', 120);

/** Searches in the thread. Refuses what takes too long, and ends where `tell` throws, since nobody waits any more. */
export async function searchStrength(
  given: Omit<StrengthInput, 'isFigure'>,
  tell: (progress: StrengthProgress) => void,
  seconds = mostSeconds(),
): Promise<Strength> {
  const { port1, port2 } = new MessageChannel();
  const stopping = new AbortController();
  let why: unknown = null;
  const stop = (error: unknown) => {
    why ??= error;
    stopping.abort();
  };
  port1.on('message', (progress: StrengthProgress) => {
    try {
      tell(progress);
    } catch (error) {
      stop(error);
    }
  });
  const limit = setTimeout(() => stop(tookTooLong(seconds)), seconds * 1_000);
  try {
    return await inThread(
      'strength',
      { ...plain(given), port: port2 },
      { signal: stopping.signal, transferList: [port2] },
    );
  } catch (error) {
    throw why ?? error;
  } finally {
    clearTimeout(limit);
    port1.close();
  }
}

const tookTooLong = (seconds: number): Refusal =>
  new Refusal(
    422,
    'strength.time',
    `The search took more than ${seconds} seconds and was stopped. Export a bundle and let bin/prove --strength search, which has no bound, or raise OIKON_STRENGTH_SECONDS.`,
  );
