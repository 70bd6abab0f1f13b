import { MemoryStore, type Row } from '../engine';
import { fieldIn, type LinkRef, type Model, typeIn } from '../model';
import { type ErrorCode, parseValue, toWire, type Value, type WireValue } from '../values';

/** A record as it travels. */
export interface WireRecord {
  readonly type: string;
  readonly id: string;
  readonly version: number;
  readonly deleted: boolean;
  readonly values: Readonly<Record<string, WireValue>>;
  /** Kept fields that can't be worked out, with the code of the problem. */
  readonly errors: Readonly<Record<string, ErrorCode>>;
}

/**
 * A root record, all that is reached from it over the links down, and around them the inputs of every kept value that the
 * members can change. `complete` names the links of parents whose children are all here; anything else is outside.
 */
export interface FamilyData {
  readonly root: { readonly type: string; readonly id: string };
  readonly members: readonly string[];
  readonly records: readonly WireRecord[];
  readonly complete: readonly (LinkRef & { readonly parent: string })[];
  /** Titles of records and people that the records name but that aren't here. */
  readonly names: Readonly<Record<string, string>>;
}

export const recordToWire = (model: Model, row: Row): WireRecord => ({
  ...{ type: row.type, id: row.id, version: row.version, deleted: row.deleted, errors: row.errors },
  values: Object.fromEntries(
    typeIn(model, row.type).fields.map((field) => [
      field.key,
      toWire(field.type, row.values[field.key] ?? null),
    ]),
  ),
});

/** Reads a stored record back. A value that doesn't fit its field means the data is damaged: throws. */
export function recordFromWire(model: Model, wire: WireRecord): Row {
  const values: Record<string, Value> = {};
  for (const { key } of typeIn(model, wire.type).fields) {
    const parsed = parseValue(fieldIn(model, wire.type, key).type, wire.values[key] ?? null);
    if (!parsed.ok) throw new RangeError(`${wire.type} ${wire.id}, ${key}: ${parsed.problem.message}`);
    values[key] = parsed.value;
  }
  return {
    type: wire.type,
    id: wire.id,
    version: wire.version,
    deleted: wire.deleted,
    values,
    errors: wire.errors,
  };
}

export function familyStore(model: Model, data: FamilyData): MemoryStore {
  const store = new MemoryStore(model, false);
  for (const record of data.records) store.put(recordFromWire(model, record));
  for (const { parent, ...link } of data.complete) store.markComplete(link, parent);
  return store;
}
