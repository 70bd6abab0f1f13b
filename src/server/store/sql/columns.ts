import type { Row } from '@/core/engine';
import { fieldIn, typeIn } from '@/core/model';
import type { Accumulator, CompiledRule } from '@/core/rules';
import {
  fold,
  currencyPlaces,
  Decimal,
  type ErrorCode,
  isMoney,
  placesOf,
  toWire,
  type Value,
  type ValueType,
  itemAt,
} from '@/core/values';
import { type Transaction } from 'sequelize';
import { foldedSql } from './folded-sql';
import {
  bindType,
  Binds,
  columnOf,
  columnType,
  idsAmong,
  keptColumns,
  once,
  readColumn,
  run,
  runHot,
  type Schema,
  tableOf,
} from './sql';

/** A value as it is bound or sent within JSON: decimals as digits, several choices as an array. */
export function toColumn(type: ValueType, value: Value): unknown {
  if (isMoney(value))
    return type.kind === 'anyMoney'
      ? `(${value.amount.toFixed(currencyPlaces(value.currency))},${value.currency})`
      : value.amount.toFixed();
  if (Decimal.isDecimal(value)) return value.toFixed();
  return type.kind === 'rating' && value !== null ? toWire(type, value) : value;
}

/** A value as `readColumn` gives it. Stored values were checked on their way in, so they are only given their form. */
export function fromColumn(type: ValueType, stored: unknown): Value {
  if (stored === null || stored === undefined) return null;
  if (type.kind === 'number' || type.kind === 'rating' || type.kind === 'serial')
    return new Decimal(stored as string);
  if (type.kind === 'money') return { amount: new Decimal(stored as string), currency: type.currency };
  if (type.kind === 'anyMoney') {
    const [amount, currency] = (stored as string).slice(1, -1).split(',') as [string, string];
    return { amount: new Decimal(amount), currency };
  }
  return stored as Value;
}

export const fieldColumnType = (schema: Schema, type: string, field: string): string => {
  const { type: valueType } = fieldIn(schema.model, type, field);
  return columnType(valueType, placesOf(valueType) ?? 0);
};

/** The columns of a row of `alias`, for `rowFrom`. */
export const rowColumns = (schema: Schema, type: string, alias: string): string =>
  once(schema, `row ${type} ${alias}`, () => writeRowColumns(schema, type, alias));

/** Most arguments that PostgreSQL passes to a function are 100. */
const AT_ONCE = 90;

/** Of a record itself, before its fields. */
const OWN = 4;

/** All comes as lists: the driver takes a column apart in ten times the time that it takes to parse a value. */
function writeRowColumns(schema: Schema, type: string, alias: string): string {
  const columns = [
    `${alias}.id`,
    `${alias}.version`,
    `${alias}.deleted_run IS NOT NULL`,
    `${alias}.problems`,
    ...typeIn(schema.model, type).fields.map((field) =>
      readColumn(field.type, `${alias}.${columnOf(field.key)}`),
    ),
  ];
  const lists: string[] = [];
  for (let at = 0; at < columns.length; at += AT_ONCE)
    lists.push(`json_build_array(${columns.slice(at, at + AT_ONCE).join(', ')}) AS list${at / AT_ONCE}`);
  return lists.join(', ');
}

/** What is kept beside the targets of these rules on one type, for `keptFrom`: three texts for each. */
export function keptReads(rules: readonly CompiledRule[], alias: string): string {
  const columns = rules.flatMap(({ writes }) => {
    const { count, sum, errors } = keptColumns(writes.field);
    return [count, sum, errors].map((column) => `${alias}.${column}::text`);
  });
  return columns.length > 0 ? `, to_json(ARRAY[${columns.join(', ')}]) AS kept` : '';
}

/** Which child leads, for these rules on one type: `leaders`. */
export function extremumReads(rules: readonly CompiledRule[], alias: string): string {
  const columns = rules.map(({ writes }) => `${alias}.${keptColumns(writes.field).leader}::text`);
  return columns.length > 0 ? `, to_json(ARRAY[${columns.join(', ')}]) AS leaders` : '';
}

