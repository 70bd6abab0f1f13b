import { type Made, MemoryStore, type Row } from '@/core/engine';
import { fieldIn, type LinkRef, type Model, typeIn } from '@/core/model';
import { type ErrorCode, parseValue, toWire, type Value, type WireValue } from '@/core/values';

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
  /** What rules made for records that are here; those in the bin are told by `isTakenBack` or not at all. */
  readonly made?: readonly (Made & { readonly rule: string; readonly type: string })[];
  /** Types of which all records are here. */
  readonly whole?: readonly string[];
  /** The day from which on all rates of currencies are among the records; left out where they aren't. */
  readonly ratesSince?: string;
}

export const recordToWire = (model: Model, row: Row): WireRecord => ({
  ...{ type: row.type, id: row.id, version: row.version, deleted: row.deleted },
  errors: Object.fromEntries(Object.entries(row.errors).filter(([key]) => model.field(row.type, key))),
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
  for (const { rule, source, made, type, isTakenBack } of data.made ?? [])
    store.notes.noteMade(rule, source, { type, id: made }, isTakenBack);
  for (const type of data.whole ?? []) store.markAll(type);
  store.ratesSince = data.ratesSince ?? null;
  return store;
}

/** That all that hangs under records, over any link, is in a family. */
export const allBeneath = (
  model: Model,
  records: readonly { readonly type: string; readonly id: string }[],
): FamilyData['complete'] =>
  records.flatMap(({ type, id }) =>
    model.linksTo(type).map(({ type: child, link }) => ({ type: child, link, parent: id })),
  );

/**
 * A family as it would stand after staged edits, to be kept: `records` are its members then. What is new has all that hangs under it,
 * since nothing else does.
 */
export function familyAfter(model: Model, family: FamilyData, records: readonly WireRecord[]): FamilyData {
  const members = new Set(family.members);
  const had = new Set(family.records.map(({ id }) => id));
  const made = records.filter(({ id }) => !had.has(id));
  const around = family.records.filter(({ id }) => !members.has(id));
  const stays = new Set([...records, ...around].map(({ id }) => id));
  return {
    ...family,
    members: records.map(({ id }) => id),
    records: [...records, ...around],
    complete: [...family.complete.filter(({ parent }) => stays.has(parent)), ...allBeneath(model, made)],
  };
}

/** A family of one record that nothing hangs under yet, to be written by hand. */
export function familyByHand(model: Model, type: string, id: string, title: string): FamilyData {
  const values = Object.fromEntries(typeIn(model, type).fields.map(({ key }) => [key, null as WireValue]));
  const root = { type, id, version: 1, deleted: false, errors: {} };
  return {
    ...{ root: { type, id }, members: [id], names: {} },
    records: [{ ...root, values: { ...values, [typeIn(model, type).title]: title } }],
    complete: allBeneath(model, [root]),
  };
}

/**
 * A kept family read on the model as it is now: types that are gone leave it, values that don't fit their field any more are empty,
 * links to another type than before too. Answers also how many values that were.
 */
export function fittedFamily(model: Model, family: FamilyData): { family: FamilyData; lost: number } {
  let lost = 0;
  const records = family.records.flatMap((record): WireRecord[] => {
    const type = model.type(record.type);
    if (!type) {
      lost += 1;
      return [];
    }
    const values = type.fields.map(({ key, type: of }): [string, WireValue] => {
      const value = record.values[key] ?? null;
      const parsed = parseValue(of, value);
      if (parsed.ok) return [key, toWire(of, parsed.value)];
      lost += 1;
      return [key, null];
    });
    return [{ ...record, values: Object.fromEntries(values) }];
  });
  const there = new Set(records.map(({ id }) => id));
  const complete = family.complete.filter(
    ({ type, link, parent }) => there.has(parent) && model.field(type, link)?.type.kind === 'link',
  );
  return {
    family: {
      ...{ ...family, records, complete, members: family.members.filter((id) => there.has(id)) },
      ...(family.made ? { made: family.made.filter(({ type }) => model.type(type)) } : {}),
      ...(family.whole ? { whole: family.whole.filter((type) => model.type(type)) } : {}),
    },
    lost,
  };
}

/** What of a kept family is otherwise in the data by now. */
export interface FamilyDrift {
  readonly changed: readonly {
    readonly type: string;
    readonly id: string;
    readonly title: string;
    readonly fields: readonly string[];
  }[];
  /** Members that are in the bin by now, or hang elsewhere. */
  readonly gone: readonly { readonly type: string; readonly title: string }[];
  readonly added: readonly { readonly type: string; readonly id: string; readonly title: string }[];
}

/** Compares the members of a kept family with those of the same root now; `null` where the root is gone. */
export function familyDrift(model: Model, kept: FamilyData, now: FamilyData | null): FamilyDrift {
  const membersOf = (family: FamilyData | null) => {
    const members = new Set(family?.members ?? []);
    return new Map((family?.records ?? []).filter(({ id }) => members.has(id)).map((one) => [one.id, one]));
  };
  const [was, is] = [membersOf(kept), membersOf(now)];
  const titleOf = ({ type, values }: WireRecord) => String(values[typeIn(model, type).title] ?? '');
  const changed = [...was.values()].flatMap((record) => {
    const other = is.get(record.id);
    if (!other) return [];
    const fields = typeIn(model, record.type).fields.filter(
      ({ key }) => JSON.stringify(record.values[key] ?? null) !== JSON.stringify(other.values[key] ?? null),
    );
    const { type, id } = record;
    return fields.length > 0
      ? [{ type, id, title: titleOf(record), fields: fields.map(({ name }) => name) }]
      : [];
  });
  return {
    changed,
    gone: [...was.values()]
      .filter(({ id }) => !is.has(id))
      .map((one) => ({ type: one.type, title: titleOf(one) })),
    added: [...is.values()]
      .filter(({ id }) => !was.has(id))
      .map((one) => ({ type: one.type, id: one.id, title: titleOf(one) })),
  };
}
