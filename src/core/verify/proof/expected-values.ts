import { evaluatorOf, Failure, OUTSIDE, typeValue } from '@/core/expression';
import { type Field, type Model, typeIn, fieldIn } from '@/core/model';
import { readerOf, type RecordStore } from '@/core/engine';
import {
  parseValue,
  sameValue,
  toWire,
  type WireValue,
  firstIn,
  type TextForms,
  readText,
} from '@/core/values';
import { wordsOfValue } from '@/core/verify/family/value-words';
import type { WireRecord } from '@/core/verify/family/family';

/** What must stand in a field of a record at the end, worked out elsewhere. */
export interface ExpectedValue {
  readonly type: string;
  readonly id: string;
  readonly field: string;
  readonly value: WireValue;
}

export interface ReadExpected {
  readonly values: readonly ExpectedValue[];
  /** What can't be read, each with where it stands and what to do. */
  readonly problems: readonly string[];
}

/** A line of a file: a record by its title or id, a field by its name or key, and what is expected, as people write it. */
export interface ExpectedLine {
  /** As it is counted in the file, from 1 on. */
  readonly line: number;
  readonly record: string;
  readonly field: string;
  readonly expected: string;
}

/**
 * Reads values worked out elsewhere, in a spreadsheet say, for records of a family. Names what it doesn't find or understand; nothing of such
 * a line is taken. Blanks at the ends and the size of letters don't matter in names; an empty value is an empty field.
 */
export function readExpected(
  model: Model,
  records: readonly WireRecord[],
  lines: readonly ExpectedLine[],
  forms: TextForms,
): ReadExpected {
  const values = new Map<string, ExpectedValue>();
  const problems: string[] = [];
  for (const { line, record: name, field: fieldName, expected } of lines) {
    const say = (message: string) => void problems.push(`Line ${line}: ${message}`);
    const found = recordsNamed(model, records, name);
    if (found.length === 0)
      say(`no record of the family is called “${name.trim()}”. Give its title or its id.`);
    else if (found.length > 1)
      say(
        `${found.length} records of the family are called “${name.trim()}”. Give the id of the one that is meant.`,
      );
    if (found.length !== 1) continue;
    const [record] = found as [WireRecord];
    const field = fieldNamed(model, record.type, fieldName);
    if (!field) {
      say(`${typeIn(model, record.type).name} has no field “${fieldName.trim()}”.`);
      continue;
    }
    const read = readOne(model, records, field, expected, forms);
    if (!read.ok) {
      say(read.message);
      continue;
    }
    const cell = `${record.id} ${field.key}`;
    if (values.has(cell))
      say(`${field.name} of “${name.trim()}” stands in an earlier line too. Keep one of them.`);
    else values.set(cell, { type: record.type, id: record.id, field: field.key, value: read.value });
  }
  return { values: [...values.values()], problems };
}

const folded = (text: unknown): string =>
  String(text ?? '')
    .trim()
    .toLowerCase();

function recordsNamed(model: Model, records: readonly WireRecord[], name: string): WireRecord[] {
  const wanted = folded(name);
  const byId = records.filter(({ id }) => id === wanted);
  if (byId.length > 0) return byId;
  return records.filter(({ type, values }) => folded(values[typeIn(model, type).title]) === wanted);
}

const fieldNamed = (model: Model, type: string, name: string): Field | undefined =>
  typeIn(model, type).fields.find(
    ({ key, name: called }) => folded(called) === folded(name) || folded(key) === folded(name),
  );

type ReadOne =
  { readonly ok: true; readonly value: WireValue } | { readonly ok: false; readonly message: string };

function readOne(
  model: Model,
  records: readonly WireRecord[],
  { name, type }: Field,
  expected: string,
  forms: TextForms,
): ReadOne {
  if (expected.trim() === '') return { ok: true, value: null };
  if (type.kind === 'link') {
    const found = recordsNamed(model, records, expected).filter((record) => record.type === type.target);
    if (found.length === 1) return { ok: true, value: firstIn(found).id };
    return {
      ok: false,
      message: `${name} names “${expected.trim()}”, which ${found.length === 0 ? 'isn’t in the family' : 'several records are called'}. Give its id.`,
    };
  }
  const read = readText(type, expected, forms);
  return read.ok
    ? { ok: true, value: toWire(type, read.value) }
    : { ok: false, message: `${name}: ${read.problem.message}` };
}

/**
 * Works values of a field out by an expression of one's own, in FEEL, on each record of a type as it stands in the end: to hold a rule against a sum
 * that was thought out apart from it.
 */
export function expectedByFormula(
  model: Model,
  store: RecordStore,
  {
    type,
    field: key,
    text,
    among,
  }: {
    readonly type: string;
    readonly field: string;
    readonly text: string;
    /** Ids of the records of which something is expected; others are only read. */
    readonly among: ReadonlySet<string>;
  },
): ReadExpected {
  const field = model.field(type, key);
  if (!field) return { values: [], problems: [`${typeIn(model, type).name} has no field “${key}”.`] };
  const typed = typeValue(model, type, { kind: 'feel', text }, { wanted: field.type });
  if (!typed.ok) return { values: [], problems: [typed.problem.message] };
  const reader = readerOf(model, store);
  const values: ExpectedValue[] = [];
  const problems: string[] = [];
  for (const row of store.rows(type)) {
    if (row.deleted || !among.has(row.id)) continue;
    const value = evaluatorOf(typed.value)(row, reader.given, reader.beneath);
    const title = String(row.values[typeIn(model, type).title] ?? row.id);
    if (value === OUTSIDE) problems.push(`${title}: it needs what lies outside this family.`);
    else if (value instanceof Failure) problems.push(`${title}: it can’t be worked out (${value.code}).`);
    else {
      const fitted = parseValue(field.type, toWire(typed.value.type, value));
      if (fitted.ok) values.push({ type, id: row.id, field: key, value: toWire(field.type, fitted.value) });
      else problems.push(`${title}: ${fitted.problem.message}`);
    }
  }
  return { values, problems };
}

/** A value that isn't the one that was worked out elsewhere. */
export interface ExpectedDifference extends ExpectedValue {
  /** `Insured total of Rivers of Silk: 40.00 GBP expected, 140.00 GBP found`. */
  readonly words: string;
}

/** Where records, as they stand in the end, hold something else than was worked out elsewhere. */
export function expectedDifferences(
  model: Model,
  records: readonly WireRecord[],
  values: readonly ExpectedValue[],
  nameOf: (id: string) => string | undefined,
): ExpectedDifference[] {
  const byId = new Map(records.map((record) => [record.id, record]));
  return values.flatMap((one) => {
    const record = byId.get(one.id);
    const { name, type } = fieldIn(model, one.type, one.field);
    const found = record ? (record.values[one.field] ?? null) : null;
    const [wanted, is] = [parseValue(type, one.value), parseValue(type, found)];
    if (wanted.ok && is.ok && sameValue(wanted.value, is.value)) return [];
    const words = (value: WireValue) => (value === null ? 'empty' : wordsOfValue(type, value, nameOf));
    const title = String(record?.values[typeIn(model, one.type).title] ?? one.id);
    return [{ ...one, words: `${name} of ${title}: ${words(one.value)} expected, ${words(found)} found` }];
  });
}
