import { type Beneath, evaluatorOf, OUTSIDE, type Outside, type ReadOf } from '@/core/expression';
import type { Half } from './base';

/** How the condition reads records. */
interface Reading<T> {
  readonly given: ReadOf<T>;
  readonly beneath: Beneath<T>;
}

/** Whether a record is a rule's: always, but where two versions run beside each other. */
export function isOfHalf<T>(half: Half | undefined, at: T, reader: Reading<T>): boolean | Outside {
  if (!half) return true;
  const found = evaluatorOf(half.within)(at, reader.given, reader.beneath);
  return found === OUTSIDE ? OUTSIDE : (found === true) !== half.isOutside;
}

/** Of two versions of a rule that run beside each other the one whose record it is; the only one where there is one. */
export function versionOn<T, R extends { readonly half?: Half }>(
  versions: readonly R[],
  at: T,
  reader: Reading<T>,
): R | undefined {
  return versions.find(({ half }) => isOfHalf(half, at, reader) === true) ?? versions[0];
}
