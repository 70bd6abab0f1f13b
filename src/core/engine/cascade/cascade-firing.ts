import { Failure, fieldsRead, inRun, OUTSIDE } from '@/core/expression';
import { type ReactingCascade, assignedOutcome } from '@/core/rules';
import { certain, compareValues, firstIn, isError, itemAt, sameValue, valueAt } from '@/core/values';
import { isThere } from '@/core/engine/reach/affected';
import type { Touched } from '@/core/engine/driver/record';
import { type Answer, type AssignedOnce, type BulkAssignment, type Need } from '@/core/engine/driver/need';
import { type CellRef, type Row } from '@/core/engine/driver/record';
import { RouteReader } from '@/core/engine/reach/route-reader';
import { firstFailed } from '@/core/engine/edits/write-precedence';
import { BOUNDS } from '@/core/engine/reach/bounds';
import { acrossWhich, alongUpTo } from './cascade-reach';
import type { Recipients } from './cascade-input';
import { verdictOf } from './cascade-input';
import { readOnSource } from './cascade-input';
import type { CascadeSource } from './cascade-input';
import type { CascadeInput } from './cascade-input';

/** Whether what made a record cascade still holds of what the run did to it. */
export const stillFires = ({ moment }: ReactingCascade, entry: Touched | undefined): boolean =>
  moment.kind !== 'onChange' || (entry !== undefined && firedBy(moment, entry).length > 0);

type CompiledOnChange = Extract<ReactingCascade['moment'], { kind: 'onChange' }>;

/** On change: the records that changed so, each with what it follows from. */
export function* firedIn({
  model,
  rule,
  touched,
  rowsOf,
  facts,
  acted,
}: CascadeInput): Generator<Need, Map<string, CascadeSource>, Answer> {
  const moment = rule.moment as CompiledOnChange;
  const reader = new RouteReader(model, rowsOf);
  const fired = [...touched.values()].flatMap((entry) => {
    const isItsTurn = entry.type === rule.source && acted?.has(entry.id) !== true;
    const causes = isItsTurn ? firedBy(moment, entry) : [];
    return causes.length > 0 ? [{ entry, causes }] : [];
  });
  const where = moment.where && inRun(moment.where, facts);
  if (where)
    yield* reader.load(
      fired.map(({ entry }) => certain(entry.after)),
      fieldsRead(where),
    );
  return new Map(
    fired
      .filter(({ entry }) => verdictOf(where, certain(entry.after), reader) === true)
      .map(({ entry, causes }): [string, CascadeSource] => {
        const { before, after } = entry;
        const source = certain(after);
        return [entry.id, { source, before: isThere(before) ? before : source, causes }];
      }),
  );
}

/** Whether what a rule cascades can be written as a set: it goes to all beneath, each of which has one that cascades. */
export const goesToMany = ({ moment, route, isAllTheWay, same, target }: ReactingCascade): boolean =>
  moment.kind === 'onChange' &&
  !isAllTheWay &&
  route.length > 0 &&
  same.length === 0 &&
  target.type.kind !== 'anyMoney' &&
  route.every(({ direction }) => direction === 'down');

/** What records cascade to all beneath them, by one part of a rule. */
export function* bulkAssignment(
  { model, rule, rowsOf, facts }: CascadeInput,
  pairs: ReadonlyMap<string, CascadeSource>,
): Generator<Need, BulkAssignment['given'] | { readonly failed: string }, Answer> {
  const reader = new RouteReader(model, rowsOf);
  yield* reader.load(
    [...pairs.values()].flatMap(({ source, before }) => [source, before]),
    readOnSource(rule),
  );
  const given = new Map<string, AssignedOnce | null>();
  let failed: string | null = null;
  for (const [id, { source, before, causes }] of pairs) {
    const isGiven = verdictOf(rule.given, source, reader);
    const now = assignedOutcome(rule, { now: source, before, facts }, reader.read);
    const was = assignedOutcome(rule, { now: before, before, facts }, reader.read);
    if (isGiven instanceof Failure || (isGiven === true && now !== OUTSIDE && isError(now)))
      failed = firstFailed(failed, id);
    const isKnown = isGiven === true && now !== OUTSIDE && !isError(now);
    const old = was === OUTSIDE || isError(was) ? null : was.value;
    given.set(id, isKnown ? { value: now.value, was: old, causes } : null);
  }
  return failed === null ? given : { failed };
}

/** On change: from each record that changed so, along the rule's route; `null` where so many are reached that they are written as a set. */
export function* followingOf(
  { model, rule, rowsOf, mostByRow = BOUNDS.mostByRow, isLeavingMany = false }: CascadeInput,
  pairs: ReadonlyMap<string, CascadeSource>,
): Generator<Need, Recipients | null, Answer> {
  const most = goesToMany(rule) ? mostByRow : null;
  const across = rule.via === null ? null : yield* acrossWhich(model, rule, pairs.keys(), rowsOf);
  const reached = across ?? (yield* alongUpTo(model, rule, pairs.keys(), { rowsOf, most }));
  if (!reached || (isLeavingMany && mostByRow !== null && reached.size > mostByRow)) return null;
  return recipientsFrom(rule, pairs, reached, across);
}

/** Records that take something, by those that cascade to each; none takes anything from itself. */
export function recipientsFrom(
  { route }: Pick<ReactingCascade, 'route'>,
  pairs: ReadonlyMap<string, CascadeSource>,
  reached: ReadonlyMap<string, { keys(): Iterable<string> }>,
  across: ReadonlyMap<string, ReadonlyMap<string, Row>> | null = null,
): Recipients {
  const isSibling =
    route.length === 2 && firstIn(route).direction === 'up' && itemAt(route, 1).direction === 'down';
  const recipients = new Map<string, CascadeSource[]>();
  for (const [target, sources] of reached) {
    const from = [...sources.keys()].filter((id) => pairs.has(id) && (!isSibling || id !== target));
    if (from.length > 0)
      recipients.set(
        target,
        from.map((id) => {
          const via = across?.get(target)?.get(id);
          return via ? { ...valueAt(pairs, id), via } : valueAt(pairs, id);
        }),
      );
  }
  return recipients;
}

/** The tests of a rule that hold on what a run did to a record: the fields that they watch, `''` for a record that was made. */
function firedBy({ tests }: CompiledOnChange, { type, id, before, after }: Touched): CellRef[] {
  if (!isThere(after)) return [];
  const was = isThere(before) ? before : null;
  const found = tests.filter((test) => {
    const key = test.field.key;
    const [had, has] = [was?.values[key] ?? null, after.values[key] ?? null];
    switch (test.kind) {
      case 'became':
        return sameValue(has, test.value) && !sameValue(had, test.value);
      case 'stoppedBeing':
        return was !== null && sameValue(had, test.value) && !sameValue(has, test.value);
      case 'changed':
        return was !== null && !sameValue(had, has);
      default: {
        if (was === null || had === null || has === null) return false;
        const order = compareValues(test.field.type, has, had);
        return test.kind === 'rose' ? order > 0 : order < 0;
      }
    }
  });
  return found.map(({ field }) => ({ type, id, field: was ? field.key : '' }));
}
