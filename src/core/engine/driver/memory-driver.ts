import { evaluatorOf, Failure, OUTSIDE } from '@/core/expression';
import { type Model } from '@/core/model';
import { type Accumulator, matchesOf } from '@/core/rules';
import { fold, unreachable, type Value, valueKey } from '@/core/values';
import type { RecordStore } from './memory-store';
import { type Answer, type Answers, type Need, rowSet, type Write } from './need';
import { emptyRow, type Row, withChanges } from './record';
import { finderOf, readerOf } from './memory-reader';
import { workOutInMemory } from './memory-work-out';

/** Answers a need from records in memory. */
export function answerInMemory(model: Model, store: RecordStore, need: Need): Answer {
  switch (need.kind) {
    case 'lock':
      return AS_READ; // a store in memory has one user at a time
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
    case 'set':
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

const AS_READ: Answers['lock'] = { isAsRead: true };
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

export function accumulators(
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

export function above(store: RecordStore, { set, link }: Extract<Need, { kind: 'above' }>): Answers['above'] {
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
