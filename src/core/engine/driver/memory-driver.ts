import { evaluatorOf, Failure, OUTSIDE, type Outside, type TypedField } from '@/core/expression';
import { type Model, type StepDown, typeUp } from '@/core/model';
import {
  type Accumulator,
  aggregate,
  type Aggregated,
  type CompiledAlone,
  type CompiledMap,
  type CompiledRollUp,
  type CompiledRule,
  FAILED,
  type Finder,
  formulaOutcome,
  isAlone,
  linkedOutcome,
  matchesOf,
  isDue,
  isReacting,
  type CompiledSource,
  type Members,
  groupableLink,
  type Reader,
  sameAccumulator,
  contributionAlone,
  writtenAt,
} from '@/core/rules';
import {
  certain,
  firstIn,
  fold,
  foundIn,
  isError,
  type Outcome,
  unreachable,
  type Value,
  valueKey,
} from '@/core/values';
import { getOrCreate } from './columns';
import type { RecordStore } from './memory-store';
import { type Answer, type Answers, type Need, rowSet, type Work, type WorkedOut, type Write } from './need';
import { ColumnarRollUp } from './columnar-roll-up';
import { rateIn } from './rate-lookup';
import { emptyRow, heldIn, OWN_FIELDS, type Row, sameOutcome, storedOutcome, withChanges } from './record';

/** Answers a need from records in memory. */
export function answerInMemory(model: Model, store: RecordStore, need: Need): Answer {
  switch (need.kind) {
    case 'lock':
      return null; // a store in memory has one user at a time
    case 'records':
      return found(store, need.set.type, need.set.ids);
    case 'above':
      return above(store, need);
    case 'related':
      return related(store, need);
    case 'everything':
      return everything(store, need.type);
    case 'deletionMembers':
      return store.notes.deletionMembers(need.roots);
    case 'accumulators':
      return accumulators(store, need);
    case 'leaders':
      return NO_LEADERS; // in memory all children are gone over again
    case 'holders':
      return [...store.rows(need.type)].filter(isHolderFor(need));
    case 'serials':
      return nextSerial(store, need);
    case 'workOut':
      return workOutInMemory(model, store, need.work);
    case 'candidates':
      return candidates(model, store, need);
    case 'made':
      return store.notes.made(need.rule.id, need.by, need.ids);
    case 'alone':
      return null;
    case 'bulkCascade':
    case 'fillMany':
      throw new Error('Records in memory are written one by one.');
    case 'propose':
    case 'takeLater':
    case 'defer':
      return null; // the ripple tells; who runs it keeps it
    case 'write':
      for (const write of need.writes) {
        const row = writtenRow(model, store.row(write.type, write.id), write);
        store.put(row);
        store.notes.note(write);
      }
      return null;
    default:
      return unreachable(need);
  }
}

const NO_LEADERS: Answers['leaders'] = new Map();

function everything(store: RecordStore, type: string): Answers['everything'] {
  const ids: string[] = [];
  for (const row of store.rows(type)) if (!row.deleted) ids.push(row.id);
  return { kind: 'rows', type, ids };
}

/** Tells whether a record, as it stands, has one of the values that a need asks for. */
export function isHolderFor({
  field,
  values,
  isFolded = false,
}: Extract<Need, { kind: 'holders' }>): (row: Row) => boolean {
  const keyOf = (value: Exclude<Value, null>) =>
    valueKey(isFolded && typeof value === 'string' ? fold(value) : value);
  const wanted = new Set(values.map(keyOf));
  return ({ deleted, values: { [field]: value = null } }) =>
    !deleted && value !== null && wanted.has(keyOf(value));
}

/** After the highest that there is; where records may lie outside, nobody knows. */
function nextSerial(
  store: RecordStore,
  { type, field }: Extract<Need, { kind: 'serials' }>,
): Answers['serials'] {
  if (!store.isWhole) return null;
  let highest = 0;
  for (const row of store.rows(type)) highest = Math.max(highest, Number(row.values[field] ?? 0));
  return highest + 1;
}

