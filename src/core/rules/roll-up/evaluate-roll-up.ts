import { Failure, OUTSIDE, type Outside } from '@/core/expression';
import { certain, compareText, firstIn, type Outcome, type Value } from '@/core/values';
import { type Accumulator, Accumulating, isAccumulated, outcomeOf } from './accumulate';
import { foldedOutcome, foldOf } from './fold';
import { aggregateEntry, type CompiledRollUp } from './roll-up';
import { noneOf } from '@/core/rules/rule';
import { writtenFrom } from '@/core/rules/shared/result-pipeline';
import {
  EMPTY,
  fieldGiven,
  givenBy,
  IN_ERROR,
  type Kept,
  LEFT_OUT,
  type Members,
  readyOf,
} from './member-gives';
import { type Candidate, candidatesOf, extremumOf, inOrderOf, joinedText } from './ordered-members';

/** What a roll-up gives, and for counts, sums and averages what it is made of. */
export interface Aggregated {
  readonly outcome: Outcome;
  readonly accumulator: Accumulator | null;
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
    (rule.definition.joining?.isFromLast ? sorted.reverse() : sorted).map(({ value }) => value as string),
  );
  return { outcome: writtenFrom(rule, text, null), accumulator: null };
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
