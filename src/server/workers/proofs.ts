import { heldAmong, type ToldAmong, toldAmong } from '@/core/verify';
import { Slices } from '@/server/slices';
import { inThread, plain } from './threads';

/** Up to so many proofs are run by this process itself, in slices: to hand them over takes as long. */
const FEW = 20;

async function slicedToEnd<R>(steps: Generator<void, R>): Promise<R> {
  const slices = new Slices();
  for (let step = steps.next(); ; step = steps.next()) {
    if (step.done) return step.value;
    await slices.rest();
  }
}

/** What proofs say of taking rules live; nothing else in this process waits for it. */
export const proofsTold = (given: Parameters<typeof toldAmong>[0]): Promise<ToldAmong> =>
  given.proofs.length <= FEW ? slicedToEnd(toldAmong(given)) : inThread('told', plain(given));

/** Ids of the proofs that hold; nothing else in this process waits for it. */
export const proofsHeld = (given: Parameters<typeof heldAmong>[0]): Promise<readonly string[]> =>
  given.proofs.length <= FEW ? slicedToEnd(heldAmong(given)) : inThread('held', plain(given));
