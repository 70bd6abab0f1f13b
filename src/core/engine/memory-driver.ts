import { OUTSIDE, type Outside, type TypedField } from '../expression';
import { follow, type Model } from '../model';
import {
  bringTogether,
  type BroughtTogether,
  type CompiledRollUp,
  type Reader,
  sameAccumulator,
} from '../rules';
import { unreachable } from '../values';
import type { RecordStore } from './memory-store';
import { type Answer, type Answers, type Need, rowSet, type Work, type WorkedOut, type Write } from './need';
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
      return rowSet(
        need.type,
        [...store.rows(need.type)].filter((row) => !row.deleted).map((row) => row.id),
      );
    case 'takenAlong':
      return store.notes.takenAlong(need.roots);
    case 'accumulators':
      return new Map(
        need.targets.ids.flatMap((id) => {
          const accumulator = store.notes.accumulator(need.rule, id);
          return accumulator ? [[id, accumulator] as const] : [];
        }),
      );
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

/** Rules over the same link: the children of each target are brought out once for all of them. */
function workOutInMemory(model: Model, store: RecordStore, work: readonly Work[]): Answers['workOut'] {
  const changed: WorkedOut[] = [];
  const outside: { rule: string; id: string }[] = [];
  const reader = readerOf(model, store);
  const wanted = work.map(({ rule, targets }) => ({
    ...{ rule, ids: new Set(targets.ids) },
    reader: isOwn(rule) ? OWN_FIELDS : reader,
  }));
  const { link, writes } = work[0]!.rule;
  for (const id of new Set(work.flatMap(({ targets }) => targets.ids))) {
    const row = store.row(writes.type, id);
    if (row?.deleted || (!row && store.isWhole)) continue;
    const children = row && store.hasAllChildren(link, id) ? store.childRows(link, id) : null;
    for (const { rule, ids, reader: own } of wanted) {
      if (!ids.has(id)) continue;
      const brought = children ? bringTogether(rule, children, own) : OUTSIDE;
      if (brought === OUTSIDE) outside.push({ rule: rule.id, id });
      else if (differs(store, rule, row!, brought))
        changed.push({
          ...{ rule: rule.id, id, before: storedOutcome(row!, rule.writes.field) },
          ...{ after: brought.outcome, accumulator: brought.accumulator },
        });
    }
  }
  return { changed, outside };
}

function differs(
  store: RecordStore,
  rule: CompiledRollUp,
  row: Row,
  { outcome, accumulator }: BroughtTogether,
): boolean {
  if (!sameOutcome(storedOutcome(row, rule.writes.field), outcome)) return true;
  const kept = store.notes.accumulator(rule, row.id);
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
