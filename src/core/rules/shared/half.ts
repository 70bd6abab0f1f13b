import { evaluatorOf, OUTSIDE, type Outside, type Typed } from '@/core/expression';
import type { Reader } from '@/core/rules/roll-up/member-gives';
import type { Pilot } from './base';

/**
 * One of two versions of a rule that run beside each other: the one that is tried, for the records of its pilot, and the one that stays live,
 * for all others. Each leaves the records of the other alone, with their values and their problems.
 */
export interface Half {
  /** For which records the one is tried. */
  readonly pilot: Pilot;
  /** Typed on the type whose field the rule writes: whether a record is of the pilot. Where it can't be told it isn't. */
  readonly within: Typed;
  /** Whether it is the version for all others. */
  readonly isOutside: boolean;
}

/** Whether a record is a rule's: always, but where two versions run beside each other. */
export function isOfHalf<T>(half: Half | undefined, at: T, reader: Reader<T>): boolean | Outside {
  if (!half) return true;
  const found = evaluatorOf(half.within)(at, reader.given, reader.beneath);
  return found === OUTSIDE ? OUTSIDE : (found === true) !== half.isOutside;
}
