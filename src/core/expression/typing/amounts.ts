import {
  bad,
  good,
  KIND_NAMES,
  measured,
  type Result,
  unitsDivided,
  unitsMultiplied,
  type ValueType,
} from '@/core/values';
import type { ArithmeticOperator, Typed, Working } from '@/core/syntax/expression';

type NumberType = Extract<ValueType, { kind: 'number' }>;

/** A plain number: a rating is one without places. */
export const asNumber = (type: ValueType): NumberType | null =>
  type.kind === 'number' ? type : type.kind === 'rating' ? { kind: 'number', scale: 0 } : null;

const isText = ({ kind }: ValueType): boolean => kind === 'text' || kind === 'longText';

export const kindWords = (type: ValueType): string =>
  type.kind === 'money'
    ? `money in ${type.currency}`
    : type.kind === 'number' && type.unit
      ? `a number in ${type.unit}`
      : KIND_NAMES[type.kind];

export interface Combined {
  readonly type: ValueType;
  readonly working: Working;
}

/** Places of a quotient. */
const QUOTIENT_PLACES = 20;

/**
 * What an arithmetic operator makes of two kinds. Amounts of one unit and of one currency add; a number written without a unit goes with
 * any. A date moves by days or months; the difference of two dates is a number of days. Texts are joined by `+`.
 */
export function combine(operator: ArithmeticOperator, a: ValueType, b: ValueType): Result<Combined> {
  const [one, other] = [asNumber(a), asNumber(b)];
  if (one && other) return numbers(operator, one, other);
  if (a.kind === 'money' || b.kind === 'money') return withMoney(operator, a, b);
  if (operator === '+' && isText(a) && isText(b)) return good({ type: { kind: 'text' }, working: 'texts' });
  if (a.kind === 'date' && b.kind === 'date' && operator === '-')
    return good({ type: { kind: 'number', scale: 0, unit: 'days' }, working: 'daysBetween' });
  if (a.kind === 'date' && other && (operator === '+' || operator === '-')) return moved(other);
  return refuse(operator, a, b);
}

const WORDS: Record<ArithmeticOperator, string> = {
  '+': 'added to',
  '-': 'taken from',
  '*': 'multiplied by',
  '/': 'divided by',
};

const refuse = (operator: ArithmeticOperator, a: ValueType, b: ValueType): Result<never> => {
  const [first, second] = operator === '-' || operator === '+' ? [b, a] : [a, b];
  return bad(
    'expression.unlike',
    `${capital(kindWords(first))} can’t be ${WORDS[operator]} ${kindWords(second)}.`,
  );
};

const capital = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);

function numbers(operator: ArithmeticOperator, a: NumberType, b: NumberType): Result<Combined> {
  const isBare = a.isBare && b.isBare ? ({ isBare: true } as const) : {};
  const amounts = (scale: number, unit: string | undefined): Result<Combined> =>
    good({
      type: measured({ kind: 'number', scale, ...(unit ? { unit } : {}), ...isBare }),
      working: 'amounts',
    });
  if (operator === '*') return amounts(a.scale + b.scale, unitsMultiplied(a.unit, b.unit));
  if (operator === '/') return amounts(QUOTIENT_PLACES, unitsDivided(a.unit, b.unit));
  if (!a.isBare && !b.isBare && a.unit !== b.unit) return refuse(operator, a, b);
  return amounts(Math.max(a.scale, b.scale), a.unit ?? b.unit);
}

function withMoney(operator: ArithmeticOperator, a: ValueType, b: ValueType): Result<Combined> {
  const money = (type: ValueType): Result<Combined> => good({ type, working: 'amounts' });
  if (a.kind === 'money' && b.kind === 'money') {
    if (a.currency !== b.currency || operator === '*') return refuse(operator, a, b);
    return operator === '/' ? money({ kind: 'number', scale: QUOTIENT_PLACES }) : money(a);
  }
  if (a.kind === 'money' && asNumber(b) && (operator === '*' || operator === '/')) return money(a);
  if (b.kind === 'money' && asNumber(a) && operator === '*') return money(b);
  return refuse(operator, a, b);
}

/** A date moves by whole days, or by months where the number says so. */
function moved(by: NumberType): Result<Combined> {
  if (by.scale > 0 || (by.unit !== undefined && by.unit !== 'days' && by.unit !== 'months'))
    return bad(
      'expression.unlike',
      `A date moves by a whole number of days, or by a duration such as duration("P1M"); this is ${kindWords(by)}${by.scale > 0 ? ' with places' : ''}.`,
    );
  return good({ type: { kind: 'date' }, working: by.unit === 'months' ? 'months' : 'days' });
}

/** How many digits a value may have before and after its point, as far as its kind and what it is made of tell. */
interface Digits {
  readonly whole: number;
  readonly places: number;
}

const FIELD_DIGITS = 30;
const COUNTED_DIGITS = 12;
/** Most digits of an expression on either side of the point; more are refused while it is written. */
export const MOST_PLACES = 60;
export const MOST_WHOLE = 300;

export function digitsOf(node: Typed): Digits {
  switch (node.kind) {
    case 'constant': {
      const amount =
        typeof node.value === 'object' && node.value && 'amount' in node.value
          ? node.value.amount
          : node.value;
      const text = amount && typeof amount === 'object' && 'toFixed' in amount ? amount.toFixed() : '';
      const [whole = '', places = ''] = text.replace('-', '').split('.');
      return { whole: whole.length, places: places.length };
    }
    case 'negate':
      return digitsOf(node.operand);
    case 'if':
      return most([digitsOf(node.then), digitsOf(node.otherwise)]);
    case 'arithmetic':
      return ofArithmetic(node);
    case 'call': {
      const given = most(node.arguments.map(digitsOf));
      return node.type.kind === 'number' ? { whole: given.whole + 1, places: node.type.scale } : given;
    }
    case 'gather': {
      const of = node.value ? digitsOf(node.value) : { whole: 0, places: 0 };
      const places = node.aggregate === 'average' ? QUOTIENT_PLACES : of.places;
      return { whole: of.whole + COUNTED_DIGITS, places };
    }
    case 'exchange': {
      const [amount, rate] = [digitsOf(node.amount), digitsOf(node.rates.rate)];
      return { whole: amount.whole + rate.whole, places: amount.places + rate.places };
    }
    default:
      return { whole: FIELD_DIGITS, places: node.type.kind === 'number' ? node.type.scale : 4 };
  }
}

const most = (of: readonly Digits[]): Digits => ({
  whole: Math.max(1, ...of.map(({ whole }) => whole)),
  places: Math.max(0, ...of.map(({ places }) => places)),
});

function ofArithmetic({ operator, left, right }: Extract<Typed, { kind: 'arithmetic' }>): Digits {
  const [a, b] = [digitsOf(left), digitsOf(right)];
  if (operator === '*') return { whole: a.whole + b.whole, places: a.places + b.places };
  if (operator === '/') return { whole: a.whole + b.places + 1, places: QUOTIENT_PLACES };
  const both = most([a, b]);
  return { ...both, whole: both.whole + 1 };
}