/** What is kept beside a target for the rule at a position; `null` where it is unknown. */
export function keptFrom({ kept }: Record<string, unknown>, at: number): Accumulator | null {
  const [count, sum, errors] = (kept as readonly (string | null)[]).slice(3 * at, 3 * at + 3);
  if (!count || !sum || !errors) return null;
  return { count: Number(count), sum: new Decimal(sum), errors: Number(errors) };
}

export function rowFrom(schema: Schema, type: string, found: Record<string, unknown>): Row {
  const { fields } = typeIn(schema.model, type);
  const first = found.list0 as readonly unknown[];
  const values: Record<string, Value> = {};
  let list = first;
  for (let at = 0; at < fields.length; at += 1) {
    const place = (at + OWN) % AT_ONCE;
    if (place === 0) list = found[`list${(at + OWN) / AT_ONCE}`] as readonly unknown[];
    const { key, type: of } = itemAt(fields, at);
    values[key] = fromColumn(of, list[place]);
  }
  return {
    type,
    id: first[0] as string,
    version: first[1] as number,
    deleted: first[2] as boolean,
    values,
    errors: (first[3] as Record<string, ErrorCode> | null) ?? NO_ERRORS,
  };
}

const NO_ERRORS = {};

/** Rows by id, deleted ones included. */
export async function readRows(
  transaction: Transaction,
  schema: Schema,
  type: string,
  ids: readonly string[],
  /** For reads of every save: the statement is kept prepared. */
  epoch?: string,
): Promise<Row[]> {
  if (ids.length === 0) return [];
  const read = once(
    schema,
    `rows ${type}`,
    () => `SELECT ${rowColumns(schema, type, 't')} FROM ${tableOf(schema.schema, type)} t`,
  );
  const binds = new Binds();
  const text = `${read} WHERE ${idsAmong('t.id', ids, binds)}`;
  const found =
    epoch === undefined
      ? await run(transaction, text, binds.values)
      : await runHot(transaction, epoch, text, binds.values);
  return found.map((row) => rowFrom(schema, type, row));
}

/** Rows, not deleted, that have one of the values in a field. */
export async function readHolders(
  transaction: Transaction,
  schema: Schema,
  {
    type,
    field,
    values,
    isFolded = false,
  }: { type: string; field: string; values: readonly Value[]; isFolded?: boolean },
): Promise<Row[]> {
  const { type: valueType } = fieldIn(schema.model, type, field);
  const binds = new Binds();
  const wanted = values.map((value) => toColumn(valueType, isFolded ? fold(value as string) : value));
  const own = `t.${columnOf(field)}`;
  const held = isFolded ? foldedSql(own, binds) : own;
  const text = `SELECT ${rowColumns(schema, type, 't')} FROM ${tableOf(schema.schema, type)} t
    WHERE ${held} = ANY(${binds.add(wanted, `${bindType(valueType)}[]`)}) AND t.deleted_run IS NULL`;
  const found = await run(transaction, text, binds.values);
  return found.map((row) => rowFrom(schema, type, row));
}

/** Rows, not deleted, whose link names one of the parents. */
export async function readChildren(
  transaction: Transaction,
  schema: Schema,
  type: string,
  link: string,
  parents: readonly string[],
  limit?: number,
): Promise<Row[]> {
  if (parents.length === 0) return [];
  const text = `SELECT ${rowColumns(schema, type, 't')} FROM ${tableOf(schema.schema, type)} t
    WHERE t.${columnOf(link)} = ANY($1::uuid[]) AND t.deleted_run IS NULL ORDER BY t.id ${limit === undefined ? '' : `LIMIT ${Number(limit)}`}`;
  return (await run(transaction, text, [parents])).map((found) => rowFrom(schema, type, found));
}
