import {
  evaluatorOf,
  Failure,
  fieldsRead,
  inRun,
  OUTSIDE,
  type Outside,
  type RunContext,
  type Typed,
  type TypedField,
} from '@/core/expression';
import { type Model, type Step, typeUp } from '@/core/model';
import { type ReactingCascade, type FieldRef, assignedOutcome } from '@/core/rules';
import {
  certain,
  compareText,
  compareValues,
  type ErrorCode,
  firstIn,
  isError,
  itemAt,
  sameValue,
  type Value,
  valueAt,
} from '@/core/values';
import { causesInOrder, isThere, type Touched } from '@/core/engine/reach/affected';
import {
  ask,
  type Answer,
  type Answers,
  type AssignedOnce,
  type BulkAssignment,
  type Need,
  rowSet,
  type WorkedOut,
} from '@/core/engine/driver/need';
import {
  type CellRef,
  recordKey,
  type RecordRef,
  type Row,
  sameOutcome,
  storedOutcome,
} from '@/core/engine/driver/record';
import type { WritePrecedence } from '@/core/engine/run/write-precedence';
import type { Overruled } from '@/core/engine/run/ripple';
import { type RowsOf, RouteReader } from '@/core/engine/reach/route-reader';

export interface CascadeInput {
  readonly model: Model;
  readonly rule: ReactingCascade;
  /** What the run has touched so far, by `recordKey`. */
  readonly touched: ReadonlyMap<string, Touched>;
  readonly rowsOf: RowsOf;
  /** Who makes the run's change, and when. */
  readonly facts: RunContext | null;
  /** Ids of records that have had their turn in this run: of those on change that cascade, of those at creation that take. */
  readonly acted?: ReadonlySet<string>;
}

/** A record that hands its values on to another in a run, and what that follows from. */
export interface CascadeSource {
  readonly source: Row;
  /** As the source was before the run; itself where it was just made. */
  readonly before: Row;
  /** As what the target hung under before gave it; `null` where there was none. Of a record that was attached or moved. */
  readonly former?: Row | null;
  readonly causes: readonly CellRef[];
}

/** By the id of the record that takes the values. */
export type Recipients = ReadonlyMap<string, readonly CascadeSource[]>;

export interface CascadeOutcome {
  readonly changed: readonly WorkedOut[];
  readonly causes: ReadonlyMap<string, readonly CellRef[]>;
  readonly overruled: readonly Overruled[];
  /** Targets of which not all that is read is loaded. */
  readonly outside: readonly string[];
  /** The first record on which it couldn't be told what to do. */
  readonly failed: { readonly id: string; readonly error: ErrorCode } | null;
}

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
  const changed: WorkedOut[] = [];
  const causes = new Map<string, readonly CellRef[]>();
  const overruled: Overruled[] = [];
  const outside: string[] = [];
  for (const row of there) {
    const found = takenBy(input, row, inOrder(rule, valueAt(recipients, row.id), reader), reader);
    if (found === OUTSIDE) outside.push(row.id);
    if (found === OUTSIDE || found === null) continue;
    if ('error' in found)
      return { changed, causes, overruled, outside, failed: { id: row.id, error: found.error } };
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
  return { changed, causes, overruled, outside, failed: null };
}

interface Taken {
  readonly pair: CascadeSource;
  readonly outcome: { readonly value: Value };
  /** What others would have given, where that is something else. */
  readonly others: readonly Value[];
}

/** What a record takes, from the first that hands something on to it; `null` where none does. */
function takenBy(
  { rule, facts }: Pick<CascadeInput, 'rule' | 'facts'>,
  row: Row,
  pairs: readonly CascadeSource[],
  reader: RouteReader,
): Taken | { readonly error: ErrorCode } | null | Outside {
  const meets = verdictOf(rule.condition, row, reader);
  if (meets === OUTSIDE) return OUTSIDE;
  if (meets instanceof Failure) return { error: meets.code };
  if (!meets) return null;
  let first: Omit<Taken, 'others'> | null = null;
  const others: Value[] = [];
  for (const pair of pairs) {
    if (!rule.same.every(({ key }) => isSame(pair.source.values[key], row.values[key]))) continue;
    const given = verdictOf(rule.given, pair.source, reader);
    if (given === OUTSIDE) return OUTSIDE;
    if (given instanceof Failure) return { error: given.code };
    if (!given || !isWanted({ rule, facts }, row, pair, reader)) continue;
    const outcome = assignedOutcome(rule, { now: pair.source, before: pair.before, facts }, reader.read);
    if (outcome === OUTSIDE) return OUTSIDE;
    if (isError(outcome)) return outcome;
    // Of its siblings the first that has something hands it on.
    if (rule.moment.kind === 'atCreation' && rule.moment.isBeside && outcome.value === null) continue;
    if (!first) first = { pair, outcome };
    else if (rule.moment.kind === 'onChange' && !sameValue(first.outcome.value, outcome.value))
      others.push(outcome.value);
  }
  return first && { ...first, others };
}

