import {
  certain,
  compareValues,
  Decimal,
  isMoney,
  median,
  percentile,
  standardDeviation,
  type Outcome,
  type Value,
  valueKey,
} from '@/core/values';
import type { Aggregate, CompiledRollUp } from './roll-up';
import { noneOf } from '@/core/rules/rule';
import { writtenFrom } from '@/core/rules/shared/result-pipeline';

type Present = Exclude<Value, null>;

/** Brings values together one after the other, in any order. */
interface Fold {
  add(value: Present): void;
  /** What they come to, before it is rounded and fitted; `null` where there was none. */
  result(): Value;
}

/** How a rule whose value needs its members brings them together; each is new. */
export function foldOf(rule: CompiledRollUp): Fold {
  const fold = FOLDS[rule.aggregate];
  if (!fold) throw new RangeError(`A ${rule.aggregate} isn’t worked out by a fold`);
  return fold(rule);
}

/** The value of such a rule, rounded and fitted; what stands when none count where nothing was brought together. */
export const foldedOutcome = (rule: CompiledRollUp, result: Value): Outcome =>
  result === null ? noneOf(rule) : writtenFrom(rule, result);

/** Whether a value leads: `sign` 1 looks for the largest, of a choice the last in its order; -1 for the other end. */
function leadsOver(rule: CompiledRollUp, sign: 1 | -1): (a: Present, b: Present) => boolean {
  const type = certain(rule.valueType);
  // Dates are digits in one order: the language's own comparison is theirs.
  if (type.kind === 'date' || type.kind === 'dateTime')
    return sign === -1 ? (a, b) => a < b : (a, b) => a > b;
  return (a, b) => compareValues(type, a, b) * sign > 0;
}

/** The one at an end of the order. */
class Leading implements Fold {
  #best: Value = null;
  readonly #leads: (a: Present, b: Present) => boolean;

  constructor(rule: CompiledRollUp, sign: 1 | -1) {
    this.#leads = leadsOver(rule, sign);
  }

  add(value: Present): void {
    if (this.#best === null || this.#leads(value, this.#best)) this.#best = value;
  }

  result(): Value {
    return this.#best;
  }
}

/** The largest less the smallest: of one value 0. */
class Range implements Fold {
  readonly #least: Leading;
  readonly #most: Leading;

  constructor(rule: CompiledRollUp) {
    this.#least = new Leading(rule, -1);
    this.#most = new Leading(rule, 1);
  }

  add(value: Present): void {
    this.#least.add(value);
    this.#most.add(value);
  }

  result(): Value {
    const [least, most] = [this.#least.result(), this.#most.result()];
    if (isMoney(least) && isMoney(most)) return { ...most, amount: most.amount.minus(least.amount) };
    return least === null || most === null ? null : (most as Decimal).minus(least as Decimal);
  }
}

/** What amounts come to, all of them put together: the one in the middle, or how far they lie apart. */
class Spread implements Fold {
  readonly #amounts: Decimal[] = [];
  #unit: Present | null = null;

  constructor(private readonly of: (amounts: readonly Decimal[]) => Decimal | null) {}

  add(value: Present): void {
    this.#unit = value;
    this.#amounts.push(isMoney(value) ? value.amount : (value as Decimal));
  }

  result(): Value {
    const amount = this.#amounts.length === 0 ? null : this.of(this.#amounts);
    return amount !== null && isMoney(this.#unit) ? { ...this.#unit, amount } : amount;
  }
}

/** How many different values there are. */
class Distinct implements Fold {
  readonly #keys = new Set<string | boolean>();

  add(value: Present): void {
    this.#keys.add(valueKey(value));
  }

  result(): Value {
    return this.#keys.size === 0 ? null : new Decimal(this.#keys.size);
  }
}

/** Whether all, any or none of the answers are yes. */
class Answers implements Fold {
  #yes = 0;
  #no = 0;

  constructor(private readonly aggregate: 'all' | 'any' | 'none') {}

  add(value: Present): void {
    if (value === true) this.#yes += 1;
    else this.#no += 1;
  }

  result(): Value {
    if (this.#yes + this.#no === 0) return null;
    if (this.aggregate === 'all') return this.#no === 0;
    return this.aggregate === 'any' ? this.#yes > 0 : this.#yes === 0;
  }
}

/** By aggregate; `null` where it is kept by what it is made of, or takes one member's value as it is. */
const FOLDS = {
  count: null,
  countDistinct: () => new Distinct(),
  sum: null,
  average: null,
  median: () => new Spread(median),
  percentile: ({ definition }) => new Spread((amounts) => percentile(amounts, certain(definition.percent))),
  deviation: () => new Spread(standardDeviation),
  minimum: (rule) => new Leading(rule, -1),
  maximum: (rule) => new Leading(rule, 1),
  range: (rule) => new Range(rule),
  all: () => new Answers('all'),
  any: () => new Answers('any'),
  none: () => new Answers('none'),
  best: (rule) => new Leading(rule, -1),
  worst: (rule) => new Leading(rule, 1),
  first: null,
  last: null,
  joined: null,
} satisfies Record<Aggregate, ((rule: CompiledRollUp) => Fold) | null>;