function accumulators(
  store: RecordStore,
  { rule, targets }: Extract<Need, { kind: 'accumulators' }>,
): Answers['accumulators'] {
  const kept = store.notes.accumulators(rule);
  const known = new Map<string, Accumulator>();
  for (const id of targets.ids) {
    const accumulator = kept(id);
    if (accumulator) known.set(id, accumulator);
  }
  return known;
}

function found(store: RecordStore, type: string, ids: readonly string[]): Answers['records'] {
  const rows = new Map<string, Row>();
  for (const id of ids) {
    const row = store.row(type, id);
    if (row) rows.set(id, row);
  }
  return { rows, known: store.isWhole };
}

function above(store: RecordStore, { set, link }: Extract<Need, { kind: 'above' }>): Answers['above'] {
  const ids = new Set(set.ids);
  for (const id of ids) {
    const next = store.row(set.type, id)?.values[link.link];
    if (typeof next === 'string') ids.add(next);
  }
  return found(store, set.type, [...ids]);
}

function related(
  store: RecordStore,
  { parents, link }: Extract<Need, { kind: 'related' }>,
): Answers['related'] {
  const parentOf = new Map<string, string>();
  for (const parent of parents.ids)
    for (const child of store.children(link, parent)) parentOf.set(child, parent);
  return { set: rowSet(link.type, parentOf.keys()), parentOf };
}

/** Runs the engine (or any other generator of needs) to its end over records in memory. */
export function runInMemory<T>(model: Model, store: RecordStore, run: Generator<Need, T, Answer>): T {
  let step = run.next();
  while (!step.done) step = run.next(answerInMemory(model, store, step.value));
  return step.value;
}

/** The same with a driver that answers in its own time. */
export async function runWith<T>(
  answer: (need: Need) => Promise<Answer>,
  run: Generator<Need, T, Answer>,
): Promise<T> {
  let step = run.next();
  while (!step.done) step = run.next(await answer(step.value));
  return step.value;
}

/** The record at the end of a route; `null` where a link is empty or leads to one in the bin. */
function rowAt(
  model: Model,
  store: RecordStore,
  row: Row,
  { from, route }: Pick<TypedField, 'from' | 'route'>,
): Row | null | Outside {
  let at: Row = row;
  for (const [index, link] of route.entries()) {
    const id = at.values[link];
    if (typeof id !== 'string') return null;
    const next = store.row(typeUp(model, from, route.slice(0, index + 1)), id);
    if (!next) return store.isWhole ? null : OUTSIDE;
    if (next.deleted) return null;
    at = next;
  }
  return at;
}

/** Reads fields of records and up their routes. An empty link, or one to a deleted record, reads as empty. */
export function readerOf(model: Model, store: RecordStore): Reader<Row> {
  const reached = (row: Row, field: TypedField) =>
    field.route.length === 0 ? row : rowAt(model, store, row, field);
  return {
    value: (row, field) => {
      const at = reached(row, field);
      return at === OUTSIDE ? OUTSIDE : at && heldIn(at, field.field);
    },
    given: (row, field) => {
      const at = reached(row, field);
      if (at === OUTSIDE) return OUTSIDE;
      if (at !== null && at.errors[field.field] !== undefined) return Failure.of('input_has_problem');
      return at && heldIn(at, field.field);
    },
    idOf: ({ id }) => id,
    beneath: (row, node) => {
      if (node.kind === 'rate') return rateIn(store, node);
      const { from, up, down } = node;
      const at = rowAt(model, store, row, { from, route: up });
      return at === OUTSIDE || at === null ? (at ?? []) : descend(store, down, at.id);
    },
  };
}

/** The records that a source brings in beneath a target; `OUTSIDE` where not all of them are here. */
export const membersOf = (
  store: RecordStore,
  source: CompiledSource,
  target: string,
): readonly Row[] | Outside => descend(store, source.route, target);

