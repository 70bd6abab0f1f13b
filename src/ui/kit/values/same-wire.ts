import type { WireValue } from '@/core/values';

/** Whether two values are the same as they travel; nothing is the same as empty. */
export const sameWire = (a: WireValue | undefined, b: WireValue | undefined): boolean =>
  JSON.stringify(a ?? null) === JSON.stringify(b ?? null);