const isSame = (a: Value | undefined, b: Value | undefined): boolean =>
  a !== undefined && a !== null && b !== undefined && b !== null && sameValue(a, b);

/** Of those on change: all, only where it is empty, or only where it still holds what it would have been given before. */
function isWanted(
  { rule, facts }: Pick<CascadeInput, 'rule' | 'facts'>,
  row: Row,
  { before }: CascadeSource,
  reader: RouteReader,
): boolean {
  if (rule.moment.kind === 'atCreation' || rule.only === 'all') return true;
  const stands = storedOutcome(row, rule.writes.field);
  if (rule.only === 'empty') return !isError(stands) && stands.value === null;
  const was = assignedOutcome(rule, { now: before, before, facts }, reader.read);
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

const verdictOf = (node: Typed | null, row: Row, reader: RouteReader) =>
  node === null ? true : (evaluatorOf(node)(row, reader.read) as boolean | Outside | Failure);

/** Fields that are read on the records that cascade. */
function readOnSource({ value, given, order, moment }: ReactingCascade): TypedField[] {
  const parts =
    value.kind === 'worked' ? [value.value] : value.parts.filter((part) => typeof part !== 'string');
  const where = moment.kind === 'onChange' ? moment.where : null;
  return [...parts, given, order?.field ?? null, where].flatMap((node) => (node ? fieldsRead(node) : []));
}

/** By the rule's order, what has none of it last; where that is the same, by their ids. */
function inOrder(
  { order }: ReactingCascade,
  pairs: readonly CascadeSource[],
  reader: RouteReader,
): readonly CascadeSource[] {
  if (pairs.length < 2) return pairs;
  const keyOf = ({ source }: CascadeSource): Value => {
    const key = order?.field ? reader.read(source, order.field) : null;
    return key === OUTSIDE || key instanceof Failure ? null : key;
  };
  return [...pairs].sort((a, b) => {
    const [one, other] = [keyOf(a), keyOf(b)];
    const apart =
      one === null || other === null
        ? Number(one === null) - Number(other === null)
        : compareValues(certain(order?.field).type, one, other) * (order?.isLast ? -1 : 1);
    // Ids go by the time of making.
    const made = compareText(a.source.id, b.source.id);
    return apart || (order && !order.field && order.isLast ? -made : made);
  });
}

/**
 * The records that take values in a run, with those that cascade to each, and those whose turn it is (`acting`); or, of so many, only those that
 * cascade (`many`).
 */
export function* recipientsOf(
  input: CascadeInput,
  isRestored: (row: Row) => boolean,
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
    ? yield* besideOf(input, firstIn(moment.up), isRestored)
    : yield* startingOf(input, moment.up, isRestored);
  const recipients = acted ? new Map([...found].filter(([id]) => !acted.has(id))) : found;
  return { recipients, acting: recipients.keys() };
}

/** Whether what made a record cascade still holds of what the run did to it. */
export const stillFires = ({ moment }: ReactingCascade, entry: Touched | undefined): boolean =>
  moment.kind !== 'onChange' || (entry !== undefined && firedBy(moment, entry).length > 0);

type CompiledOnChange = Extract<ReactingCascade['moment'], { kind: 'onChange' }>;

/** On change: the records that changed so, each with what it follows from. */
function* firedIn({
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

/** Most records beneath that take something one by one; more are written as a set. */
export const MOST_BY_ROW = 1_000;

/** Whether what a rule cascades can be written as a set: it goes to all beneath, each of which has one that cascades. */
const goesToMany = ({ moment, route, isAllTheWay, same, target }: ReactingCascade): boolean =>
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
  for (const [id, { source, before, causes }] of pairs) {
    const isGiven = verdictOf(rule.given, source, reader);
    if (isGiven instanceof Failure) return { failed: id };
    const now = assignedOutcome(rule, { now: source, before, facts }, reader.read);
    const was = assignedOutcome(rule, { now: before, before, facts }, reader.read);
    if (isGiven === true && now !== OUTSIDE && isError(now)) return { failed: id };
    const isKnown = isGiven === true && now !== OUTSIDE && !isError(now);
    const old = was === OUTSIDE || isError(was) ? null : was.value;
    given.set(id, isKnown ? { value: now.value, was: old, causes } : null);
  }
  return given;
}

/** On change: from each record that changed so, along the rule's route; `null` where so many are reached that they are written as a set. */
function* followingOf(
  { model, rule, rowsOf }: CascadeInput,
  pairs: ReadonlyMap<string, CascadeSource>,
): Generator<Need, Recipients | null, Answer> {
  const most = goesToMany(rule) ? MOST_BY_ROW : null;
  const reached = yield* alongUpTo(model, rule, pairs.keys(), { rowsOf, most });
  if (!reached) return null;
  const isSibling =
    rule.route.length === 2 &&
    firstIn(rule.route).direction === 'up' &&
    itemAt(rule.route, 1).direction === 'down';
  const recipients = new Map<string, CascadeSource[]>();
  for (const [target, sources] of reached) {
    const from = [...sources].filter((id) => !isSibling || id !== target);
    if (from.length > 0)
      recipients.set(
        target,
        from.map((id) => valueAt(pairs, id)),
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

type CascadeRoute = Pick<ReactingCascade, 'source' | 'route'> & Partial<Pick<ReactingCascade, 'isAllTheWay'>>;

/** From records along a route: by what lies at its end, from which of them it was reached. */
export function* walkRoute(
  model: Model,
  rule: CascadeRoute,
  sources: Iterable<string>,
  rowsOf: RowsOf,
): Generator<Need, Map<string, Set<string>>, Answer> {
  return certain(yield* alongUpTo(model, rule, sources, { rowsOf, most: null }));
}

interface UpTo {
  readonly rowsOf: RowsOf;
  /** More than so many aren't wanted one by one; `null` for all. */
  readonly most: number | null;
}

/** The same, or `null` where more are reached than are wanted. */
function* alongUpTo(
  model: Model,
  rule: CascadeRoute,
  sources: Iterable<string>,
  { rowsOf, most }: UpTo,
): Generator<Need, Map<string, Set<string>> | null, Answer> {
  if (rule.isAllTheWay) return yield* allBeneath(rule, sources);
  let reached = new Map<string, Set<string>>([...sources].map((id) => [id, new Set([id])]));
  let type = rule.source;
  for (const step of rule.route) {
    if (reached.size === 0) break;
    const next = new Map<string, Set<string>>();
    const add = (to: string, from: string) => {
      const known = next.get(to) ?? new Set<string>();
      for (const id of valueAt(reached, from)) known.add(id);
      next.set(to, known);
    };
    if (step.direction === 'down') {
      const parents = rowSet(type, reached.keys());
      const link = { type: step.type, link: step.link };
      const found: Answers['related'] = yield* ask<'related'>({
        ...{ kind: 'related', parents, link },
        ...(most === null ? {} : { most }),
      });
      if (found.isMore) return null;
      for (const [child, parent] of found.parentOf) add(child, parent);
      type = step.type;
    } else {
      for (const row of (yield* rowsOf(type, reached.keys())).values()) {
        const to = row.values[step.link];
        if (!row.deleted && typeof to === 'string') add(to, row.id);
      }
      type = typeUp(model, type, [step.link]);
    }
    reached = next;
  }
  return reached;
}

/** All that lies beneath over a self link, level by level, each reached from the nearest above it. */
function* allBeneath(
  { source: type, route }: CascadeRoute,
  sources: Iterable<string>,
): Generator<Need, Map<string, Set<string>>, Answer> {
  const step = firstIn(route);
  const from = new Map([...sources].map((id) => [id, id]));
  const reached = new Map<string, Set<string>>();
  for (let level = new Map(from); level.size > 0;) {
    const parents = rowSet(type, level.keys());
    const { parentOf }: Answers['related'] = yield* ask<'related'>({
      ...{ kind: 'related', parents, link: { type, link: step.link } },
    });
    const next = new Map<string, string>();
    for (const [child, parent] of parentOf) {
      if (reached.has(child)) continue;
      reached.set(child, new Set([valueAt(level, parent)]));
      if (!from.has(child)) next.set(child, valueAt(level, parent));
    }
    level = next;
  }
  return reached;
}

/** At creation: what was made, attached or moved in the run, under the record that it hangs under now. */
function* startingOf(
  { model, rule, touched, rowsOf }: CascadeInput,
  up: readonly string[],
  isRestored: (row: Row) => boolean,
): Generator<Need, Recipients, Answer> {
  const { type } = rule.writes;
  const causes = new Map<string, CellRef[]>();
  /** What each hung under before, as far up as it was moved. */
  const formers: Climber[] = [];
  const note = (id: string, cause: CellRef) => void causes.set(id, [...(causes.get(id) ?? []), cause]);
  for (const entry of touched.values()) {
    const { id, before, after } = entry;
    if (!isThere(after) || isRestored(after)) continue;
    if (!isThere(before)) {
      if (entry.type === type) note(id, { type, id, field: '' });
      continue;
    }
    for (const [at, link] of up.entries()) {
      if (typeAt(model, type, up, at) !== entry.type) continue;
      const former = before.values[link] ?? null;
      if (sameValue(former, after.values[link] ?? null)) continue;
      for (const recipient of yield* walkDown(model, type, up.slice(0, at), id, rowsOf)) {
        note(recipient, { type: entry.type, id, field: link });
        formers.push({ recipient, at: at + 1, id: former });
      }
    }
  }
  const here = [...causes.keys()].map((recipient): Climber => ({ recipient, at: 0, id: recipient }));
  const sources = yield* walkUp(model, { type, up }, here, rowsOf);
  const were = yield* walkUp(model, { type, up }, formers, rowsOf);
  const recipients = new Map<string, CascadeSource[]>();
  for (const [id, because] of causes) {
    const source = sources.get(id);
    if (!source) continue;
    const former = were.get(id) ?? null;
    recipients.set(id, [{ source, before: source, former, causes: causesInOrder(because) }]);
  }
  return recipients;
}

/** At creation from siblings: those that were there before the run, of what was made, attached or moved. */
function* besideOf(
  { model, rule, touched, rowsOf }: Omit<CascadeInput, 'facts'>,
  link: string,
  isRestored: (row: Row) => boolean,
): Generator<Need, Recipients, Answer> {
  const { type } = rule.writes;
  const causes = new Map<string, CellRef[]>();
  const under = new Map<string, string[]>();
  for (const { type: of, id, before, after } of touched.values()) {
    if (of !== type || !isThere(after) || isRestored(after)) continue;
    const parent = after.values[link];
    const isMade = !isThere(before);
    if (typeof parent !== 'string' || (!isMade && sameValue(before.values[link] ?? null, parent))) continue;
    causes.set(id, [{ type, id, field: isMade ? '' : link }]);
    under.set(parent, [...(under.get(parent) ?? []), id]);
  }
  if (under.size === 0) return new Map();
  const parents = rowSet(typeUp(model, type, [link]), under.keys());
  const { parentOf }: Answers['related'] = yield* ask<'related'>({
    kind: 'related',
    parents,
    link: { type, link },
  });
  const wasThere = (id: string) => {
    const entry = touched.get(recordKey({ type, id }));
    return !entry || (isThere(entry.before) && !causes.has(id));
  };
  const rows = yield* rowsOf(type, [...parentOf.keys()].filter(wasThere));
  const recipients = new Map<string, CascadeSource[]>();
  for (const row of rows.values())
    for (const id of under.get(valueAt(parentOf, row.id)) ?? [])
      recipients.set(id, [
        ...(recipients.get(id) ?? []),
        { source: row, before: row, former: null, causes: valueAt(causes, id) },
      ]);
  return recipients;
}

const typeAt = (model: Model, type: string, up: readonly string[], index: number): string =>
  typeUp(model, type, up.slice(0, index));

/** The records from which a way up leads to one. */
function* walkDown(
  model: Model,
  type: string,
  up: readonly string[],
  id: string,
  rowsOf: RowsOf,
): Generator<Need, Iterable<string>, Answer> {
  if (up.length === 0) return [id];
  const steps = up.map((link, at): Step => ({ direction: 'down', type: typeAt(model, type, up, at), link }));
  const route = steps.reverse();
  return (yield* walkRoute(model, { source: typeUp(model, type, up), route }, [id], rowsOf)).keys();
}

/** On its way up from a record that takes something: how many links lie behind, and where it is. */
interface Climber {
  readonly recipient: string;
  readonly at: number;
  readonly id: Value;
}

/** The records at the end of a way up, all of a step at once; none where a link is empty or a record on the way is in the bin. */
function* walkUp(
  model: Model,
  { type, up }: { readonly type: string; readonly up: readonly string[] },
  walkers: readonly Climber[],
  rowsOf: RowsOf,
): Generator<Need, Map<string, Row>, Answer> {
  let at = [...walkers];
  const found = new Map<string, Row>();
  for (let step = 0; step <= up.length; step += 1) {
    const now = at.filter((one) => one.at === step && typeof one.id === 'string');
    if (now.length === 0) continue;
    const rows = yield* rowsOf(
      typeAt(model, type, up, step),
      now.map(({ id }) => id as string),
    );
    const there = (one: Climber): Row | null => {
      const row = rows.get(one.id as string);
      return row && !row.deleted ? row : null;
    };
    if (step < up.length)
      at = at.map((one) =>
        one.at === step ? { ...one, at: step + 1, id: there(one)?.values[itemAt(up, step)] ?? null } : one,
      );
    else
      for (const one of now) {
        const row = there(one);
        if (row) found.set(one.recipient, row);
      }
  }
  return found;
}

/** What a rule that acts on changes may read and write in a run, for taking locks. */
export interface ClaimsOfCascade {
  readonly recipients: readonly string[];
  /** Records whose fields it relies on, at the ends of the ways up that it reads. */
  readonly read: readonly RecordRef[];
  /** So many beneath these may take something that they aren't told one by one; `null` where they are. */
  readonly manyOf: readonly string[] | null;
}

/** More than is cascaded in the end, never less, as long as links stay: each field that a touched record names is taken as changed. */
export function* claimsOfCascade({
  model,
  rule,
  touched,
  rowsOf,
}: Omit<CascadeInput, 'facts'>): Generator<Need, ClaimsOfCascade, Answer> {
  const { type } = rule.writes;
  const watched = watchedBy(model, rule);
  const starts = [...touched.values()].filter(
    (entry) =>
      isThere(entry.after) &&
      watched.some(
        (ref) => ref.type === entry.type && (!isThere(entry.before) || entry.fields.has(ref.field)),
      ),
  );
  const read = new Map<string, RecordRef>();
  const note = (ref: RecordRef) => void read.set(recordKey(ref), { type: ref.type, id: ref.id });
  const recipients = new Set<string>();
  const sources: Row[] = [];
  if (rule.moment.kind === 'onChange') {
    const ids = starts.map(({ id }) => id);
    const most = goesToMany(rule) ? MOST_BY_ROW : null;
    const reached = yield* alongUpTo(model, rule, ids, { rowsOf, most });
    if (!reached) return { recipients: [], read: [], manyOf: ids };
    for (const id of reached.keys()) recipients.add(id);
    for (const { after } of starts) sources.push(certain(after));
  } else if (rule.moment.isBeside) {
    for (const entry of starts) recipients.add(entry.id);
    const found = yield* besideOf(
      { model, rule, touched: asMoved(starts), rowsOf },
      firstIn(rule.moment.up),
      () => false,
    );
    for (const pairs of found.values()) for (const { source } of pairs) sources.push(source);
  } else {
    const { up } = rule.moment;
    for (const { type: of, id } of starts)
      for (const at of [0, ...up.keys()])
        if (typeAt(model, type, up, at) === of)
          for (const recipient of yield* walkDown(model, type, up.slice(0, at), id, rowsOf))
            recipients.add(recipient);
    const walkers = [...recipients].map((recipient): Climber => ({ recipient, at: 0, id: recipient }));
    for (const { before } of starts)
      for (const [at, link] of up.entries())
        if (before && typeAt(model, type, up, at) === before.type)
          walkers.push({ recipient: `was ${before.id}`, at: at + 1, id: before.values[link] ?? null });
    sources.push(...(yield* walkUp(model, { type, up }, walkers, rowsOf)).values());
  }
  sources.forEach(note);
  const reader = new RouteReader(model, rowsOf, undefined, note);
  yield* reader.load(sources, readOnSource(rule));
  const above = rule.condition ? fieldsRead(rule.condition).filter(({ route }) => route.length > 0) : [];
  if (above.length > 0) yield* reader.load([...(yield* rowsOf(type, recipients)).values()], above);
  return { recipients: [...recipients], read: [...read.values()], manyOf: null };
}

/** Records as if each was made in the run. */
const asMoved = (entries: readonly Touched[]): Map<string, Touched> =>
  new Map(entries.map((entry) => [recordKey(entry), { ...entry, before: null }]));

/** Fields whose change may make a rule act. */
function watchedBy(model: Model, { moment, source, writes }: ReactingCascade): FieldRef[] {
  if (moment.kind === 'onChange')
    return moment.tests.map(({ field }) => ({ type: source, field: field.key }));
  return moment.up.map((link, at) => ({ type: typeAt(model, writes.type, moment.up, at), field: link }));
}
