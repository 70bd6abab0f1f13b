import { Failure, fieldsRead, inOrder, type Outside, OUTSIDE, type TypedField } from '@/core/expression';
import { assignedOutcome } from '@/core/rules';
import { firstIn, isError, sameValue, type Value, valueAt } from '@/core/values';
import { isThere } from '@/core/engine/reach/affected';
import { type Answer, type Need, type WorkedOut } from '@/core/engine/driver/need';
import { type CellRef, recordKey, type Row, sameOutcome, storedOutcome } from '@/core/engine/driver/record';
import { firstFailed, type WritePrecedence } from '@/core/engine/edits/write-precedence';
import type { Overruled } from '@/core/engine/driver/ripple';
import { RouteReader } from '@/core/engine/reach/route-reader';
import { besideOf, startingOf } from './cascade-reach';
import { firedIn, followingOf } from './cascade-firing';
import { haveSame } from './cascade-input';
import {
  assigningOf,
  type CascadeInput,
  type CascadeOutcome,
  type CascadeSource,
  readOnSource,
  readOnVia,
  type Recipients,
  verdictOf,
} from './cascade-input';

/**
 * What a rule that acts at creation or on change writes in a run, from what was touched before its turn: each record that changed cascades
 * once. What was entered in the same run stands.
 *
 * | the record that takes it      | at creation takes it                                         | on change takes it               |
 * | ----------------------------- | ------------------------------------------------------------ | -------------------------------- |
 * | was made                      | where nothing was entered; over a default                    | as any other                     |
 * | was attached, or moved        | where it is empty, or as what it hung under before gave it    | as any other                     |
 * | came back from the bin        | no                                                           | as any other                     |
 * | several cascade to it         | –                                                            | from the first by the rule's order |
 */
export function* runCascade(
  input: CascadeInput,
  recipients: Recipients,
  writePrecedence: Pick<WritePrecedence, 'isTaken' | 'writes' | 'overruledBy'>,
): Generator<Need, CascadeOutcome, Answer> {
  const { model, rule, touched, rowsOf } = input;
  const { type, field } = rule.writes;
  const reader = new RouteReader(model, rowsOf);
  const rows = yield* rowsOf(type, recipients.keys());
  const there = [...rows.values()].filter((row) => !row.deleted);
  yield* reader.load(there, rule.condition ? fieldsRead(rule.condition) : []);
  // Few cascade to many.
  const sources = new Set<Row>();
  for (const pairs of recipients.values())
    for (const { source, before, former } of pairs) {
      sources.add(source).add(before);
      if (former) sources.add(former);
    }
  yield* reader.load([...sources], readOnSource(rule));
  const bridges = [...recipients.values()].flatMap((pairs) => pairs.flatMap(({ via }) => via ?? []));
  yield* reader.load(bridges, readOnVia(rule));
  const bySource = {
    given: ({ source }: CascadeSource, field: TypedField) => reader.read(source, field),
    idOf: ({ source }: CascadeSource) => source.id,
  };
  const changed: WorkedOut[] = [];
  const causes = new Map<string, readonly CellRef[]>();
  const overruled: Overruled[] = [];
  const outside: string[] = [];
  let failed: string | null = null;
  for (const row of there) {
    const found = takenBy(input, row, inOrder(valueAt(recipients, row.id), rule.order, bySource), reader);
    if (found === OUTSIDE) outside.push(row.id);
    if (found === OUTSIDE || found === null) continue;
    if (found === 'failed') {
      failed = firstFailed(failed, row.id);
      continue;
    }
    for (const value of found.others)
      overruled.push({ ...rule.writes, id: row.id, rule: rule.id, value, by: rule.id });
    const before = storedOutcome(row, field);
    const cell = { ...rule.writes, id: row.id };
    const isTaken = writePrecedence.isTaken(cell, rule);
    if (sameOutcome(before, found.outcome)) {
      if (!isTaken) writePrecedence.writes(rule, row.id);
      continue;
    }
    if (isTaken) {
      overruled.push(writePrecedence.overruledBy(rule, cell, found.outcome.value));
      continue;
    }
    const entry = touched.get(recordKey(row));
    const isMade = entry !== undefined && !isThere(entry.before);
    if (rule.moment.kind === 'atCreation' && !isMade && !mayOverwrite(input, row, found.pair, reader))
      continue;
    writePrecedence.writes(rule, row.id);
    changed.push({ rule, id: row.id, before, after: found.outcome, accumulator: null });
    causes.set(row.id, found.pair.causes);
  }
  return { changed, causes, overruled, outside, failed };
}

