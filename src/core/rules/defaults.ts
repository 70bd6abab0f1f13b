import type { Model, Pace, RuleDefaults } from '@/core/model';
import { type Limits, placesOf, type Problem, type Rounding, type ValueType } from '@/core/values';
import { checkRounding } from './shared/check-target';
import { checkTimes } from './pace';
import { compileLimits } from './shared/result-pipeline';

/** What is wrong with a workspace's defaults for new rules. */
export const checkRuleDefaults = ({ ruleDefaults: { rounding, limits, pace } }: Model): Problem[] => [
  ...checkRounding(rounding),
  ...compileLimits(limits, null).problems,
  ...(checkTimes(pace) ?? []),
];

/**
 * What a new rule with a target begins with: limits where the target holds amounts, rounding where it holds numbers of at least as many
 * places. Rounding that keeps more places than the target has would be rounded twice.
 */
export function defaultsFor(
  { rounding, limits, pace }: RuleDefaults,
  target: ValueType,
): { readonly rounding: Rounding | null; readonly limits: Limits | null; readonly pace: Pace } {
  const places = placesOf(target);
  const isRounded = target.kind === 'number' || target.kind === 'money';
  const fits =
    rounding !== null && places !== null && (rounding.step !== undefined || rounding.places <= places);
  return { rounding: isRounded && fits ? rounding : null, limits: places === null ? null : limits, pace };
}
