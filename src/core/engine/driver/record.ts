import { Failure, RECORD_ITSELF } from '@/core/expression';
import { type Model, typeIn } from '@/core/model';
import type { Reader } from '@/core/rules';
import { type ErrorCode, isError, type Outcome, sameValue, type Value } from '@/core/values';

/** A record as the engine sees it. Every field of its type has an entry in `values`; `errors` has those that are in error. */
export interface Row {
  readonly type: string;
  readonly id: string;
  /** Counts the changes that people made; a value that a rule keeps doesn't raise it. */
  readonly version: number;
  readonly deleted: boolean;
  readonly values: Readonly<Record<string, Value>>;
  readonly errors: Readonly<Record<string, ErrorCode>>;
}

export interface RecordRef {
  readonly type: string;
  readonly id: string;
}

/** The record for which a rule made one. */
export interface MadeFor {
  readonly rule: string;
  readonly source: string;
}

export interface CellRef extends RecordRef {
  readonly field: string;
}

/** Ids are UUIDs and keys have no blanks, so one blank separates them safely. */
export const recordKey = ({ type, id }: RecordRef): string => `${type} ${id}`;

/** The same for a field of a record. */
export const cellKey = (cell: CellRef): string => `${recordKey(cell)} ${cell.field}`;

/** A record in which nothing is entered yet. */
export const emptyRow = (model: Model, { type, id }: RecordRef): Row => ({
  ...{ type, id, version: 1, deleted: false, errors: {} },
  values: Object.fromEntries(typeIn(model, type).fields.map((field) => [field.key, null])),
});

/** A record once changes are made to it. */
export function withChanges(row: Row, changes: readonly Pick<Change, 'field' | 'after' | 'error'>[]): Row {
  const values = { ...row.values };
  let { errors } = row;
  for (const { field, after, error } of changes) {
    values[field] = after;
    if (!error && errors[field] === undefined) continue;
    const { [field]: _cleared, ...others } = errors;
    errors = error ? { ...others, [field]: error } : others;
  }
  return rowWith(row, values, errors);
}

/** The same record with other fields. Written out, so that all rows keep one shape. */
export const rowWith = (row: Row, values: Row['values'], errors: Row['errors'] = row.errors): Row => ({
  type: row.type,
  id: row.id,
  version: row.version,
  deleted: row.deleted,
  values,
  errors,
});

export const storedOutcome = (row: Row, field: string): Outcome => {
  const error = row.errors[field];
  return error ? { error } : { value: row.values[field] ?? null };
};

export const sameOutcome = (a: Outcome, b: Outcome): boolean =>
  isError(a) || isError(b) ? isError(a) && isError(b) && a.error === b.error : sameValue(a.value, b.value);

/** What a record holds in a field; of `RECORD_ITSELF` its id. */
export const heldIn = (row: Row, field: string): Value =>
  row.values[field] ?? (field === RECORD_ITSELF ? row.id : null);

/** Reads records for rules that read nothing but their own fields; a route is a programmer's mistake: throws. */
export const OWN_FIELDS: Reader<Row> = {
  value: (row, { route, field }) => {
    if (route.length > 0) throw new RangeError('OWN_FIELDS reads no routes');
    return heldIn(row, field);
  },
  given: (row, { route, field }) => {
    if (route.length > 0) throw new RangeError('OWN_FIELDS reads no routes');
    return row.errors[field] === undefined ? heldIn(row, field) : Failure.of('input_has_problem');
  },
  idOf: ({ id }) => id,
  beneath: () => {
    throw new RangeError('OWN_FIELDS reads nothing beneath');
  },
};

/** A field that a run changes: once at most for each record and run, in a circle once for each round. Wave 0 is what was edited. */
export interface Change extends CellRef {
  readonly before: Value;
  readonly after: Value;
  /** Set where a kept value can't be worked out: the field is then empty. */
  readonly error: ErrorCode | null;
  readonly errorBefore: ErrorCode | null;
  readonly wave: number;
  /** The rule that wrote it; `null` for an edit. */
  readonly rule: string | null;
  /** Which version of the rule, where two run beside each other. */
  readonly version?: string;
  /** The changes that it follows from; a record that was made or deleted is named with the field `''`. */
  readonly causes: readonly CellRef[];
}

/** Whether a record stands with the same values and problems. */
export function sameRow(a: Row, b: Row): boolean {
  if (a === b) return true;
  if (a.version !== b.version || a.deleted !== b.deleted) return false;
  const keys = Object.keys(a.values);
  return (
    keys.length === Object.keys(b.values).length &&
    keys.every((key) => sameValue(a.values[key] ?? null, b.values[key] ?? null)) &&
    [...Object.keys(a.errors), ...Object.keys(b.errors)].every((key) => a.errors[key] === b.errors[key])
  );
}

/** A record that a run touches: as it stood before, as it stands now (`null`: isn't there), and what of it changed. */
export interface Touched {
  readonly type: string;
  readonly id: string;
  readonly before: Row | null;
  readonly after: Row | null;
  readonly fields: ReadonlySet<string>;
  /** The place of the edit that it comes from; left out where rules alone touched it. */
  readonly index?: number;
}
