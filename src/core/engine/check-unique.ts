import { type Field, type Model, typeIn } from '../model';
import { displayValue, sameValue, type Value } from '../values';
import { type Entry, titleOf } from './apply-edits';
import type { EditProblem } from './edit';
import { ask, type Answer, type Need } from './need';
import { recordKey, type Row } from './record';

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
  const groups = new Map<string, Claimed[]>();
  for (const claimed of valuesSet(model, entries)) {
    const key = `${claimed.entry.type}.${claimed.field.key}`;
    groups.set(key, [...(groups.get(key) ?? []), claimed]);
  }
  for (const group of groups.values()) {
    const { entry, field } = group[0]!;
    const values = group.map(({ value }) => value);
    const held = yield* ask<'holders'>({ kind: 'holders', type: entry.type, field: field.key, values });
    const there = held.flatMap((row) => {
      const now = entries.get(recordKey(row))?.after ?? row;
      return now.deleted ? [] : [now];
    });
    const rows = new Map(
      [...there, ...group.map(({ entry: one }) => one.after!)].map((row) => [row.id, row]),
    );
    for (const one of group) {
      const other = [...rows.values()].find(
        (row) => row.id !== one.entry.id && sameValue(row.values[field.key] ?? null, one.value),
      );
      if (other) problems.push(takenBy(model, one, other));
    }
  }
  return problems;
}

function takenBy(model: Model, { entry, field, value }: Claimed, other: Row): EditProblem {
  const words = displayValue(field.type, value);
  const message = `${field.name}: “${words}” stands in another ${typeIn(model, entry.type).name} already (${titleOf(model, other)}), and no two may have the same. Enter another.`;
  return { code: 'value.taken', message, place: field.key, index: entry.index, data: { record: other.id } };
}
