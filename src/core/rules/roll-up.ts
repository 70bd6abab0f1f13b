import type { Expression, Typed, TypedField } from '../expression';
import type { Field, LinkRef } from '../model';
import type { Rounding, Value, ValueType, WireValue } from '../values';
import type { FieldRef, Read } from './rule';

export type Aggregate =
  | 'count'
  | 'countDistinct'
  | 'sum'
  | 'average'
  | 'minimum'
  | 'maximum'
  | 'range'
  | 'all'
  | 'any'
  | 'none'
  | 'best'
  | 'worst';

/** One step of a route down: to the records of `type` whose `link` names the record at hand. */
export interface StepDown extends LinkRef {
  readonly direction: 'down';
}

/** Child values to a parent, as it is written, stored and sent: plain data. */
export interface RollUp {
  readonly kind: 'rollUp';
  /** The parent type, and the field of it that is kept. */
  readonly type: string;
  readonly target: string;
  readonly aggregate: Aggregate;
  /** From the parent down to the records that are brought together. One step for now. */
  readonly route: readonly StepDown[];
  /** What is brought together, read on the child; `null` for a count. */
  readonly value: Extract<Expression, { kind: 'field' }> | null;
  /** Which children count; `null` for all. Read on the child, and up its routes. */
  readonly condition: Expression | null;
  /** What stands when nothing counts, as a value of the target; `null` is empty. */
  readonly whenNone: WireValue;
  /** Rounds the result before it is fitted to the target's own places; `null` for the target's alone. */
  readonly rounding: Rounding | null;
  readonly pace: 'withTheSave';
}

/** A roll-up that has been checked and typed: what the evaluator, SQL and the engine work from. */
export interface CompiledRollUp {
  readonly id: string;
  readonly version: string;
  readonly name: string;
  readonly definition: RollUp;
  readonly aggregate: Aggregate;
  readonly writes: FieldRef;
  readonly target: Field;
  readonly link: LinkRef;
  readonly value: TypedField | null;
  readonly condition: Typed | null;
  readonly whenNone: Value;
  readonly rounding: Rounding | null;
  /** What the aggregate yields, before it is fitted to the target. */
  readonly resultType: ValueType;
  readonly reads: readonly Read[];
}

interface AggregateEntry {
  readonly aggregate: Aggregate;
  readonly words: string;
  /** What stands between its words and the value; `of ` where it isn't said. */
  readonly of?: '';
  /** Kinds of value that it takes; empty for the count, which takes none. */
  readonly kinds: readonly ValueType['kind'][];
  readonly resultType: (value: ValueType | null) => ValueType;
  /** It asks whether members are so, rather than what they come to: the sentence reads otherwise. */
  readonly isQuestion?: boolean;
}

const COUNTED: ValueType = { kind: 'number', scale: 0 };
const ANSWER: ValueType = { kind: 'yesNo' };
const own = (value: ValueType | null): ValueType => value ?? COUNTED;

/** Sums keep their places; an average has 20 before it is rounded to its target; a rating averages to a number. */
const averaged = (value: ValueType | null): ValueType =>
  value?.kind === 'money'
    ? value
    : { kind: 'number', scale: 20, ...(value?.kind === 'number' && value.unit ? { unit: value.unit } : {}) };

/** Between ratings lie whole numbers. */
const between = (value: ValueType | null): ValueType => (value?.kind === 'rating' ? COUNTED : own(value));

const AMOUNTS: readonly ValueType['kind'][] = ['number', 'money', 'rating'];
const ORDERED: readonly ValueType['kind'][] = [...AMOUNTS, 'date', 'dateTime'];
const TOLD_APART: readonly ValueType['kind'][] = ['text', ...ORDERED, 'choice', 'person', 'link'];
const question = (aggregate: 'all' | 'any' | 'none'): AggregateEntry => ({
  ...{ aggregate, words: aggregate, kinds: ['yesNo'], resultType: () => ANSWER, isQuestion: true },
});

/**
 * Every aggregate, what it takes and what it yields: the sentence, the checker, the evaluator and SQL are held to it. Of a choice the
 * first option is the best and the last the worst.
 */
export const AGGREGATES: readonly AggregateEntry[] = [
  { aggregate: 'count', words: 'count', kinds: [], resultType: () => COUNTED },
  {
    aggregate: 'countDistinct',
    words: 'number of different',
    of: '',
    kinds: TOLD_APART,
    resultType: () => COUNTED,
  },
  { aggregate: 'sum', words: 'sum', kinds: ['number', 'money'], resultType: own },
  { aggregate: 'average', words: 'average', kinds: AMOUNTS, resultType: averaged },
  { aggregate: 'minimum', words: 'minimum', kinds: ORDERED, resultType: own },
  { aggregate: 'maximum', words: 'maximum', kinds: ORDERED, resultType: own },
  { aggregate: 'range', words: 'range', kinds: AMOUNTS, resultType: between },
  question('all'),
  question('any'),
  question('none'),
  { aggregate: 'best', words: 'best', kinds: ['choice'], resultType: own },
  { aggregate: 'worst', words: 'worst', kinds: ['choice'], resultType: own },
];

export const aggregateEntry = (aggregate: Aggregate): AggregateEntry | undefined =>
  AGGREGATES.find((entry) => entry.aggregate === aggregate);
