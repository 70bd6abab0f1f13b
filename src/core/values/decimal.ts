import { Decimal as Library } from 'decimal.js';

/**
 * Exact decimals. The precision is far above what any expression may need (field values have at most 30 whole
 * digits and 20 places; a sum of a thousand million of them stays below 70 digits), so plus, minus and times never round.
 */
export const Decimal = Library.clone({ precision: 400, toExpNeg: -9e15, toExpPos: 9e15 });
export type Decimal = Library;

/** Most digits before the decimal point that a stored number or amount may have. */
export const WHOLE_DIGITS = 30;
const LIMIT = new Decimal(10).pow(WHOLE_DIGITS);

export const isInRange = (value: Decimal): boolean => value.abs().lessThan(LIMIT);

/** Places of a division or an average before it is rounded to its target. */
export const DIVISION_PLACES = 20;
const SHIFT = new Decimal(10).pow(DIVISION_PLACES);

/**
 * `dividend / divisor` to 20 places, halves away from zero, by the whole-number formula that SQL uses too:
 * `sign · div(2·|a|·10²⁰ + |b|, 2·|b|) / 10²⁰`. Refuses (throws) a divisor of zero: callers report that as a problem.
 */
export function divide(dividend: Decimal, divisor: Decimal): Decimal {
  if (divisor.isZero()) throw new RangeError('divide() needs a divisor other than zero');
  const sign = dividend.isNegative() === divisor.isNegative() ? 1 : -1;
  const a = dividend.abs();
  const b = divisor.abs();
  return a.times(2).times(SHIFT).plus(b).divToInt(b.times(2)).times(sign).div(SHIFT);
}

/** The square root to 20 places, halves away from zero. Refuses (throws) what lies below zero. */
export function squareRoot(value: Decimal): Decimal {
  if (value.isNegative() && !value.isZero()) throw new RangeError('squareRoot() needs a value of 0 or more');
  return value.abs().sqrt().toDecimalPlaces(DIVISION_PLACES, Decimal.ROUND_HALF_UP);
}

/**
 * The value in the middle of some, put in order; of an even number of them halfway between the two in the middle, to 20 places, halves away from zero.
 * Refuses (throws) none.
 */
export function median(values: readonly Decimal[]): Decimal {
  if (values.length === 0) throw new RangeError('median() needs a value');
  const sorted = [...values].sort((a, b) => a.comparedTo(b));
  const half = (sorted.length - 1) / 2;
  const [low, high] = [sorted[Math.floor(half)], sorted[Math.ceil(half)]] as [Decimal, Decimal];
  return divide(low.plus(high), new Decimal(2));
}

/**
 * The value under which so many in a hundred of some lie, put in order: between two of them as far along as the place between theirs, as
 * `PERCENTILE_CONT` of SQL (ISO/IEC 9075-2, 10.9) has it, and exact. Refuses (throws) none, and anything but a whole number of 1 to 99.
 */
export function percentile(values: readonly Decimal[], percent: number): Decimal {
  if (values.length === 0 || !Number.isInteger(percent) || percent < 1 || percent > 99)
    throw new RangeError('percentile() needs a value, and a whole number of 1 to 99');
  const sorted = [...values].sort((a, b) => a.comparedTo(b));
  const place = percent * (sorted.length - 1);
  const [low, along] = [Math.floor(place / 100), place % 100];
  const [under, over] = [sorted[low], sorted[low + (along > 0 ? 1 : 0)]] as [Decimal, Decimal];
  return under.plus(over.minus(under).times(along).times('0.01'));
}

/**
 * The standard deviation of a sample, as `stddev` of DMN 1.5 (10.3.4.4) has it: the root of the sum of squared distances from the mean, divided by one less than
 * there are. From exact sums, `(n·Σx² − (Σx)²) / (n·(n − 1))` to 20 places and then its root to 20, as SQL works it out. `null` of fewer than two.
 */
export function standardDeviation(values: readonly Decimal[]): Decimal | null {
  const number = new Decimal(values.length);
  if (values.length < 2) return null;
  const [sum, squares] = values.reduce(
    ([total, square], value) => [total.plus(value), square.plus(value.times(value))],
    [new Decimal(0), new Decimal(0)],
  );
  const distances = number.times(squares).minus(sum.times(sum));
  return squareRoot(divide(distances, number.times(number.minus(1))));
}

/** nearest: halves away from zero; up: towards plus infinity; down: towards minus infinity. */
export type RoundingMode = 'nearest' | 'up' | 'down';

export interface Rounding {
  readonly mode: RoundingMode;
  /** Decimal places kept, 0 to 20. Of no account with a step. */
  readonly places: number;
  /** Rounds to a multiple of it instead: a number above 0 in digits, such as `0.05` or `50`. */
  readonly step?: string;
}

/** Bounds of a result: what lies beyond becomes the bound. Digits, of money in the result's own currency. */
export interface Limits {
  readonly least?: string | null;
  readonly most?: string | null;
}

const MODES: Record<RoundingMode, Library.Rounding> = {
  nearest: Library.ROUND_HALF_UP,
  up: Library.ROUND_CEIL,
  down: Library.ROUND_FLOOR,
};

/** A multiple of a step, by whole numbers only, as SQL has it: `sign · div(2·|a| + s, 2·s) · s` for the nearest. */
function toStep(value: Decimal, mode: RoundingMode, step: Decimal): Decimal {
  if (mode === 'nearest') {
    const steps = value.abs().times(2).plus(step).divToInt(step.times(2));
    return steps.times(value.isNegative() ? -1 : 1).times(step);
  }
  const steps = value.divToInt(step);
  const isBetween = !steps.times(step).equals(value);
  if (mode === 'up') return (isBetween && !value.isNegative() ? steps.plus(1) : steps).times(step);
  return (isBetween && value.isNegative() ? steps.minus(1) : steps).times(step);
}

export const round = (value: Decimal, { mode, places, step }: Rounding): Decimal => {
  const rounded =
    step === undefined ? value.toDecimalPlaces(places, MODES[mode]) : toStep(value, mode, new Decimal(step));
  return rounded.isZero() ? rounded.abs() : rounded; // no negative zero, which SQL doesn't know
};
