import { evaluate, fieldsRead, OUTSIDE, type Outside, type TypedField } from '../expression';
import { compareValues, type ErrorCode, fitValue, isError, type Outcome, type Value } from '../values';
import { type Accumulator, isAccumulated, NOTHING, outcomeOf, withStanding } from './accumulate';
import type { CompiledRollUp } from './roll-up';

/** What a read of a field may give: a value, the error that stands there instead of one, or nothing known. */
export type FieldOutcome = Outcome | Outside;

/** A record as a roll-up sees it: its fields, and those up its routes. */
export type Member = (field: TypedField) => FieldOutcome;

/**
 * What a member gives to a roll-up:
 *
 * | condition             | value    | standing     |
 * | --------------------- | -------- | ------------ |
 * | reads an error        | any      | error        |
 * | reads outside, undecided | any   | outside      |
 * | false                 | any      | left out     |
 * | true or none          | error    | error        |
 * | true or none          | outside  | outside      |
 * | true or none          | empty    | empty        |
 * | true or none          | value    | counts       |
 */
export type Standing =
  | { readonly kind: 'counts'; readonly value: Value }
  | { readonly kind: 'leftOut' | 'empty' | 'outside' }
  | { readonly kind: 'error'; readonly error: ErrorCode };

export function standingOf(rule: CompiledRollUp, member: Member): Standing {
  let error: ErrorCode | null = null;
  const read = (field: TypedField): Value | Outside => {
    const outcome = member(field);
    return outcome === OUTSIDE ? OUTSIDE : isError(outcome) ? null : outcome.value;
  };
  for (const field of rule.condition ? fieldsRead(rule.condition) : []) {
    const outcome = member(field);
    if (outcome !== OUTSIDE && isError(outcome)) error = 'input_has_problem';
  }
  if (error) return { kind: 'error', error };
  const verdict = rule.condition ? evaluate(rule.condition, read) : true;
  if (verdict === OUTSIDE) return { kind: 'outside' };
  if (verdict !== true) return { kind: 'leftOut' };
  if (!rule.value) return { kind: 'counts', value: null };
  const value = member(rule.value);
  if (value === OUTSIDE) return { kind: 'outside' };
  if (isError(value)) return { kind: 'error', error: 'input_has_problem' };
  return value.value === null ? { kind: 'empty' } : { kind: 'counts', value: value.value };
}

/** What a roll-up gives, and for counts, sums and averages what it is made of. */
export interface BroughtTogether {
  readonly outcome: Outcome;
  readonly accumulator: Accumulator | null;
}

/**
 * The value of a roll-up from the standings of all its members. An error wins over a value; a member outside wins over
 * both, because nothing is known of it. The result is rounded and fitted to the target.
 */
export function bringTogether(
  rule: CompiledRollUp,
  standings: Iterable<Standing>,
): BroughtTogether | Outside {
  if (!isAccumulated(rule)) return extremeOf(rule, standings);
  let accumulator = NOTHING;
  for (const standing of standings) {
    if (standing.kind === 'outside') return OUTSIDE;
    accumulator = withStanding(accumulator, standing, 1);
  }
  return { outcome: outcomeOf(rule, accumulator), accumulator };
}

/** The minimum or the maximum. */
function extremeOf(rule: CompiledRollUp, standings: Iterable<Standing>): BroughtTogether | Outside {
  const sign = rule.aggregate === 'minimum' ? -1 : 1;
  let best: Value = null;
  let error: ErrorCode | null = null;
  for (const standing of standings) {
    if (standing.kind === 'outside') return OUTSIDE;
    if (standing.kind === 'error') error = standing.error;
    if (standing.kind !== 'counts' || standing.value === null) continue;
    if (best === null || compareValues(rule.value!.type, standing.value, best) * sign > 0)
      best = standing.value;
  }
  const outcome: Outcome = error
    ? { error }
    : best === null
      ? { value: rule.whenNone }
      : fitValue(best, rule.target.type, rule.rounding);
  return { outcome, accumulator: null };
}
