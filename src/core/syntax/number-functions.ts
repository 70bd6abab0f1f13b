import { Decimal, DIVISION_PLACES, firstIn, round, squareRoot } from '@/core/values';
import {
  type FunctionEntry,
  inward,
  NUMBER,
  nearest,
  number,
  onAmount,
  one,
  outward,
  own,
  placed,
  rounding,
  YES_NO,
} from './function-entry';

/** Halves towards zero. */
const halfDown = (amount: Decimal, places: number): Decimal =>
  unsigned(amount.toDecimalPlaces(places, Decimal.ROUND_HALF_DOWN));
/** Halves to the even neighbour. */
const halfEven = (amount: Decimal, places: number): Decimal =>
  unsigned(amount.toDecimalPlaces(places, Decimal.ROUND_HALF_EVEN));
/** There is one zero, without a sign. */
const unsigned = (amount: Decimal): Decimal => (amount.isZero() ? amount.abs() : amount);

const ofWhole = (
  holds: (number: Decimal) => boolean,
  help: string,
  examples: FunctionEntry['examples'],
): FunctionEntry => ({
  parameters: [one('number', 'whole number')],
  ...{ help, examples, gives: () => YES_NO },
  work: ([value]) => holds(number(value)),
});

/** Functions of numbers. */
export const NUMBER_FUNCTIONS = {
  abs: {
    parameters: [one('number', 'number or money')],
    help: 'The number without its sign.',
    examples: [['abs(-2.5)', '2.5']],
    gives: own,
    work: (values) => onAmount(firstIn(values), (amount) => amount.abs()),
  },
  floor: {
    parameters: [one('number', 'number or money')],
    help: 'The largest whole number that isn’t above it.',
    examples: [
      ['floor(2.7)', '2'],
      ['floor(-2.1)', '-3'],
    ],
    gives: (types) => placed(types, 0),
    work: (values) => onAmount(firstIn(values), (amount) => round(amount, { mode: 'down', places: 0 })),
  },
  ceiling: {
    parameters: [one('number', 'number or money')],
    help: 'The smallest whole number that isn’t below it.',
    examples: [
      ['ceiling(2.1)', '3'],
      ['ceiling(-2.7)', '-2'],
    ],
    gives: (types) => placed(types, 0),
    work: (values) => onAmount(firstIn(values), (amount) => round(amount, { mode: 'up', places: 0 })),
  },
  'round half up': rounding(
    'Rounds to so many places, halves away from zero.',
    [
      ['round half up(2.5)', '3'],
      ['round half up(-1.255, 2)', '-1.26'],
    ],
    nearest,
  ),
  'round up': rounding(
    'Rounds to so many places, away from zero.',
    [['round up(-1.121, 2)', '-1.13']],
    outward,
  ),
  'round down': rounding(
    'Rounds to so many places, towards zero.',
    [['round down(-1.129, 2)', '-1.12']],
    inward,
  ),
  modulo: {
    parameters: [one('dividend', 'number'), one('divisor', 'number')],
    help: 'What is left of a division; it has the sign of the divisor. Empty where the divisor is 0.',
    examples: [
      ['modulo(12, 5)', '2'],
      ['modulo(-12, 5)', '3'],
      ['modulo(12, -5)', '-3'],
    ],
    gives: (types) => NUMBER(Math.max(...types.map((type) => (type.kind === 'number' ? type.scale : 0)))),
    work: ([dividend, divisor]) => {
      const [a, b] = [number(dividend), number(divisor)];
      if (b.isZero()) return null;
      const left = a.minus(b.times(a.divToInt(b)));
      const signed = !left.isZero() && left.isNegative() !== b.isNegative() ? left.plus(b) : left;
      return signed.isZero() ? signed.abs() : signed;
    },
  },
  'round half down': rounding(
    'Rounds to so many places, halves towards zero.',
    [
      ['round half down(2.5)', '2'],
      ['round half down(-1.255, 2)', '-1.25'],
    ],
    halfDown,
  ),
  decimal: rounding(
    'Rounds to so many places, halves to the even neighbour.',
    [
      ['decimal(2.5)', '2'],
      ['decimal(1.255, 2)', '1.26'],
    ],
    halfEven,
  ),
  odd: ofWhole((value) => !value.modulo(2).isZero(), 'Whether a whole number is odd.', [['odd(-3)', 'true']]),
  even: ofWhole((value) => value.modulo(2).isZero(), 'Whether a whole number is even.', [
    ['even(3)', 'false'],
  ]),
  sqrt: {
    parameters: [one('number', 'number')],
    help: 'The square root, to 20 places, halves away from zero. Empty below 0.',
    examples: [
      ['sqrt(6.25)', '2.5'],
      ['round half up(sqrt(2), 4)', '1.4142'],
    ],
    gives: () => NUMBER(DIVISION_PLACES),
    work: ([value]) => (number(value).isNegative() ? null : squareRoot(number(value))),
  },
} satisfies Record<string, FunctionEntry>;
