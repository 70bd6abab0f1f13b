import { firstIn } from '@/core/values';
import { OUTSIDE } from '@/core/expression';
import type { Members } from './member-gives';
import { leads } from './ordered-members';
import { extremumSide } from './ordered-members';
import { extremumOf } from './ordered-members';
import type { Candidate } from './ordered-members';
import { singleLink } from './single-link';
import { isSlower } from '@/core/rules/pace';
import { type CompiledRollUp } from './roll-up';
import { isReacting, type CompiledRule } from '@/core/rules/rule';

/**
 * Whether it is enough to know which child leads: the rule takes the smallest, largest, first or last over one link, and reads nothing
 * but the children's own fields, and the record's. Then an edit that leaves the leader alone is compared with it, whatever the number
 * of children.
 */
export const isKeptByExtremum = (rule: CompiledRule): boolean =>
  rule.kind === 'rollUp' &&
  extremumSide(rule) !== 0 &&
  !isReacting(rule) &&
  !isSlower(rule) &&
  !rule.recursion &&
  !rule.claims &&
  !rule.half &&
  singleLink(rule) !== null &&
  firstIn(rule.sources).isOwn &&
  Object.values(rule.own).every((field) => !field || field.route.length === 0);

/**
 * Who leads after some children changed; `null` where only all of them can tell. `was` holds the one that led, as it stood then; `now` the
 * children that changed, as they stand.
 *
 * | the leader      | of the changed ones           | leads                             |
 * | --------------- | ----------------------------- | --------------------------------- |
 * | didn't change   | none leads it                 | the leader                        |
 * | didn't change   | one leads it                  | that one                          |
 * | changed or went | none comes up to where it was | unknown: one that stood behind it |
 * | changed or went | one does                      | that one                          |
 */
export function extremumAfter<T>(
  rule: CompiledRollUp,
  was: Members<T>,
  now: Members<T>,
  isLeaderAmong: boolean,
): Candidate | null {
  const led = extremumOf(rule, [was]);
  const best = extremumOf(rule, [now]);
  if (led === null || !isCandidate(led) || best === OUTSIDE) return null;
  if (best !== null && !isCandidate(best)) return null;
  if (best === null) return isLeaderAmong ? null : led;
  const isBehind = leads(rule, led, best);
  if (isLeaderAmong) return isBehind ? null : best;
  return isBehind ? led : best;
}

const isCandidate = (found: ReturnType<typeof extremumOf>): found is Candidate =>
  typeof found === 'object' && found !== null;