/** The lowest records of a way down. */
function descend(store: RecordStore, route: readonly StepDown[], top: string): readonly Row[] | Outside {
  let parents: readonly string[] = [top];
  let rows: readonly Row[] = [];
  for (const step of route) {
    if (!parents.every((parent) => store.hasAllChildren(step, parent))) return OUTSIDE;
    rows =
      parents.length === 1
        ? store.childRows(step, firstIn(parents))
        : parents.flatMap((parent) => [...store.childRows(step, parent)]);
    if (rows.length === 0) break;
    parents = rows.map(({ id }) => id);
  }
  return rows;
}

/** The value of a roll-up for one target, from records in memory. */
export function rollUpInMemory(
  model: Model,
  store: RecordStore,
  rule: CompiledRollUp,
  target: Row,
): Aggregated | Outside {
  const reader = readerOf(model, store);
  return broughtInMemory(rule, target, reader, (source) => membersOf(store, source, target.id));
}

function broughtInMemory(
  rule: CompiledRollUp,
  at: Row,
  reader: Reader<Row>,
  rowsOf: (source: CompiledSource) => readonly Row[] | Outside,
): Aggregated | Outside {
  const members: Members<Row>[] = [];
  let isHere = true;
  for (const source of rule.sources) {
    const rows = rowsOf(source);
    if (rows === OUTSIDE) isHere = false;
    else members.push({ source, rows, reader: source.isOwn ? OWN_FIELDS : reader });
  }
  const kept = { at, reader };
  if (isHere) return aggregate(rule, members, kept);
  return contributionAlone(rule, kept);
}

/**
 * Rules over the same link: many targets over columns of all children; few, or those of which the columns can't tell, from
 * their children's rows, which are brought out once for all rules. A rule over anything else stands alone.
 */
function workOutInMemory(model: Model, store: RecordStore, work: readonly Work[]): Answers['workOut'] {
  const changed: WorkedOut[] = [];
  const outside: { rule: CompiledRule; id: string }[] = [];
  const reader = readerOf(model, store);
  const all = idsOf(work);
  const [{ rule: first }] = work as [Work];
  if (isAlone(first)) return formulaInMemory(model, store, first, all);
  const { writes } = firstIn(work).rule;
  const plain = work.find(({ rule }) => groupableLink(rule) !== null);
  const beneath = plain ? columnsBeneath(model, store, plain.rule, all.size) : null;
  const wanted = rollUpsIn(work).map(({ rule, targets }) => ({
    ...{ rule, ids: targets.ids.length === all.size ? null : new Set(targets.ids) },
    ofParent: (groupableLink(rule) && beneath?.byColumns.workOut(rule)) ?? null,
    keptBeside: store.notes.accumulators(rule),
  }));
  for (const id of all) {
    const row = store.row(writes.type, id);
    if (row?.deleted || (!row && store.isWhole)) continue;
    const parent = beneath && !beneath.stirred.has(id) ? beneath.byColumns.parent(id) : null;
    const known = new Map<string, readonly Row[] | Outside>();
    const rowsOf = (source: CompiledSource) =>
      getOrCreate(known, source.key, () => membersOf(store, source, id));
    for (const { rule, ids, ofParent, keptBeside } of wanted) {
      if (ids && !ids.has(id)) continue;
      const isClaimed =
        row && rule.claims ? evaluatorOf(rule.claims)(row, reader.given, reader.beneath) : true;
      if (isClaimed === OUTSIDE) {
        outside.push({ rule, id });
        continue;
      }
      if (isClaimed !== true) {
        const before = storedOutcome(certain(row), rule.writes.field);
        // It claims nothing: what stands there stands, but for an error of its own.
        if (isError(before)) changed.push({ rule, id, before, after: { value: null }, accumulator: null });
        continue;
      }
      const kept = row ? keptBeside(id) : undefined;
      const isColumned =
        parent !== null && row && store.hasAllChildren(firstIn(firstIn(rule.sources).route), id);
      const brought = row
        ? ((isColumned ? ofParent?.(parent, kept) : null) ?? broughtInMemory(rule, row, reader, rowsOf))
        : OUTSIDE;
      if (brought !== OUTSIDE && isReacting(rule)) {
        const reaction = reactionOf({ model, store, rule, row: certain(row), reader }, brought.outcome);
        if (reaction === OUTSIDE) outside.push({ rule, id });
        else if (reaction) changed.push(reaction);
      } else if (brought === OUTSIDE) outside.push({ rule, id });
      else if (differs(rule, certain(row), brought, kept))
        changed.push({
          rule,
          id,
          before: storedOutcome(certain(row), rule.writes.field),
          after: brought.outcome,
          accumulator: brought.accumulator,
        });
    }
  }
  return { changed, outside };
}

