import { valueAt, firstIn } from '@/core/values';
import { OUTSIDE } from '@/core/expression';
import { grouped } from '@/core/grouped';
import {
  type Accumulator,
  aggregate,
  type CompiledRollUp,
  type CompiledRule,
  type CompiledSource,
  isKeptByDifference,
  isKeptByExtremum,
  NOTHING,
  extremumAfter,
  outcomeFrom,
  contributionOf,
  withContribution,
} from '@/core/rules';
import { type Affected, isThere } from '@/core/engine/reach/affected';
import type { Touched } from '@/core/engine/driver/record';
import { ask, type Answer, type Answers, type Need, rowSet, type WorkedOut } from '@/core/engine/driver/need';
import { OWN_FIELDS, recordKey, type Row, sameOutcome, storedOutcome } from '@/core/engine/driver/record';

/** A target that the touched children alone settle; `worked` is null where nothing changes. */
export interface IncrementalUpdate {
  readonly id: string;
  readonly worked: WorkedOut | null;
}

export interface IncrementalInput {
  readonly rule: CompiledRule;
  readonly affected: Affected;
  /** What the run has touched so far, by `recordKey`. */
  readonly touched: ReadonlyMap<string, Touched>;
  /** Records as they stand now in the run. */
  readonly rowsOf: (type: string, ids: Iterable<string>) => Generator<Need, Map<string, Row>, Answer>;
}

/**
 * The targets of a rule that what is kept beside them settles, also those where nothing changes. The others are worked out again from all
 * their children: where nothing is known, where more than children changed, where the one that led leads no more.
 */
export function* updateIncrementally(input: IncrementalInput): Generator<Need, IncrementalUpdate[], Answer> {
  const { rule, affected, touched } = input;
  if (rule.kind !== 'rollUp') return [];
  const targets = [...affected.targets.keys()];
  const ids = targets.filter((id) => !affected.whole.has(id));
  if (isKeptByDifference(rule)) {
    const isMade = (id: string) => touched.get(recordKey({ type: rule.writes.type, id }))?.before === null;
    // What a record gives of its own is brought together as well.
    return yield* byDifference(rule, ids, rule.own.adds ? [] : targets.filter(isMade), input);
  }
  if (ids.length === 0) return [];
  return isKeptByExtremum(rule) ? yield* byLeader(rule, ids, input) : [];
}

/** Brings the differences of touched children into what is kept beside their parents; what is made in the run has no others. */
function* byDifference(
  rule: CompiledRollUp,
  ids: readonly string[],
  made: readonly string[],
  { touched, rowsOf }: IncrementalInput,
): Generator<Need, IncrementalUpdate[], Answer> {
  const { type, field } = rule.writes;
  const known = new Map<string, Accumulator>(made.map((id) => [id, NOTHING]));
  if (ids.length > 0) {
    const stored: Answers['accumulators'] = yield* ask<'accumulators'>({
      ...{ kind: 'accumulators', rule },
      targets: rowSet(type, ids),
    });
    for (const [id, accumulator] of stored) known.set(id, accumulator);
  }
  if (known.size === 0) return [];
  const now = differences(rule, known, touched);
  const isMade = new Set(made);
  const rows = yield* rowsOf(type, known.keys());
  return [...known].flatMap(([id, kept]): IncrementalUpdate[] => {
    const row = rows.get(id);
    const accumulator = valueAt(now, id);
    if (!row) return [];
    if (accumulator === kept && !isMade.has(id)) return [{ id, worked: null }];
    const before = storedOutcome(row, field);
    const after = outcomeFrom(rule, accumulator, { at: row, reader: OWN_FIELDS });
    return after === OUTSIDE ? [] : [{ id, worked: { rule, id, before, after, accumulator } }];
  });
}

/** What is kept beside each parent, with its touched children as they were taken out and as they are brought in. */
function differences(
  rule: CompiledRollUp,
  known: ReadonlyMap<string, Accumulator>,
  touched: ReadonlyMap<string, Touched>,
): Map<string, Accumulator> {
  const now = new Map(known);
  const bring = (source: CompiledSource, row: Touched['before'], sign: 1 | -1) => {
    if (!isThere(row)) return;
    const parent = row.values[firstIn(source.route).link];
    const into = typeof parent === 'string' ? now.get(parent) : undefined;
    if (into)
      now.set(parent as string, withContribution(into, contributionOf(rule, source, row, OWN_FIELDS), sign));
  };
  for (const source of rule.sources) {
    for (const entry of touched.values()) {
      if (entry.type !== source.type) continue;
      bring(source, entry.before, -1);
      bring(source, entry.after, 1);
    }
  }
  for (const [id, before] of known) {
    const { count, sum, errors } = valueAt(now, id);
    if (count === before.count && errors === before.errors && sum.equals(before.sum)) now.set(id, before);
  }
  return now;
}

/** Compares touched children with the one that leads. */
function* byLeader(
  rule: CompiledRollUp,
  ids: readonly string[],
  { touched, rowsOf }: IncrementalInput,
): Generator<Need, IncrementalUpdate[], Answer> {
  const { type, field } = rule.writes;
  const known: Answers['leaders'] = yield* ask<'leaders'>({
    ...{ kind: 'leaders', rule },
    targets: rowSet(type, ids),
  });
  if (known.size === 0) return [];
  const source = firstIn(rule.sources);
  const { link } = firstIn(source.route);
  const members = (rows: readonly Row[]) => ({ source, rows, reader: OWN_FIELDS });
  const children = [...touched.values()].flatMap(({ type: of, after }) =>
    of === source.type && isThere(after) ? [after] : [],
  );
  const touchedOf = grouped(children, ({ values }) => String(values[link]));
  const leaders = yield* rowsOf(source.type, known.values());
  const rows = yield* rowsOf(type, known.keys());
  return [...known].flatMap(([id, leader]): IncrementalUpdate[] => {
    const entry = touched.get(recordKey({ type: source.type, id: leader }));
    const [was, row] = [entry ? entry.before : leaders.get(leader), rows.get(id)];
    if (!was || !row || was.values[link] !== id) return [];
    const now = touchedOf.get(id) ?? [];
    const found = extremumAfter(rule, members([was]), members(now), entry !== undefined);
    if (!found) return [];
    const leading = now.find((one) => one.id === found.id) ?? was;
    const brought = aggregate(rule, [members([leading])], { at: row, reader: OWN_FIELDS });
    if (brought === OUTSIDE) return [];
    const [before, after] = [storedOutcome(row, field), brought.outcome];
    if (found.id === leader && sameOutcome(before, after)) return [{ id, worked: null }];
    return [{ id, worked: { rule, id, before, after, accumulator: null, leader: found.id } }];
  });
}
