import { sameData, type WireValue } from '@/core/values';

/** Whether two values are the same as they travel; nothing is the same as empty. */
export const sameWire = (a: WireValue | undefined, b: WireValue | undefined): boolean =>
  sameData(a ?? null, b ?? null);
