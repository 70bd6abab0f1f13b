import { OUTSIDE, type Outside, type TypedField } from '../expression';
import { follow, type Model, typeIn } from '../model';
import {
  bringTogether,
  type BroughtTogether,
  type CompiledRollUp,
  type FieldOutcome,
  type Member,
  sameAccumulator,
  standingOf,
} from '../rules';
import { unreachable } from '../values';
import type { RecordStore } from './memory-store';
import { type Answer, type Answers, type Need, rowSet, type Work, type WorkedOut, type Write } from './need';
import { type Row, sameOutcome, storedOutcome } from './record';

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
  const rows = ids.flatMap((id) => store.row(type, id) ?? []);
  return { rows: new Map(rows.map((row) => [row.id, row])), known: store.isWhole };
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

/** Reads fields of a record and up its routes. An empty link, or one to a deleted record, reads as empty. */
export function memberOf(model: Model, store: RecordStore, row: Row): Member {
  return (field: TypedField): FieldOutcome => {
    let at: Row = row;
    for (const [index, link] of field.route.entries()) {
      const id = at.values[link];
      if (typeof id !== 'string') return { value: null };
      const next = store.row(follow(model, field.from, field.route.slice(0, index + 1))!, id);
      if (!next) return store.isWhole ? { value: null } : OUTSIDE;
      if (next.deleted) return { value: null };
      at = next;
    }
    return storedOutcome(at, field.field);
  };
}

/** The value of a roll-up for one parent, from records in memory. */
export function rollUpInMemory(
  model: Model,
  store: RecordStore,
  rule: CompiledRollUp,
  parent: string,
): BroughtTogether | Outside {
  if (!store.hasAllChildren(rule.link, parent)) return OUTSIDE;
  const members = [...store.children(rule.link, parent)].map((id) => store.row(rule.link.type, id)!);
  return bringTogether(
    rule,
    members.map((row) => standingOf(rule, memberOf(model, store, row))),
  );
}

function workOutInMemory(model: Model, store: RecordStore, work: readonly Work[]): Answers['workOut'] {
  const changed: WorkedOut[] = [];
  const outside: { rule: string; id: string }[] = [];
  for (const { rule, targets: set } of work) {
    for (const id of set.ids) {
      const row = store.row(rule.writes.type, id);
      if (row?.deleted || (!row && store.isWhole)) continue;
      const brought = row ? rollUpInMemory(model, store, rule, id) : OUTSIDE;
      if (brought === OUTSIDE) {
        outside.push({ rule: rule.id, id });
        continue;
      }
      const { outcome: after, accumulator } = brought;
      const before = storedOutcome(row!, rule.writes.field);
      const kept = store.notes.accumulator(rule, id);
      const isKept = accumulator === null || (kept !== undefined && sameAccumulator(kept, accumulator));
      if (!isKept || !sameOutcome(before, after))
        changed.push({ rule: rule.id, id, before, after, accumulator });
    }
  }
  return { changed, outside };
}

/** A record as it stands once a write is made to it; `current` is left out for a new one. */
export function writtenRow(model: Model, current: Row | undefined, write: Write): Row {
  const base: Row = current ?? {
    ...{ type: write.type, id: write.id, version: 0, deleted: false, errors: {} },
    values: Object.fromEntries(typeIn(model, write.type).fields.map((field) => [field.key, null])),
  };
  const values = {
    ...base.values,
    ...Object.fromEntries(write.changes.map((change) => [change.field, change.after])),
  };
  const errors = { ...base.errors };
  for (const { field, error } of write.changes) {
    if (error) errors[field] = error;
    else delete errors[field];
  }
  // A later wave, or a write of nothing but what is kept beside a value, isn't a person's change.
  const version = base.version + (write.wave === 0 ? 1 : 0);
  return { ...base, values, errors, version, deleted: deletedAfter(base, write) };
}

const deletedAfter = ({ deleted }: Row, { kind }: Write): boolean =>
  kind === 'delete' || (deleted && kind !== 'restore');
