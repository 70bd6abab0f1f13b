import { sameData } from '@/core/values';

/** Whether something is a test of a condition whose right side isn't chosen yet. */
function isOpenTest(part: unknown): boolean {
  if (typeof part !== 'object' || part === null) return false;
  const { kind, right, part: matched, options } = part as Record<string, unknown>;
  if (kind === 'compare') return isNothing(right);
  if (kind === 'match') return isNothing(matched);
  return kind === 'among' && Array.isArray(options) && options.length === 0;
}

const isNothing = (side: unknown): boolean =>
  typeof side === 'object' &&
  side !== null &&
  (side as Record<string, unknown>).kind === 'constant' &&
  (side as Record<string, unknown>).value === null;

/**
 * What is written, a condition or all that one stands in, without the tests that are still open: it can be looked at while somebody goes on writing. A
 * group of nothing but open tests isn't there either.
 */
export function withoutOpenTests<T>(written: T): T {
  return strip(written) as T;
}

function strip(part: unknown): unknown {
  if (isOpenTest(part)) return null;
  if (Array.isArray(part)) return part.map(strip);
  if (typeof part !== 'object' || part === null) return part;
  const entries = part as Record<string, unknown>;
  if (entries.kind === 'group' && Array.isArray(entries.of)) {
    const of = entries.of.map(strip).filter((one) => one !== null);
    return of.length === 0 ? null : { ...entries, of };
  }
  return Object.fromEntries(Object.entries(entries).map(([key, value]) => [key, strip(value)]));
}

/** Whether a test in it is still open. */
export const hasOpenTests = (written: unknown): boolean => !sameData(written, strip(written));
