import { join } from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import type { Strength, StrengthProgress } from '@/core/verify';
import { Piscina } from 'piscina';
import { Refusal } from '../refusal';
import { numberSetting } from '../setting';
import type { StrengthTask } from './strength-worker';

let pool: Piscina | null = null;

/** One thread, which ends once nobody has asked for a while: the search would hold up everything else in this process. */
const thread = (): Piscina =>
  (pool ??= new Piscina({
    filename: join(process.cwd(), 'src/server/workers/strength-worker.ts'),
    execArgv: ['--import', 'tsx'],
    ...{ minThreads: 0, maxThreads: 1, idleTimeout: 30_000 },
  }));

/** Ends the thread, as a program does that has no more to ask. */
export async function endThreads(): Promise<void> {
  const ended = pool;
  pool = null;
  await ended?.destroy();
}

/** Seconds that a search may take. */
const mostSeconds = (): number => numberSetting('OIKON_STRENGTH_SECONDS', 120);

/** Searches in the thread. Refuses what takes too long, and ends where `tell` throws, since nobody waits any more. */
export async function searchStrength(
  task: Omit<StrengthTask, 'port'>,
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
    return (await thread().run(
      { ...task, port: port2 },
      { signal: stopping.signal, transferList: [port2] },
    )) as Strength;
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
