import { Decimal, divide, squareRoot } from './decimal';

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
