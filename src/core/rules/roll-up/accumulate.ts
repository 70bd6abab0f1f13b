import { isAllTheWay } from '@/core/model';
import { Decimal, divide, isMoney, type Outcome, placesOf, type Value, itemAt } from '@/core/values';
import type { Contribution } from './contribution';
import { isSlower } from '@/core/rules/pace';
import { type CompiledRollUp } from './roll-up';
import { isReacting, noneOf, type CompiledRule } from '@/core/rules/rule';
import { writtenFrom } from '@/core/rules/shared/result-pipeline';

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

/** Aggregates whose value follows from an accumulator; the others need their members. */
export const isAccumulated = (rule: CompiledRule): rule is CompiledRollUp =>
  rule.kind === 'rollUp' && accumulates(rule);

const accumulates = (rule: CompiledRollUp): boolean =>
  rule.aggregate === 'count' || rule.aggregate === 'sum' || rule.aggregate === 'average';

/**
 * Whether an edit of children alone can be brought into an accumulator: the rule reads nothing but the own fields of children over
 * one link, and of the record itself. What is read up a route may change for many children at once, and is worked out again; so is
 * what a slower pace brings up to date, since several edits of the same children may lie between.
 */
export const isKeptByDifference = (rule: CompiledRule): rule is CompiledRollUp =>
  isAccumulated(rule) &&
  !isReacting(rule) &&
  !isSlower(rule) &&
  !rule.claims &&
  !rule.half &&
  rule.sources.every(
    ({ route, isOwn, once }) => route.length === 1 && !isAllTheWay(route[0]) && isOwn && !once,
  ) &&
  Object.values(rule.own).every((field) => !field || field.route.length === 0);

const amountOf = (value: Value): Decimal | null =>
  Decimal.isDecimal(value) ? value : isMoney(value) ? value.amount : null;

/** Brings a member in (`sign` 1) or takes it out (-1). A member outside what is loaded has no place here. */
export function withContribution(into: Accumulator, standing: Contribution, sign: 1 | -1): Accumulator {
  if (standing.kind === 'error') return { ...into, errors: into.errors + sign };
  if (standing.kind !== 'counts') return into;
  const amount = amountOf(standing.value);
  return {
    count: into.count + sign,
    sum: amount ? (sign === 1 ? into.sum.plus(amount) : into.sum.minus(amount)) : into.sum,
    errors: into.errors,
  };
}

/** Places of what is brought together. */
const scaleOf = ({ valueType }: CompiledRollUp): number => (valueType ? (placesOf(valueType) ?? 0) : 0);

/** Below this a sum of whole numbers is exact, and so is adding one more to it. */
const SAFE = Number.MAX_SAFE_INTEGER / 2;
const WORD = 7; // decimal digits in each word of a decimal's coefficient

/**
 * Brings many members in, one after the other. Amounts of a field's own places are added as whole numbers of its smallest
 * unit, which costs a hundredth of adding decimals; what doesn't fit is added as a decimal.
 */
export class Accumulating {
  #count = 0;
  #errors = 0;
  #units = 0;
  #sum = NOTHING.sum;
  readonly #scale: number;
  readonly #isCounting: boolean;

  constructor(rule: CompiledRollUp) {
    this.#isCounting = rule.aggregate === 'count' && !rule.recursion;
    this.#scale = scaleOf(rule);
  }

  addError(): void {
    this.#errors += 1;
  }

  add(value: Value): void {
    this.#count += 1;
    if (this.#isCounting) return;
    const amount = amountOf(value);
    if (!amount) return;
    const units = unitsOf(amount, this.#scale);
    if (units === null) this.#sum = this.#sum.plus(amount);
    else if (Math.abs((this.#units += units)) > SAFE) this.spill();
  }

  private spill(): void {
    if (this.#units === 0) return;
    this.#sum = this.#sum.plus(decimalOfUnits(this.#units, this.#scale));
    this.#units = 0;
  }

  result(): Accumulator {
    this.spill();
    return { count: this.#count, sum: this.#sum, errors: this.#errors };
  }
}

/** So many units of 10 to the minus `scale`; a whole number that is safe. */
const decimalOfUnits = (units: number, scale: number): Decimal =>
  scale === 0 ? new Decimal(units) : new Decimal(`${units}e-${scale}`);

/** A decimal as a whole number of units of 10 to the minus `scale`; `null` where that isn't one, or is too large to add. */
export function unitsOf({ d: words, e: exponent, s: sign }: Decimal, scale: number): number | null {
  // Not a number or infinite: a programmer's mistake, which the decimals will tell.
  if (!words || words.length > 4) return null;
  // Each word stands at a power of ten that is a multiple of its length.
  let shift = Math.floor(exponent / WORD) * WORD + scale;
  let units = 0;
  for (const word of words) {
    if (shift >= POWERS.length || -shift >= POWERS.length) return null;
    const part = shift >= 0 ? word * itemAt(POWERS, shift) : word / itemAt(POWERS, -shift);
    if (!Number.isInteger(part)) return null;
    units += part;
    if (units > SAFE) return null;
    shift -= WORD;
  }
  return sign * units;
}

/**
 * A count, sum or average of values that were added as whole numbers of their field's smallest unit; the one that is kept,
 * where it is the same.
 */
export function accumulatorOfUnits(
  rule: CompiledRollUp,
  count: number,
  units: number,
  kept: Accumulator | undefined,
): Accumulator {
  const scale = scaleOf(rule);
  if (kept && kept.count === count && kept.errors === 0 && unitsOf(kept.sum, scale) === units) return kept;
  return { count, sum: units === 0 ? NOTHING.sum : decimalOfUnits(units, scale), errors: 0 };
}

const POWERS = Array.from({ length: 16 }, (_, power) => 10 ** power);

export const sameAccumulator = (a: Accumulator, b: Accumulator): boolean =>
  a === b || (a.count === b.count && a.errors === b.errors && a.sum.equals(b.sum));

/** The value of a count, sum or average, rounded and fitted to the rule's target. */
export function outcomeOf(rule: CompiledRollUp, { count, sum, errors }: Accumulator): Outcome {
  if (errors > 0) return { error: 'input_has_problem' };
  if (count === 0) return noneOf(rule);
  return writtenFrom(rule, exactly(rule, count, sum));
}

const outcomes = new WeakMap<Accumulator, { readonly rule: CompiledRollUp; readonly outcome: Outcome }>();

/** The same for one that is kept, and so asked for again and again: it is worked out once. */
export function keptOutcomeOf(rule: CompiledRollUp, kept: Accumulator): Outcome {
  const known = outcomes.get(kept);
  if (known?.rule === rule) return known.outcome;
  const outcome = outcomeOf(rule, kept);
  outcomes.set(kept, { rule, outcome });
  return outcome;
}

function exactly(rule: CompiledRollUp, count: number, sum: Decimal): Value {
  if (rule.aggregate === 'count') return rule.recursion ? sum : new Decimal(count);
  const result = rule.aggregate === 'average' ? divide(sum, new Decimal(count)) : sum;
  const type = rule.valueType;
  return type?.kind === 'money' ? { amount: result, currency: type.currency } : result;
}