interface Taken {
  readonly pair: CascadeSource;
  readonly outcome: { readonly value: Value };
  /** What others would have given, where that is something else. */
  readonly others: readonly Value[];
}

/** What a record takes, from the first that cascades something to it; `null` where none does. */
function takenBy(
  { rule, facts }: Pick<CascadeInput, 'rule' | 'facts'>,
  row: Row,
  pairs: readonly CascadeSource[],
  reader: RouteReader,
): Taken | 'failed' | null | Outside {
  const meets = verdictOf(rule.condition, row, reader);
  if (meets === OUTSIDE) return OUTSIDE;
  if (meets instanceof Failure) return 'failed';
  if (!meets) return null;
  let first: Omit<Taken, 'others'> | null = null;
  const others: Value[] = [];
  for (const pair of pairs) {
    if (!haveSame(rule.same, pair.source, row)) continue;
    const given = verdictOf(rule.given, pair.source, reader);
    if (given === OUTSIDE) return OUTSIDE;
    if (given instanceof Failure) return 'failed';
    if (!given || !isWanted({ rule, facts }, row, pair, reader)) continue;
    const outcome = assignedOutcome(rule, assigningOf(rule, pair, facts), reader.read);
    if (outcome === OUTSIDE) return OUTSIDE;
    if (isError(outcome)) return 'failed';
    // Of its siblings the first that has something cascades it.
    if (rule.moment.kind === 'atCreation' && rule.moment.isBeside && outcome.value === null) continue;
    if (!first) first = { pair, outcome };
    else if (rule.moment.kind === 'onChange' && !sameValue(first.outcome.value, outcome.value))
      others.push(outcome.value);
  }
  return first && { ...first, others };
}

/** Of those on change: all, only where it is empty, or only where it still holds what it would have been given before. */
function isWanted(
  { rule, facts }: Pick<CascadeInput, 'rule' | 'facts'>,
  row: Row,
  pair: CascadeSource,
  reader: RouteReader,
): boolean {
  if (rule.moment.kind === 'atCreation' || rule.only === 'all') return true;
  const stands = storedOutcome(row, rule.writes.field);
  if (rule.only === 'empty') return !isError(stands) && stands.value === null;
  const was = assignedOutcome(rule, assigningOf(rule, { ...pair, source: pair.before }, facts), reader.read);
  return was !== OUTSIDE && sameOutcome(stands, was);
}

/** Whether what was attached or moved may be overwritten: it is empty, or as what the record hung under before gave it. */
function mayOverwrite(
  { rule, facts }: Pick<CascadeInput, 'rule' | 'facts'>,
  row: Row,
  { former }: CascadeSource,
  reader: RouteReader,
): boolean {
  const stands = storedOutcome(row, rule.writes.field);
  if (!isError(stands) && stands.value === null) return true;
  if (!former) return false;
  const given = verdictOf(rule.given, former, reader);
  const was =
    given === true ? assignedOutcome(rule, { now: former, before: former, facts }, reader.read) : null;
  return was !== null && was !== OUTSIDE && sameOutcome(stands, was);
}

/**
 * The records that take values in a run, with those that cascade to each, and those whose turn it is (`acting`); or, of so many, only those that
 * cascade (`many`).
 */
export function* recipientsOf(
  input: CascadeInput,
): Generator<
  Need,
  | { readonly recipients: Recipients; readonly acting: Iterable<string> }
  | { readonly many: ReadonlyMap<string, CascadeSource> },
  Answer
> {
  const { rule, acted } = input;
  const { moment } = rule;
  if (moment.kind === 'onChange') {
    const pairs = yield* firedIn(input);
    const recipients = yield* followingOf(input, pairs);
    return recipients ? { recipients, acting: pairs.keys() } : { many: pairs };
  }
  const found = moment.isBeside
    ? yield* besideOf(input, firstIn(moment.up))
    : yield* startingOf(input, moment.up);
  const recipients = acted ? new Map([...found].filter(([id]) => !acted.has(id))) : found;
  return { recipients, acting: recipients.keys() };
}
