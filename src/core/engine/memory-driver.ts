import { OUTSIDE, type TypedField } from '../expression';
import { follow, type Model, typeIn } from '../model';
import { bringTogether, type CompiledRollUp, type FieldOutcome, type Member, standingOf } from '../rules';
import { isError, type Outcome, sameValue, unreachable } from '../values';
import type { RecordStore } from './memory-store';
import { type Answer, type Answers, type Need, rowSet, type Work, type WorkedOut, type Write } from './need';
import type { Row } from './record';

/** Answers a need from records in memory. */
export function answerInMemory(model: Model, store: RecordStore, need: Need): Answer {
  switch (need.kind) {
    case 'lock':
      return null; // a store in memory has one user at a time
    case 'records': {
      const found = need.set.ids.flatMap((id) => store.row(need.set.type, id) ?? []);
      return { rows: new Map(found.map((row) => [row.id, row])), known: store.isWhole };
    }
    case 'related':
      return rowSet(
        need.link.type,
        need.parents.ids.flatMap((parent) => [...store.children(need.link, parent)]),
      );
    case 'everything':
      return rowSet(
        need.type,
        [...store.rows(need.type)].filter((row) => !row.deleted).map((row) => row.id),
      );
    case 'workOut':
      return workOutInMemory(model, store, need.work);
    case 'write':
      for (const write of need.writes) store.put(writtenRow(model, store.row(write.type, write.id), write));
      return null;
    default:
      return unreachable(need);
  }
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

export const storedOutcome = (row: Row, field: string): Outcome => {
  const error = row.errors[field];
  return error ? { error } : { value: row.values[field] ?? null };
};

export const sameOutcome = (a: Outcome, b: Outcome): boolean =>
  isError(a) || isError(b) ? isError(a) && isError(b) && a.error === b.error : sameValue(a.value, b.value);

/** The value of a roll-up for one parent, from records in memory. */
export function rollUpInMemory(
  model: Model,
  store: RecordStore,
  rule: CompiledRollUp,
  parent: string,
): FieldOutcome {
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
      const after = row ? rollUpInMemory(model, store, rule, id) : OUTSIDE;
      if (after === OUTSIDE) outside.push({ rule: rule.id, id });
      else {
        const before = storedOutcome(row!, rule.writes.field);
        if (!sameOutcome(before, after)) changed.push({ rule: rule.id, id, before, after });
      }
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
  const version = base.version + (write.wave === 0 ? 1 : 0);
  return { ...base, values, errors, version, deleted: base.deleted || write.kind === 'delete' };
}
