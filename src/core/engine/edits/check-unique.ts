import { grouped } from '@/core/grouped';
import { type Field, type Model, typeIn } from '@/core/model';
import { certain, displayValue, firstIn, type Value, valueAt, valueKey } from '@/core/values';
import { titleOf } from './apply-edits';
import { type Entry, type EditProblem } from './types';
import { ask, type Answer, type Need } from '@/core/engine/driver/need';
import { recordKey, type Row } from '@/core/engine/driver/record';

interface Claimed {
  readonly entry: Entry;
  readonly field: Field;
  readonly value: Exclude<Value, null>;
}

/** Values that a run sets in unique fields: changed ones, and all those of a record that is made or restored. */
function valuesSet(model: Model, entries: ReadonlyMap<string, Entry>): Claimed[] {
  const claimed: Claimed[] = [];
  for (const entry of entries.values()) {
    const { kind, type, after, fields } = entry;
    if (kind === 'delete' || !after || after.deleted) continue;
    for (const field of typeIn(model, type).fields) {
      const value = after.values[field.key] ?? null;
      const isSet = field.unique && (kind === 'restore' || fields.has(field.key));
      if (isSet && value !== null) claimed.push({ entry, field, value });
    }
  }
  return claimed;
}

/**
 * Values of unique fields that another record would have too once the run is over, by the titles of both. Records in the bin don't
 * count. Where records may lie outside what is loaded, only those that are known can be told.
 */
export function* checkUnique(
  model: Model,
  entries: ReadonlyMap<string, Entry>,
): Generator<Need, EditProblem[], Answer> {
  const problems: EditProblem[] = [];
  const groups = grouped(valuesSet(model, entries), ({ entry, field }) => `${entry.type}.${field.key}`);
  for (const group of groups.values()) {
    const { entry, field } = firstIn(group);
    const values = group.map(({ value }) => value);
    const held = yield* ask<'holders'>({ kind: 'holders', type: entry.type, field: field.key, values });
    // Who has a value at the end: those that have it now and aren't touched, and those that the run gives it to.
    const untouched = held.filter((row) => !entries.has(recordKey(row)));
    const rows = [...untouched, ...there(entries, entry.type)];
    const holders = grouped(
      rows.filter((row) => (row.values[field.key] ?? null) !== null),
      (row) => String(valueKey(certain(row.values[field.key]))),
    );
    for (const one of group) {
      const other = valueAt(holders, String(valueKey(one.value))).find(({ id }) => id !== one.entry.id);
      if (other) problems.push(takenBy(model, one, other));
    }
  }
  return problems;
}

/** Records of a type that the run touches, as it leaves them. */
const there = (entries: ReadonlyMap<string, Entry>, type: string): Row[] =>
  [...entries.values()].flatMap(({ after }) => (after?.type === type && !after.deleted ? [after] : []));

function takenBy(model: Model, { entry, field, value }: Claimed, other: Row): EditProblem {
  const words = displayValue(field.type, value);
  const message = `${field.name}: “${words}” stands in another ${typeIn(model, entry.type).name} already (${titleOf(model, other)}), and no two may have the same. Enter another.`;
  const data = { type: entry.type, record: other.id };
  return { code: 'value.taken', message, place: field.key, index: entry.index, data };
}
