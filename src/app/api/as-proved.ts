import { isStill, NoLongerSo } from '@/server/sign-in/proof';
import type { Asking } from './asking';

/**
 * Carries out what somebody asks who is known of a moment ago: whatever it saves proves that first (`store/session/beginning.ts`), and where nothing
 * was saved it is proved before the answer is given. Where it isn't so any more nothing was saved; it is done again by who they are `now`.
 */
export async function asProved<T>(
  asking: Asking,
  now: () => Promise<Asking>,
  work: (asking: Asking) => Promise<T>,
): Promise<T> {
  const { proof } = asking;
  if (!proof) return work(asking);
  try {
    const done = await work(asking);
    if (proof.holds || (await isStill(proof))) return done;
  } catch (error) {
    if (!(error instanceof NoLongerSo)) throw error;
  }
  return work(await now());
}
