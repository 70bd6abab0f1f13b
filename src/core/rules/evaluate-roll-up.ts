import { evaluate, fieldsRead, OUTSIDE, type Outside, type TypedField } from '../expression';
import {
  compareValues,
  Decimal,
  divide,
  type ErrorCode,
  fitValue,
  isError,
  isMoney,
  type Outcome,
  unreachable,
  type Value,
} from '../values';
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

/**
 * The value of a roll-up from the standings of all its members. An error wins over a value; a member outside wins over
 * both, because nothing is known of it. The result is rounded and fitted to the target.
 */
export function bringTogether(rule: CompiledRollUp, standings: Iterable<Standing>): Outcome | Outside {
  let count = 0;
  let sum = new Decimal(0);
  let least: Value = null;
  let most: Value = null;
  let error: ErrorCode | null = null;
  for (const standing of standings) {
    if (standing.kind === 'outside') return OUTSIDE;
    if (standing.kind === 'error') error = standing.error;
    if (standing.kind !== 'counts') continue;
    count += 1;
    const { value } = standing;
    if (value === null) continue;
    if (Decimal.isDecimal(value)) sum = sum.plus(value);
    if (isMoney(value)) sum = sum.plus(value.amount);
    const type = rule.value!.type;
    if (least === null || compareValues(type, value, least) < 0) least = value;
    if (most === null || compareValues(type, value, most) > 0) most = value;
  }
  if (error) return { error };
  if (count === 0) return { value: rule.whenNone };
  return fitValue(
    resultOf(rule, { count: new Decimal(count), sum, least, most }),
    rule.target.type,
    rule.rounding,
  );
}

interface Totals {
  readonly count: Decimal;
  readonly sum: Decimal;
  readonly least: Value;
  readonly most: Value;
}

function resultOf(rule: CompiledRollUp, { count, sum, least, most }: Totals): Value {
  const amount = (value: Decimal): Value =>
    rule.value?.type.kind === 'money' ? { amount: value, currency: rule.value.type.currency } : value;
  switch (rule.aggregate) {
    case 'count':
      return count;
    case 'sum':
      return amount(sum);
    case 'average':
      return amount(divide(sum, count));
    case 'minimum':
      return least;
    case 'maximum':
      return most;
    default:
      return unreachable(rule.aggregate);
  }
}
