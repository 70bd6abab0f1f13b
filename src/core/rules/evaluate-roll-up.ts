import {
  type Evaluator,
  evaluatorOf,
  fieldsRead,
  OUTSIDE,
  type Outside,
  type TypedField,
} from '../expression';
import type { ErrorCode, Outcome, Value } from '../values';
import { type Accumulator, Accumulating, isAccumulated, outcomeOf } from './accumulate';
import { foldedOutcome, foldOf } from './fold';
import type { CompiledRollUp } from './roll-up';

/** How rules read records: values and errors of their fields, and up their routes. */
export interface Reader<T> {
  /** The value; empty where it stands in error. */
  readonly value: (at: T, field: TypedField) => Value | Outside;
  /** Whether the field stands in error; not known outside what is loaded. */
  readonly isInError: (at: T, field: TypedField) => boolean;
}

/**
 * What a member gives to a roll-up:
 *
 * | condition             | value    | standing     |
 * | --------------------- | -------- | ------------ |
 * | reads an error        | any      | error        |
 * | reads outside, undecided | any   | outside      |
 * | false                 | any      | left out     |
 * | true or none          | error    | error        |
 * | true or none          | outside  | outside      |
 * | true or none          | empty    | empty        |
 * | true or none          | value    | counts       |
 */
export type Standing =
  | { readonly kind: 'counts'; readonly value: Value }
  | { readonly kind: 'leftOut' | 'empty' | 'outside' }
  | { readonly kind: 'error'; readonly error: ErrorCode };

const LEFT_OUT = Symbol('left out');
const EMPTY = Symbol('empty');
const IN_ERROR = Symbol('in error');

/** A standing without its wrapping: the value that counts (`null` for a count), or why there is none. */
type Given = Value | Outside | typeof LEFT_OUT | typeof EMPTY | typeof IN_ERROR;

interface Ready {
  readonly fields: readonly TypedField[];
  readonly test: Evaluator | null;
}

const readyRules = new WeakMap<CompiledRollUp, Ready>();

function readyOf(rule: CompiledRollUp): Ready {
  let ready = readyRules.get(rule);
  if (!ready) {
    const { condition } = rule;
    ready = { fields: condition ? fieldsRead(condition) : [], test: condition && evaluatorOf(condition) };
    readyRules.set(rule, ready);
  }
  return ready;
}

function givenBy<T>(rule: CompiledRollUp, { fields, test }: Ready, at: T, reader: Reader<T>): Given {
  for (const field of fields) if (reader.isInError(at, field)) return IN_ERROR;
  if (test) {
    const verdict = test(at, reader.value);
    if (verdict === OUTSIDE) return OUTSIDE;
    if (verdict !== true) return LEFT_OUT;
  }
  if (!rule.value) return null;
  if (reader.isInError(at, rule.value)) return IN_ERROR;
  const value = reader.value(at, rule.value);
  return value === null ? EMPTY : value;
}

/** What one member gives, for people and for differences. */
export function standingOf<T>(rule: CompiledRollUp, at: T, reader: Reader<T>): Standing {
  const given = givenBy(rule, readyOf(rule), at, reader);
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

/** What a roll-up gives, and for counts, sums and averages what it is made of. */
export interface BroughtTogether {
  readonly outcome: Outcome;
  readonly accumulator: Accumulator | null;
}

/**
 * The value of a roll-up from all its members. An error wins over a value; a member outside wins over both, because nothing
 * is known of it. The result is rounded and fitted to the target.
 */
export function bringTogether<T>(
  rule: CompiledRollUp,
  members: readonly T[],
  reader: Reader<T>,
): BroughtTogether | Outside {
  const ready = readyOf(rule);
  if (!isAccumulated(rule)) return foldedOf(rule, ready, members, reader);
  const accumulating = new Accumulating(rule);
  for (const member of members) {
    const given = givenBy(rule, ready, member, reader);
    if (given === OUTSIDE) return OUTSIDE;
    if (given === IN_ERROR) accumulating.addError();
    else if (given !== LEFT_OUT && given !== EMPTY) accumulating.add(given);
  }
  const accumulator = accumulating.result();
  return { outcome: outcomeOf(rule, accumulator), accumulator };
}

/** A value that follows from its members alone. */
function foldedOf<T>(
  rule: CompiledRollUp,
  ready: Ready,
  members: readonly T[],
  reader: Reader<T>,
): BroughtTogether | Outside {
  const fold = foldOf(rule);
  let isInError = false;
  for (const member of members) {
    const given = givenBy(rule, ready, member, reader);
    if (given === OUTSIDE) return OUTSIDE;
    if (given === IN_ERROR) isInError = true;
    else if (given !== LEFT_OUT && given !== EMPTY && given !== null) fold.add(given);
  }
  const outcome: Outcome = isInError ? { error: 'input_has_problem' } : foldedOutcome(rule, fold.result());
  return { outcome, accumulator: null };
}
