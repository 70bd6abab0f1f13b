import {
  daysBetween,
  Decimal,
  divide,
  median,
  standardDeviation,
  isMoney,
  shiftDay,
  type Value,
  valueKey,
  compareValues,
  type ValueType,
} from '@/core/values';
import { type Evaluator, Failure, isNothingKnown, type MakeReady, OUTSIDE, type Worked } from './worked';
import { countingFor, leadingValue } from './leading';
import type { GatherAggregate, Typed, TypedGather } from '@/core/syntax/expression';
import { functionEntry } from '@/core/syntax/functions';

type Present = Exclude<Value, null>;
type Arithmetic = Extract<Typed, { kind: 'arithmetic' }>;

export function arithmetic(node: Arithmetic, ready: MakeReady): Evaluator {
  const [left, right] = [ready(node.left), ready(node.right)];
  const work = worker(node);
  return (at, read, beneath) => {
    const a = left(at, read, beneath);
    if (isNothingKnown(a)) return a;
    const b = right(at, read, beneath);
    if (isNothingKnown(b)) return b;
    return a === null || b === null ? null : work(a, b);
  };
}

function worker({ operator, working, type }: Arithmetic): (a: Present, b: Present) => Worked {
  switch (working) {
    case 'texts':
      return (a, b) => (a as string) + (b as string);
    case 'daysBetween':
      return (a, b) => new Decimal(daysBetween(b as string, a as string));
    case 'days':
    case 'months':
      return (a, b) =>
        moved(a as string, operator === '-' ? (b as Decimal).negated() : (b as Decimal), working);
    default: {
      const wrap = (amount: Decimal): Value =>
        type.kind === 'money' ? { amount, currency: type.currency } : amount;
      const of = AMOUNTS[operator];
      return (a, b) => {
        const result = of(amountOf(a), amountOf(b));
        return result instanceof Failure ? result : wrap(result);
      };
    }
  }
}

const AMOUNTS: Record<Arithmetic['operator'], (a: Decimal, b: Decimal) => Decimal | Failure> = {
  '+': (a, b) => a.plus(b),
  '-': (a, b) => a.minus(b),
  '*': (a, b) => a.times(b),
  '/': (a, b) => (b.isZero() ? Failure.of('division_by_zero') : divide(a, b)),
};

const amountOf = (value: Present): Decimal => (isMoney(value) ? value.amount : (value as Decimal));

/** Further than this no date is in the years that there are. */
const FURTHEST = 4_000_000;

/** A date so many days or months away; of a month that is shorter its last day. */
function moved(date: string, by: Decimal, unit: 'days' | 'months'): Worked {
  if (by.abs().greaterThan(FURTHEST)) return Failure.of('out_of_range');
  if (unit === 'days') return shiftDay(date, by.toNumber()) ?? Failure.of('out_of_range');
  return movedByMonths(date, by.toNumber());
}

function movedByMonths(date: string, months: number): Worked {
  const [year, month, day] = date.split('-').map(Number) as [number, number, number];
  const all = year * 12 + (month - 1) + months;
  const [toYear, toMonth] = [Math.floor(all / 12), ((all % 12) + 12) % 12];
  if (toYear < 1 || toYear > 9999) return Failure.of('out_of_range');
  const last = new Date(0);
  last.setUTCFullYear(toYear, toMonth + 1, 0);
  const two = (part: number) => String(part).padStart(2, '0');
  return `${String(toYear).padStart(4, '0')}-${two(toMonth + 1)}-${two(Math.min(day, last.getUTCDate()))}`;
}

export function negation({ operand }: Extract<Typed, { kind: 'negate' }>, ready: MakeReady): Evaluator {
  const of = ready(operand);
  return (at, read, beneath) => {
    const value = of(at, read, beneath);
    if (value === null || isNothingKnown(value)) return value;
    if (isMoney(value)) return { ...value, amount: plain(value.amount.negated()) };
    return plain((value as Decimal).negated());
  };
}

/** No negative zero, which SQL doesn't know. */
const plain = (amount: Decimal): Decimal => (amount.isZero() ? amount.abs() : amount);

