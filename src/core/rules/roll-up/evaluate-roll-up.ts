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
import {
  certain,
  compareText,
  compareValues,
  Decimal,
  firstIn,
  type Outcome,
  type Value,
} from '@/core/values';
import { type Accumulator, Accumulating, isAccumulated, outcomeOf } from './accumulate';
import { foldedOutcome, foldOf } from './fold';
import { aggregateEntry, type CompiledRollUp, type CompiledSource } from './roll-up';
import { noneOf } from '@/core/rules/rule';
import { writtenFrom } from '@/core/rules/shared/result-pipeline';
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

const LEFT_OUT = Symbol('left out');
const EMPTY = Symbol('empty');
const IN_ERROR = Symbol('in error');

/** A standing without its wrapping: the value that counts (`null` for a count), or why there is none. */
type Given = Value | Outside | typeof LEFT_OUT | typeof EMPTY | typeof IN_ERROR;

interface Ready {
  readonly test: Evaluator | null;
  readonly value: Evaluator | null;
}

const readySources = new WeakMap<CompiledSource, Ready>();

function readyOf(source: CompiledSource): Ready {
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

function givenBy<T>(rule: CompiledRollUp, { test, value }: Ready, at: T, reader: Reader<T>): Given {
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

function fieldGiven<T>(field: TypedField, at: T, reader: Reader<T>): Given {
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

/** What a roll-up gives, and for counts, sums and averages what it is made of. */
export interface Aggregated {
  readonly outcome: Outcome;
  readonly accumulator: Accumulator | null;
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

/**
 * The value of a roll-up from all its members, of every source. An error wins over a value; a member outside wins over both, because
 * nothing is known of it; what stands in wins over all of them. The result is rounded and fitted to the target.
 */
export function aggregate<T>(
  rule: CompiledRollUp,
  members: readonly Members<T>[],
  kept: Kept<T>,
): Aggregated | Outside {
  const accumulator = isAccumulated(rule) ? accumulated(rule, members, kept) : null;
  if (accumulator === OUTSIDE) return contributionAlone(rule, kept);
  if (accumulator) {
    const outcome = outcomeFrom(rule, accumulator, kept);
    return outcome === OUTSIDE ? OUTSIDE : { outcome, accumulator };
  }
  const standing = standingIn(rule, kept);
  if (standing !== null) return standing === OUTSIDE ? OUTSIDE : { outcome: standing, accumulator: null };
  if (rule.aggregate === 'joined') return joinedFrom(rule, members, kept);
  return aggregateEntry(rule.aggregate).isOrdered
    ? leadingFrom(rule, members, kept)
    : foldedFrom(rule, members, kept);
}

/** The value of a rule that is kept by difference, from what is kept beside it. */
export function outcomeFrom<T>(
  rule: CompiledRollUp,
  accumulator: Accumulator,
  kept: Kept<T>,
): Outcome | Outside {
  const standing = standingIn(rule, kept);
  if (standing !== null) return standing;
  return accumulator.errors === 0 && accumulator.count === 0
    ? whenNone(rule, kept)
    : outcomeOf(rule, accumulator);
}

/** The value of a rule of whose members not all are known: only what stands in for them can tell. */
export function contributionAlone<T>(rule: CompiledRollUp, kept: Kept<T>): Aggregated | Outside {
  const outcome = standingIn(rule, kept);
  return outcome === null || outcome === OUTSIDE ? OUTSIDE : { outcome, accumulator: null };
}

/** What stands in for everything else; `null` where nothing does. */
function standingIn<T>(rule: CompiledRollUp, kept: Kept<T>): Outcome | Outside | null {
  const { own } = rule;
  if (!own.standsIn) return null;
  const given = fieldGiven(own.standsIn, kept.at, kept.reader);
  if (given === EMPTY) return null;
  if (given === OUTSIDE) return OUTSIDE;
  if (given === IN_ERROR) return { error: 'input_has_problem' };
  return writtenFrom(rule, given as Value);
}

/** What stands where nothing counts: the record's own where that is entered, else what the rule says. */
function whenNone<T>(rule: CompiledRollUp, { at, reader }: Kept<T>): Outcome | Outside {
  const { own } = rule;
  if (!own.whenNone) return noneOf(rule);
  const given = fieldGiven(own.whenNone, at, reader);
  if (given === OUTSIDE) return OUTSIDE;
  if (given === IN_ERROR) return { error: 'input_has_problem' };
  return given === EMPTY ? noneOf(rule) : writtenFrom(rule, given as Value, null);
}

/** Hands over what each member and the record itself give. Answers whether all of it is here. */
function goOver<T>(
  rule: CompiledRollUp,
  members: readonly Members<T>[],
  kept: Kept<T>,
  take: (given: Value) => void,
  fail: () => void,
): boolean {
  for (const { source, rows, reader } of members) {
    const ready = readyOf(source);
    const seen = source.once ? new Set<Value>() : null;
    for (const row of rows) {
      const given = givenBy(rule, ready, row, reader);
      if (given === OUTSIDE) return false;
      if (given === LEFT_OUT || given === EMPTY) continue;
      if (given === IN_ERROR) fail();
      else if (!seen) take(given as Value);
      else {
        const end = reader.given(row, certain(source.once));
        if (end === OUTSIDE) return false;
        if (end instanceof Failure) {
          fail();
          continue;
        }
        if (end === null || seen.has(end)) continue;
        seen.add(end);
        take(given as Value);
      }
    }
  }
  if (!rule.own.adds) return true;
  const given = fieldGiven(rule.own.adds, kept.at, kept.reader);
  if (given === OUTSIDE) return false;
  if (given === IN_ERROR) fail();
  else if (given !== EMPTY) take(given as Value);
  return true;
}

function accumulated<T>(
  rule: CompiledRollUp,
  members: readonly Members<T>[],
  kept: Kept<T>,
): Accumulator | Outside {
  const accumulating = new Accumulating(rule);
  const isHere = goOver(
    rule,
    members,
    kept,
    (given) => accumulating.add(given),
    () => accumulating.addError(),
  );
  return isHere ? accumulating.result() : OUTSIDE;
}

/** A member with its place in the order that tells which of them leads. */
export interface Candidate {
  readonly keys: readonly Value[];
  readonly id: string;
  readonly value: Value;
  /** Which source it comes from: a record may come from several. */
  readonly source: number;
}

/**
 * The value of the member that is first or last by the rule's order. Members whose order is empty have no place in it; of those that are
 * alike the next order tells, where empty comes first, and in the end their ids.
 */
function leadingFrom<T>(
  rule: CompiledRollUp,
  members: readonly Members<T>[],
  kept: Kept<T>,
): Aggregated | Outside {
  const found = extremumOf(rule, members);
  if (found === OUTSIDE) return OUTSIDE;
  if (found === IN_ERROR) return { outcome: { error: 'input_has_problem' }, accumulator: null };
  const outcome = found ? writtenFrom(rule, found.value) : whenNone(rule, kept);
  return outcome === OUTSIDE ? OUTSIDE : { outcome, accumulator: null };
}

/** Below 0 where the first by the order leads, above where the last does; 0 where none does. */
export function extremumSide({ aggregate }: CompiledRollUp): -1 | 0 | 1 {
  if (aggregate === 'first' || aggregate === 'minimum' || aggregate === 'best') return -1;
  return aggregate === 'last' || aggregate === 'maximum' || aggregate === 'worst' ? 1 : 0;
}

/**
 * The member that leads: the first or last by the rule's order, or that with the smallest or largest value. `null` where none has a place
 * in it.
 */
export function extremumOf<T>(
  rule: CompiledRollUp,
  members: readonly Members<T>[],
): Candidate | null | Outside | typeof IN_ERROR {
  const found = candidatesOf(rule, members, (one) => one.keys[0] !== null);
  if (!Array.isArray(found)) return found;
  return found.reduce<Candidate | null>(
    (best, one) => (best === null || leads(rule, one, best) ? one : best),
    null,
  );
}

/** Whether one member leads another. */
export const leads = (rule: CompiledRollUp, one: Candidate, other: Candidate): boolean =>
  inOrderOf(rule, one, other) * extremumSide(rule) > 0;

/** Members with their places in the order, those that `isWanted`; over a bridge each end once. */
function candidatesOf<T>(
  rule: CompiledRollUp,
  members: readonly Members<T>[],
  isWanted: (one: Candidate) => boolean,
): Candidate[] | Outside | typeof IN_ERROR {
  const found: Candidate[] = [];
  const byValue = isByValue(rule);
  let isInError = false;
  for (const { source, rows, reader } of members) {
    const ready = readyOf(source);
    const seen = new Set<Value>();
    for (const row of rows) {
      const given = givenBy(rule, ready, row, reader);
      if (given === OUTSIDE) return OUTSIDE;
      if (given === LEFT_OUT) continue;
      const keys: (Value | Outside | Failure)[] = byValue
        ? [given === EMPTY || given === IN_ERROR ? null : (given as Value)]
        : source.order.map((field) => reader.given(row, field));
      const end = source.once ? reader.given(row, source.once) : null;
      if (keys.includes(OUTSIDE) || end === OUTSIDE) return OUTSIDE;
      if (given === IN_ERROR || [...keys, end].some((one) => one instanceof Failure)) {
        isInError = true;
        continue;
      }
      const id = source.once ? (end as string | null) : reader.idOf(row);
      if (id === null || (source.once && seen.has(id))) continue;
      const value = given === EMPTY ? null : (given as Value);
      const one: Candidate = { keys: keys as Value[], id, value, source: rule.sources.indexOf(source) };
      if (!isWanted(one)) continue;
      seen.add(id);
      found.push(one);
    }
  }
  return isInError ? IN_ERROR : found;
}

/** Whether it is by their values that members lead, rather than by an order. */
const isByValue = (rule: CompiledRollUp): boolean =>
  extremumSide(rule) !== 0 && !aggregateEntry(rule.aggregate).isOrdered;

/** Below 0 where one comes before the other: by the rule's order, where empty comes first, and in the end by their ids. */
function inOrderOf(rule: CompiledRollUp, a: Candidate, b: Candidate): number {
  const types = isByValue(rule)
    ? [certain(rule.valueType)]
    : firstIn(rule.sources).order.map(({ type }) => type);
  for (const [at, type] of types.entries()) {
    const [one, other] = [a.keys[at] ?? null, b.keys[at] ?? null];
    const apart =
      one === null || other === null
        ? Number(one !== null) - Number(other !== null)
        : compareValues(type, one, other);
    if (apart !== 0) return apart;
  }
  return compareText(a.id, b.id) || a.source - b.source;
}

/** Texts one after the other: by the rule's order, or by themselves where it has none. */
function joinedFrom<T>(
  rule: CompiledRollUp,
  members: readonly Members<T>[],
  kept: Kept<T>,
): Aggregated | Outside {
  const found = candidatesOf(rule, members, ({ value }) => value !== null);
  if (found === OUTSIDE) return OUTSIDE;
  if (found === IN_ERROR) return { outcome: { error: 'input_has_problem' }, accumulator: null };
  const candidates = found as Candidate[];
  if (candidates.length === 0) {
    const none = whenNone(rule, kept);
    return none === OUTSIDE ? OUTSIDE : { outcome: none, accumulator: null };
  }
  const byText = (a: Candidate, b: Candidate) => compareText(a.value as string, b.value as string);
  const isOrdered = firstIn(rule.sources).order.length > 0;
  const sorted = candidates.sort((a, b) => (isOrdered ? 0 : byText(a, b)) || inOrderOf(rule, a, b));
  const text = joinedText(
    rule,
    sorted.map(({ value }) => value as string),
  );
  return { outcome: writtenFrom(rule, text, null), accumulator: null };
}

/** The texts with what stands between them, and how many more there are. */
function joinedText({ definition }: CompiledRollUp, texts: readonly string[]): string {
  const { separator, isDistinct, most } = certain(definition.joining);
  const all = isDistinct ? [...new Set(texts)] : texts;
  const shown = most ? all.slice(0, most) : all;
  const more = all.length - shown.length;
  return shown.join(separator) + (more > 0 ? ` and ${more} more` : '');
}

/** A value that follows from its members alone. */
function foldedFrom<T>(
  rule: CompiledRollUp,
  members: readonly Members<T>[],
  kept: Kept<T>,
): Aggregated | Outside {
  const fold = foldOf(rule);
  let isInError = false;
  const isHere = goOver(
    rule,
    members,
    kept,
    (given) => fold.add(certain(given)),
    () => {
      isInError = true;
    },
  );
  if (!isHere) return OUTSIDE;
  if (isInError) return { outcome: { error: 'input_has_problem' }, accumulator: null };
  const result = fold.result();
  const outcome = result === null ? whenNone(rule, kept) : foldedOutcome(rule, result);
  return outcome === OUTSIDE ? OUTSIDE : { outcome, accumulator: null };
}
