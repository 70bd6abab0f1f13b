import {
  type Beneath,
  type Evaluator,
  evaluatorOf,
  Failure,
  OUTSIDE,
  type Outside,
  type ReadOf,
  type TypedField,
} from '@/core/expression';
import { Decimal, type Value } from '@/core/values';
import { type CompiledRollUp, type CompiledSource } from './roll-up';
import type { Contribution } from './contribution';

/** How rules read records: values and errors of their fields, and up their routes. */
export interface Reader<T> {
  /** The value; empty where it stands in error. */
  readonly value: (at: T, field: TypedField) => Value | Outside;
  /** The value, or that it stands in error. */
  readonly given: ReadOf<T>;
  /** What tells records apart that are alike in an order. */
  readonly idOf: (at: T) => string;
  /** The records that an expression gathers. */
  readonly beneath: Beneath<T>;
}

export const LEFT_OUT = Symbol('left out');

export const EMPTY = Symbol('empty');

export const IN_ERROR = Symbol('in error');

/** A standing without its wrapping: the value that counts (`null` for a count), or why there is none. */
type Given = Value | Outside | typeof LEFT_OUT | typeof EMPTY | typeof IN_ERROR;

interface Ready {
  readonly test: Evaluator | null;
  readonly value: Evaluator | null;
}

const readySources = new WeakMap<CompiledSource, Ready>();

export function readyOf(source: CompiledSource): Ready {
  let ready = readySources.get(source);
  if (!ready) {
    const { condition, value } = source;
    ready = { test: condition && evaluatorOf(condition), value: value && evaluatorOf(value) };
    readySources.set(source, ready);
  }
  return ready;
}

/** What a record that is counted gives to a count of counts. */
const ONE = new Decimal(1);

export function givenBy<T>(rule: CompiledRollUp, { test, value }: Ready, at: T, reader: Reader<T>): Given {
  if (test) {
    const verdict = test(at, reader.given, reader.beneath);
    if (verdict === OUTSIDE) return OUTSIDE;
    if (verdict instanceof Failure) return IN_ERROR;
    if (verdict !== true) return LEFT_OUT;
  }
  if (!value) return rule.recursion ? ONE : null;
  const given = value(at, reader.given, reader.beneath);
  return given instanceof Failure ? IN_ERROR : given === null ? EMPTY : given;
}

export function fieldGiven<T>(field: TypedField, at: T, reader: Reader<T>): Given {
  const value = reader.given(at, field);
  return value instanceof Failure ? IN_ERROR : value === null ? EMPTY : value;
}

/** What one member gives, for people and for differences. */
export function contributionOf<T>(
  rule: CompiledRollUp,
  source: CompiledSource,
  at: T,
  reader: Reader<T>,
): Contribution {
  return contributionFrom(givenBy(rule, readyOf(source), at, reader));
}

function contributionFrom(given: Given): Contribution {
  switch (given) {
    case OUTSIDE:
      return { kind: 'outside' };
    case LEFT_OUT:
      return { kind: 'leftOut' };
    case EMPTY:
      return { kind: 'empty' };
    case IN_ERROR:
      return { kind: 'error', error: 'input_has_problem' };
    default:
      return { kind: 'counts', value: given as Value };
  }
}

/** The members of one source of a rule, and how they are read. */
export interface Members<T> {
  readonly source: CompiledSource;
  readonly rows: readonly T[];
  readonly reader: Reader<T>;
}

/** The record whose field is kept, and how it is read. */
export interface Kept<T> {
  readonly at: T;
  readonly reader: Reader<T>;
}