/** Only the branch that is taken is worked out: an error in the other one doesn't matter. */
export function choice(
  { condition, then, otherwise }: Extract<Typed, { kind: 'if' }>,
  ready: MakeReady,
): Evaluator {
  const [test, first, second] = [ready(condition), ready(then), ready(otherwise)];
  return (at, read, beneath) => {
    const verdict = test(at, read, beneath);
    if (isNothingKnown(verdict)) return verdict;
    return (verdict === true ? first : second)(at, read, beneath);
  };
}

export function call(
  { name, arguments: given }: Extract<Typed, { kind: 'call' }>,
  ready: MakeReady,
): Evaluator {
  const parts = given.map(ready);
  const { work, workEmpty } = functionEntry(name);
  const types = given.map(({ type }) => type);
  return (at, read, beneath) => {
    const values: Value[] = [];
    for (const part of parts) {
      const value = part(at, read, beneath);
      if (isNothingKnown(value)) return value;
      values.push(value);
    }
    if (workEmpty) return workEmpty(values);
    if (values.includes(null)) return null;
    return work(values as Present[], types);
  };
}

/** What the records beneath come to; one that can't be read makes the whole unknown. */
export function gathering(node: TypedGather, ready: MakeReady): Evaluator {
  const { leading } = node;
  if (node.aggregate === 'leading') return leadingValue(node, ready);
  const test = node.condition && ready(node.condition);
  const value = node.value && ready(node.value);
  const finish = finisher(node, node.aggregate);
  return (at, read, beneath) => {
    if (!beneath) throw new RangeError('Records beneath can’t be read here');
    const members = beneath(at, node);
    if (members === OUTSIDE) return OUTSIDE;
    const given: Present[] = [];
    let failure: Failure | null = null;
    let isOutside = false;
    let count = 0;
    for (const member of leading ? countingFor(leading, at, members, read) : members) {
      const verdict = test ? test(member, read, beneath) : true;
      if (verdict === OUTSIDE) isOutside = true;
      else if (verdict instanceof Failure) failure ??= Failure.of('input_has_problem');
      else if (verdict === true) {
        count += 1;
        const one = value ? value(member, read, beneath) : null;
        if (one === OUTSIDE) isOutside = true;
        else if (one instanceof Failure) failure ??= Failure.of('input_has_problem');
        else if (one !== null) given.push(one);
      }
    }
    if (isOutside) return OUTSIDE;
    return failure ?? finish(given, count);
  };
}

type Finish = (given: readonly Present[], count: number) => Value;

function finisher({ value, type }: TypedGather, aggregate: GatherAggregate): Finish {
  const kind = value?.type ?? type;
  const wrap = (amount: Decimal): Value =>
    type.kind === 'money' ? { amount, currency: type.currency } : amount;
  const total = (given: readonly Present[]) =>
    given.reduce<Decimal>((sum, one) => sum.plus(amountOf(one)), new Decimal(0));
  const finishers: Record<GatherAggregate, Finish> = {
    count: (given, count) => new Decimal(value ? given.length : count),
    countDistinct: (given) => new Decimal(new Set(given.map(valueKey)).size),
    sum: (given) => wrap(total(given)),
    average: (given) => (given.length === 0 ? null : wrap(divide(total(given), new Decimal(given.length)))),
    median: (given) => (given.length === 0 ? null : wrap(median(given.map(amountOf)))),
    deviation: (given) => {
      const found = standardDeviation(given.map(amountOf));
      return found && wrap(found);
    },
    minimum: (given) => leading(kind, given, -1),
    maximum: (given) => leading(kind, given, 1),
    all: (given) => given.every((one) => one === true),
    any: (given) => given.some((one) => one === true),
  };
  return finishers[aggregate];
}

const leading = (type: ValueType, given: readonly Present[], sign: 1 | -1): Value =>
  given.reduce<Value>(
    (best, one) => (best === null || compareValues(type, one, best) * sign > 0 ? one : best),
    null,
  );
