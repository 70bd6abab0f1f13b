import { OUTSIDE, type Outside, type TypedField } from '../expression';
import { follow, type Model } from '../model';
import {
  type Accumulator,
  bringTogether,
  type BroughtTogether,
  type CompiledRollUp,
  type Reader,
  sameAccumulator,
} from '../rules';
import { unreachable, valueKey } from '../values';
import type { RecordStore } from './memory-store';
import { type Answer, type Answers, type Need, rowSet, type Work, type WorkedOut, type Write } from './need';
import { ByColumns } from './work-out-by-columns';
import { emptyRow, OWN_FIELDS, type Row, sameOutcome, storedOutcome, withChanges } from './record';

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
    case 'takenAlong':
      return store.notes.takenAlong(need.roots);
    case 'accumulators':
      return accumulators(store, need);
    case 'holders':
      return holders(store, need);
    case 'serials':
      return nextSerial(store, need);
    case 'workOut':
      return workOutInMemory(model, store, need.work);
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

function everything(store: RecordStore, type: string): Answers['everything'] {
  const ids: string[] = [];
  for (const row of store.rows(type)) if (!row.deleted) ids.push(row.id);
  return { kind: 'rows', type, ids };
}

function holders(
  store: RecordStore,
  { type, field, values }: Extract<Need, { kind: 'holders' }>,
): Answers['holders'] {
  const wanted = new Set(values.map(valueKey));
  const found: Row[] = [];
  for (const row of store.rows(type)) {
    const value = row.values[field] ?? null;
    if (!row.deleted && value !== null && wanted.has(valueKey(value))) found.push(row);
  }
  return found;
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
  { from, route }: TypedField,
): Row | null | Outside {
  let at: Row = row;
  for (const [index, link] of route.entries()) {
    const id = at.values[link];
    if (typeof id !== 'string') return null;
    const next = store.row(follow(model, from, route.slice(0, index + 1))!, id);
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
      return at === OUTSIDE ? OUTSIDE : (at?.values[field.field] ?? null);
    },
    isInError: (row, field) => {
      const at = reached(row, field);
      return at !== OUTSIDE && at !== null && at.errors[field.field] !== undefined;
    },
  };
}

const isOwn = (rule: CompiledRollUp): boolean => rule.reads.every(({ route }) => route.length === 0);

/** The value of a roll-up for one parent, from records in memory. */
export function rollUpInMemory(
  model: Model,
  store: RecordStore,
  rule: CompiledRollUp,
  parent: string,
): BroughtTogether | Outside {
  if (!store.hasAllChildren(rule.link, parent)) return OUTSIDE;
  const reader = isOwn(rule) ? OWN_FIELDS : readerOf(model, store);
  return bringTogether(rule, store.childRows(rule.link, parent), reader);
}

/**
 * Rules over the same link: many targets over columns of all children; few, or those of which the columns can't tell, from
 * their children's rows, which are brought out once for all rules.
 */
function workOutInMemory(model: Model, store: RecordStore, work: readonly Work[]): Answers['workOut'] {
  const changed: WorkedOut[] = [];
  const outside: { rule: string; id: string }[] = [];
  const reader = readerOf(model, store);
  const all = idsOf(work);
  const { link: ref, writes } = work[0]!.rule;
  const link = model.linksFrom(ref.type).find((one) => one.link === ref.link)!;
  const columns = store.columns(link, all.size);
  const stirred = columns ? store.stirred(link) : null;
  const byColumns = columns ? new ByColumns(columns, link.link) : null;
  const wanted = work.map(({ rule, targets }) => ({
    ...{ rule, ids: targets.ids.length === all.size ? null : new Set(targets.ids) },
    reader: isOwn(rule) ? OWN_FIELDS : reader,
    ofParent: byColumns?.workOut(rule) ?? null,
    keptBeside: store.notes.accumulators(rule),
  }));
  for (const id of all) {
    const row = store.row(writes.type, id);
    if (row?.deleted || (!row && store.isWhole)) continue;
    const isKnown = row !== undefined && store.hasAllChildren(link, id);
    const parent = stirred?.has(id) === false ? byColumns!.parent(id) : null;
    let children: readonly Row[] | null = null;
    for (const { rule, ids, reader: own, ofParent, keptBeside } of wanted) {
      if (ids && !ids.has(id)) continue;
      const kept = isKnown ? keptBeside(id) : undefined;
      const brought = isKnown
        ? ((parent === null ? null : ofParent?.(parent, kept)) ??
          bringTogether(rule, (children ??= store.childRows(link, id)), own))
        : OUTSIDE;
      if (brought === OUTSIDE) outside.push({ rule: rule.id, id });
      else if (differs(rule, row!, brought, kept))
        changed.push({
          rule: rule.id,
          id,
          before: storedOutcome(row!, rule.writes.field),
          after: brought.outcome,
          accumulator: brought.accumulator,
        });
    }
  }
  return { changed, outside };
}

/** The targets of all rules; they are often the same for each. */
function idsOf(work: readonly Work[]): ReadonlySet<string> {
  const ids = new Set<string>();
  for (const targets of new Set(work.map((one) => one.targets))) for (const id of targets.ids) ids.add(id);
  return ids;
}

function differs(
  rule: CompiledRollUp,
  row: Row,
  { outcome, accumulator }: BroughtTogether,
  kept: Accumulator | undefined,
): boolean {
  if (!sameOutcome(storedOutcome(row, rule.writes.field), outcome)) return true;
  return accumulator !== null && (kept === undefined || !sameAccumulator(kept, accumulator));
}

/** A record as it stands once a write is made to it; `current` is left out for a new one. */
export function writtenRow(model: Model, current: Row | undefined, write: Write): Row {
  const base: Row = current ?? { ...emptyRow(model, write), version: 0 };
  const { type, id, values, errors } = withChanges(base, write.changes);
  // A later wave, or a write of nothing but what is kept beside a value, isn't a person's change.
  const version = base.version + (write.wave === 0 ? 1 : 0);
  return { type, id, version, deleted: deletedAfter(base, write), values, errors };
}

const deletedAfter = ({ deleted }: Row, { kind }: Write): boolean =>
  kind === 'delete' || (deleted && kind !== 'restore');