interface Reacting {
  readonly model: Model;
  readonly store: RecordStore;
  readonly rule: CompiledRollUp & { readonly map: CompiledMap };
  readonly row: Row;
  readonly reader: Reader<Row>;
}

/**
 * What a rule that reacts makes of its result: `null` where that stays at the row of its map that it was at. An error counts where it is
 * new, or where it can't be told whether the rule applies.
 */
function reactionOf(given: Reacting, result: Outcome): WorkedOut | null | Outside {
  const { rule, row, reader } = given;
  const { map, whenNone, writes, appliesWhen } = rule;
  const was = rowBefore(given);
  if (was === OUTSIDE) return OUTSIDE;
  const now = rowNumber(result);
  const before = storedOutcome(row, writes.field);
  const worked = { rule, id: row.id, before, accumulator: null, row: now };
  const failed = { ...worked, after: { error: 'input_has_problem' } as const };
  if (now === FAILED && was !== FAILED) return failed;
  if (!isDue(map, whenNone, was, now)) return was === now ? null : { ...worked, after: before };
  const applies = appliesWhen ? evaluatorOf(appliesWhen)(row, reader.given, reader.beneath) : true;
  if (applies === OUTSIDE) return OUTSIDE;
  if (applies instanceof Failure) return failed;
  return { ...worked, after: applies === true ? { value: writtenAt(map, whenNone, now) ?? null } : before };
}

const rowNumber = (outcome: Outcome): number => (isError(outcome) ? FAILED : Number(outcome.value));

/** The row that a rule was at before the run: as it was noted, else worked out on the records beneath; `null` where there was none. */
function rowBefore({ model, store, rule, row }: Reacting): number | null | Outside {
  const noted = store.notes.row(rule.id, row.id);
  if (noted !== undefined) return noted;
  const before = store.beneath?.row(row.type, row.id);
  if (!before || before.deleted) return null;
  const brought = rollUpInMemory(model, certain(store.beneath), rule, before);
  return brought === OUTSIDE ? OUTSIDE : rowNumber(brought.outcome);
}

/** A stage holds rules of one kind. */
const rollUpsIn = (work: readonly Work[]) =>
  work.flatMap(({ rule, targets }) => (rule.kind === 'rollUp' ? [{ rule, targets }] : []));

/** What a rule that is worked out for each record by itself gives on one. */
export function outcomeAlone(
  rule: CompiledAlone,
  row: Row,
  looking: { readonly reader: Reader<Row>; readonly finder: Finder<Row> },
): Outcome | Outside {
  const stored = storedOutcome(row, rule.writes.field);
  return rule.kind === 'linked'
    ? linkedOutcome(rule, row, looking, stored)
    : formulaOutcome(rule, row, looking.reader, stored);
}

/** Looks among records in memory. Up a hierarchy what is in the bin is as if it weren't there. */
export const finderOf = (store: RecordStore): Finder<Row> => ({
  topmost: (type, link, id) => {
    const seen = new Set([id]);
    for (let at = id; ;) {
      const row = store.row(type, at);
      if (!row) return store.hasAll(type) ? at : OUTSIDE;
      const next = row.values[link];
      if (typeof next !== 'string' || seen.has(next)) return at;
      const above = store.row(type, next);
      if (!above && !store.hasAll(type)) return OUTSIDE;
      if (!above || above.deleted) return at;
      seen.add(next);
      at = next;
    }
  },
  everyOf: (type) => (store.hasAll(type) ? [...store.rows(type)].filter(({ deleted }) => !deleted) : OUTSIDE),
});

