import { createHash } from 'node:crypto';
import type { Model } from '@/core/model';
import type { ValueType } from '@/core/values';
import { type Transaction } from 'sequelize';
import { database } from '../database/connection';

/** Quotes an identifier by Sequelize's own generator. */
export const quote = (name: string): string => database().getQueryInterface().quoteIdentifier(name, true);

/** `insuredTotal` → `insured_total`: keys have no underscores, so no two of them meet. */
export const snake = (key: string): string => key.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`);

/** A type's table with its schema, and a field's column, both quoted. */
export const tableOf = (schema: string, type: string): string => `${quote(schema)}.${quote(snake(type))}`;
export const columnOf = (field: string): string => quote(snake(field));

/**
 * The columns that hold what a kept value is made of (see `Accumulator`), beside the field's own. They are there once a rule
 * that can be kept by difference was live on the field; NULL means unknown.
 */
export const keptColumns = (field: string): { count: string; sum: string; errors: string } => ({
  count: quote(`${snake(field)}__n`),
  sum: quote(`${snake(field)}__s`),
  errors: quote(`${snake(field)}__e`),
});

/** The values of one statement. Values are always bound, never written into the text. */
export class Binds {
  readonly values: unknown[] = [];

  /** Binds a value and answers its place, with its type: `$3::numeric`. */
  add(value: unknown, type: string): string {
    this.values.push(value);
    return `$${this.values.length}::${type}`;
  }
}

interface PoolClient {
  query(config: {
    name?: string;
    text: string;
    values: readonly unknown[];
  }): Promise<{ rows: Record<string, unknown>[]; rowCount: number | null }>;
}

/** Runs one statement on the connection of a transaction and answers its rows. */
export async function run<T = Record<string, unknown>>(
  transaction: Transaction,
  text: string,
  values: readonly unknown[] = [],
): Promise<T[]> {
  const { connection } = transaction as unknown as { connection: PoolClient };
  return (await connection.query({ text, values })).rows as T[];
}

/** Most statements that are kept prepared on a connection; others are sent as they are. */
const MOST_PREPARED = 300;
const names = new Map<string, string>();

/**
 * The same for statements of every save, prepared once on each connection: half the time of such a statement was spent on
 * planning it. Its name is a hash of the epoch and the text, so a change of the model or of live rules never meets an
 * old plan.
 */
export async function runHot<T = Record<string, unknown>>(
  transaction: Transaction,
  epoch: string,
  text: string,
  values: readonly unknown[] = [],
): Promise<T[]> {
  const { connection } = transaction as unknown as { connection: PoolClient };
  const key = `${epoch} ${text}`;
  let name = names.get(key);
  if (name === undefined) {
    if (names.size >= MOST_PREPARED) names.clear();
    name = createHash('sha256').update(key).digest('base64url');
    names.set(key, name);
  }
  return (await connection.query({ name, text, values })).rows as T[];
}

/** The column type that holds a field. Numbers are exact, with 30 whole digits and the field's own places. */
export function columnType(type: ValueType, places: number): string {
  switch (type.kind) {
    case 'number':
    case 'money':
      return `numeric(${30 + places}, ${places})`;
    case 'rating':
      return 'smallint';
    case 'yesNo':
      return 'boolean';
    case 'date':
      return 'date';
    case 'dateTime':
      return 'timestamptz(3)';
    case 'choices':
      return 'text[]';
    case 'person':
    case 'link':
      return 'uuid';
    case 'text':
    case 'longText':
    case 'choice':
      return 'text';
  }
}

/** The type as which a value of the kind is compared and bound. */
export const bindType = (type: ValueType): string =>
  ({
    number: 'numeric',
    money: 'numeric',
    rating: 'numeric',
    yesNo: 'boolean',
    date: 'date',
    dateTime: 'timestamptz',
    choices: 'text[]',
    person: 'uuid',
    link: 'uuid',
    text: 'text',
    longText: 'text',
    choice: 'text',
  })[type.kind];

/** Reads a column in the form of `fromColumn`: exact decimals and dates as text. */
export function readColumn(type: ValueType, sql: string): string {
  if (type.kind === 'dateTime') return `to_char(${sql} AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`;
  return ['number', 'money', 'rating', 'date', 'person', 'link'].includes(type.kind) ? `${sql}::text` : sql;
}

/** What statements about a workspace's records need to know. */
export interface Schema {
  readonly model: Model;
  readonly schema: string;
}
