import type { Expression, Typed, TypedField } from '../expression';
import type { Field, LinkRef } from '../model';
import type { Rounding, Value, ValueType, WireValue } from '../values';
import type { FieldRef, Read } from './rule';

export type Aggregate = 'count' | 'sum' | 'average' | 'minimum' | 'maximum';

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
  /** Kinds of value that it takes; empty for the count, which takes none. */
  readonly kinds: readonly ValueType['kind'][];
  readonly resultType: (value: ValueType | null) => ValueType;
}

const COUNTED: ValueType = { kind: 'number', scale: 0 };
const own = (value: ValueType | null): ValueType => value ?? COUNTED;

/** Sums keep their places; an average has 20 before it is rounded to its target; a rating averages to a number. */
const averaged = (value: ValueType | null): ValueType =>
  value?.kind === 'money'
    ? value
    : { kind: 'number', scale: 20, ...(value?.kind === 'number' && value.unit ? { unit: value.unit } : {}) };

/** Every aggregate, what it takes and what it yields: the sentence, the checker, the evaluator and SQL are held to it. */
export const AGGREGATES: readonly AggregateEntry[] = [
  { aggregate: 'count', words: 'count', kinds: [], resultType: () => COUNTED },
  { aggregate: 'sum', words: 'sum', kinds: ['number', 'money'], resultType: own },
  { aggregate: 'average', words: 'average', kinds: ['number', 'money', 'rating'], resultType: averaged },
  {
    aggregate: 'minimum',
    words: 'minimum',
    kinds: ['number', 'money', 'rating', 'date', 'dateTime'],
    resultType: own,
  },
  {
    aggregate: 'maximum',
    words: 'maximum',
    kinds: ['number', 'money', 'rating', 'date', 'dateTime'],
    resultType: own,
  },
];

export const aggregateEntry = (aggregate: Aggregate): AggregateEntry | undefined =>
  AGGREGATES.find((entry) => entry.aggregate === aggregate);
