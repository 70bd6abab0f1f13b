import { setImmediate as others } from 'node:timers/promises';

/** Milliseconds of this process's own work after which what waits has its turn. */
const SLICE = 10;

/**
 * Long work of this process's own, in slices: whatever else waits (saves, probes) has its turn between them. `rest` is called after each small
 * piece.
 */
export class Slices {
  #began = performance.now();

  async rest(): Promise<void> {
    if (performance.now() - this.#began < SLICE) return;
    await others();
    this.#began = performance.now();
  }
}

/** Does the same with each of several, in slices. */
export async function inSlices<T, R>(items: Iterable<T>, work: (item: T, at: number) => R): Promise<R[]> {
  const slices = new Slices();
  const done: R[] = [];
  for (const item of items) {
    done.push(work(item, done.length));
    await slices.rest();
  }
  return done;
}
