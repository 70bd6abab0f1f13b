import { Decimal, divide, fitValue, isMoney, type Outcome, type Value } from '../values';
import type { Standing } from './evaluate-roll-up';
import type { CompiledRollUp } from './roll-up';

/**
 * What a count, sum or average is made of, from which it can be kept by difference: how many count, their sum before
 * any rounding (of plain amounts; money is of the rule's one currency), and how many are in error.
 */
export interface Accumulator {
  readonly count: number;
  readonly sum: Decimal;
  readonly errors: number;
}

export const NOTHING: Accumulator = { count: 0, sum: new Decimal(0), errors: 0 };

/** Aggregates whose value follows from an accumulator; the smallest and largest need their members. */
export const isAccumulated = (rule: CompiledRollUp): boolean =>
  rule.aggregate === 'count' || rule.aggregate === 'sum' || rule.aggregate === 'average';

/**
 * Whether an edit of children alone can be brought into an accumulator: the rule reads nothing but the children's own
 * fields. What is read up a route may change for many children at once, and is worked out again.
 */
export const isKeptByDifference = (rule: CompiledRollUp): boolean =>
  isAccumulated(rule) && rule.reads.every((read) => read.route.length === 0);

const amountOf = (value: Value): Decimal | null =>
  Decimal.isDecimal(value) ? value : isMoney(value) ? value.amount : null;

/** Brings a member in (`sign` 1) or takes it out (-1). A member outside what is loaded has no place here. */
export function withStanding(into: Accumulator, standing: Standing, sign: 1 | -1): Accumulator {
  if (standing.kind === 'error') return { ...into, errors: into.errors + sign };
  if (standing.kind !== 'counts') return into;
  const amount = amountOf(standing.value);
  return {
    count: into.count + sign,
    sum: amount ? (sign === 1 ? into.sum.plus(amount) : into.sum.minus(amount)) : into.sum,
    errors: into.errors,
  };
}

export const sameAccumulator = (a: Accumulator, b: Accumulator): boolean =>
  a.count === b.count && a.errors === b.errors && a.sum.equals(b.sum);

/** The value of a count, sum or average, rounded and fitted to the rule's target. */
export function outcomeOf(rule: CompiledRollUp, { count, sum, errors }: Accumulator): Outcome {
  if (errors > 0) return { error: 'input_has_problem' };
  if (count === 0) return { value: rule.whenNone };
  return fitValue(exactly(rule, count, sum), rule.target.type, rule.rounding);
}

function exactly(rule: CompiledRollUp, count: number, sum: Decimal): Value {
  if (rule.aggregate === 'count') return new Decimal(count);
  const result = rule.aggregate === 'average' ? divide(sum, new Decimal(count)) : sum;
  const type = rule.value?.type;
  return type?.kind === 'money' ? { amount: result, currency: type.currency } : result;
}