/** Of links that are empty those for which a rule finds several. */
function candidates(
  model: Model,
  store: RecordStore,
  { rule, targets }: Extract<Need, { kind: 'candidates' }>,
): Answers['candidates'] {
  const looking = { reader: readerOf(model, store), finder: finderOf(store) };
  const { find, writes } = rule;
  const found = new Map<string, readonly string[]>();
  if (find.kind !== 'match') return found;
  for (const id of targets.ids) {
    const row = store.row(writes.type, id);
    if (!row || row.deleted || (row.values[writes.field] ?? null) !== null) continue;
    const applies = rule.appliesWhen
      ? evaluatorOf(rule.appliesWhen)(row, looking.reader.given, looking.reader.beneath)
      : true;
    const matches = applies === true ? matchesOf(find, row, looking) : [];
    if (matches !== OUTSIDE && !(matches instanceof Failure) && matches.length > 1)
      found.set(
        id,
        matches.map((one) => one.id),
      );
  }
  return found;
}

/** A formula is worked out for each record by itself. */
function formulaInMemory(
  model: Model,
  store: RecordStore,
  rule: CompiledAlone,
  ids: ReadonlySet<string>,
): Answers['workOut'] {
  const reader = readerOf(model, store);
  const finder = finderOf(store);
  const changed: WorkedOut[] = [];
  const outside: { rule: CompiledRule; id: string }[] = [];
  for (const id of ids) {
    const row = store.row(rule.writes.type, id);
    if (row?.deleted || (!row && store.isWhole)) continue;
    const after = row ? outcomeAlone(rule, row, { reader, finder }) : OUTSIDE;
    if (after === OUTSIDE) {
      outside.push({ rule, id });
      continue;
    }
    const before = storedOutcome(certain(row), rule.writes.field);
    if (!sameOutcome(before, after)) changed.push({ rule, id, before, after, accumulator: null });
  }
  return { changed, outside };
}

/** Columns of the children over a rule's one link, where they serve so many targets; `null` for rules over anything else. */
function columnsBeneath(
  model: Model,
  store: RecordStore,
  rule: CompiledRule,
  targets: number,
): { readonly byColumns: ColumnarRollUp; readonly stirred: ReadonlySet<string> } | null {
  const ref = groupableLink(rule);
  const link = ref && foundIn(model.linksFrom(ref.type), (one) => one.link === ref.link);
  const columns = link && store.columns(link, targets);
  return columns ? { byColumns: new ColumnarRollUp(columns, link.link), stirred: store.stirred(link) } : null;
}

/** The targets of all rules; they are often the same for each. */
function idsOf(work: readonly Work[]): ReadonlySet<string> {
  const ids = new Set<string>();
  for (const targets of new Set(work.map((one) => one.targets))) for (const id of targets.ids) ids.add(id);
  return ids;
}

function differs(
  rule: CompiledRule,
  row: Row,
  { outcome, accumulator }: Aggregated,
  kept: Accumulator | undefined,
): boolean {
  if (!sameOutcome(storedOutcome(row, rule.writes.field), outcome)) return true;
  return accumulator !== null && (kept === undefined || !sameAccumulator(kept, accumulator));
}

/** A record as it stands once a write is made to it; `current` is left out for a new one. */
export function writtenRow(model: Model, current: Row | undefined, write: Write): Row {
  const base: Row = current ?? { ...emptyRow(model, write), version: 0 };
  const { type, id, values, errors } = withChanges(base, write.changes);
  // A later wave, or a write of nothing but what is kept beside a value, isn't a person's change; what a rule makes starts with one.
  const version = base.version + (write.wave === 0 || !current ? 1 : 0);
  return { type, id, version, deleted: deletedAfter(base, write), values, errors };
}

const deletedAfter = ({ deleted }: Row, { kind }: Write): boolean =>
  kind === 'delete' || (deleted && kind !== 'restore');
