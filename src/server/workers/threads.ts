import { join } from 'node:path';
import type { MessagePort } from 'node:worker_threads';
import type { Model } from '@/core/model';
import { Piscina } from 'piscina';
import type { Tasks } from './tasks';

/** Proofs are run for everybody who looks at what a rule would do; the search for how strong they are takes minutes, and has a thread of its own. */
const POOL_OF = { told: 'proofs', held: 'proofs', strength: 'search' } as const satisfies Record<
  keyof Tasks,
  string
>;

const pools = new Map<string, Piscina>();

function poolOf(task: keyof Tasks): Piscina {
  const name = POOL_OF[task];
  let pool = pools.get(name);
  if (!pool) {
    // One thread each, which ends once nobody has asked for a while.
    pool = new Piscina({
      filename: join(process.cwd(), 'src/server/workers/tasks.ts'),
      execArgv: ['--import', 'tsx'],
      ...{ minThreads: 0, maxThreads: 1, idleTimeout: 300_000 },
    });
    pools.set(name, pool);
  }
  return pool;
}

/** The same with its model as plain data, as a thread takes it. */
export const plain = <T extends { readonly model: Model }>({ model, ...given }: T) => {
  const { types, lists, selections, settledDay, timeZone } = model;
  const definition = { types, timeZone, ...(lists ? { lists } : {}), ...(selections ? { selections } : {}) };
  return { ...given, model: definition, settledDay };
};

/** Works something out in a thread, so that nothing else in this process waits for it. */
export const inThread = async <K extends keyof Tasks>(
  task: K,
  given: Tasks[K]['given'],
  options: { readonly signal?: AbortSignal; readonly transferList?: MessagePort[] } = {},
): Promise<Tasks[K]['answer']> => (await poolOf(task).run({ task, given }, options)) as Tasks[K]['answer'];

/** Ends the threads, as a program does that has no more to ask. */
export async function endThreads(): Promise<void> {
  const ended = [...pools.values()];
  pools.clear();
  await Promise.all(ended.map((pool) => pool.destroy()));
}
