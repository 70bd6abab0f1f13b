import { type Field, type Model, type OpenLink, type RecordType } from '@/core/model';
import { placesOf } from '@/core/values';
import { type Transaction } from 'sequelize';
import { startSerial } from '@/server/store/write/serials';
import {
  columnOf,
  columnType,
  indexName,
  openLinkName,
  quote,
  run,
  snake,
  tableOf,
  uniqueName,
} from '@/server/store/sql/sql';

const named = (type: string, what: string): string => quote(indexName(type, what));

/**
 * Makes the tables of a model's types: a typed column for each field, a deferrable foreign key and an index for each link.
 * A record's own columns come first: id, version, the runs that made, last changed and deleted it, with what it went, and its problems.
 * `fill` is called once the tables are there: indexes after the load cost less.
 */
export async function createTables(
  transaction: Transaction,
  schema: string,
  model: Model,
  types: readonly RecordType[] = model.types,
  fill: () => Promise<void> = () => Promise.resolve(),
): Promise<void> {
  for (const type of types) await run(transaction, createTable(schema, type));
  await fill();
  for (const type of types) {
    const table = tableOf(schema, type.key);
    await run(
      transaction,
      `CREATE INDEX ${named(type.key, 'titles')} ON ${table} (${columnOf(type.title)}, id) WHERE deleted_run IS NULL`,
    );
    // Runs come one after the other, so ranges of pages tell where their records are, at next to no cost.
    await run(
      transaction,
      `CREATE INDEX ${named(type.key, 'making')} ON ${table} USING brin (created_run) WITH (pages_per_range = 16)`,
    );
    await run(
      transaction,
      `CREATE INDEX ${named(type.key, 'bin')} ON ${table} (deleted_run) WHERE deleted_run IS NOT NULL`,
    );
  }
  for (const type of types) {
    for (const field of type.fields) await bindField(transaction, schema, type.key, field);
    for (const open of type.openLinks ?? []) await bindOpenLink(transaction, schema, type.key, open);
  }
}

/** Holds each record to at most one of the links, or to one where it is required. */
export async function bindOpenLink(
  transaction: Transaction,
  schema: string,
  type: string,
  { key, links, required }: OpenLink,
): Promise<void> {
  const filled = `num_nonnulls(${links.map(columnOf).join(', ')})`;
  await run(
    transaction,
    `ALTER TABLE ${tableOf(schema, type)} ADD CONSTRAINT ${quote(openLinkName(type, key))} CHECK (${filled} ${required ? '= 1' : '<= 1'})`,
  );
}

export const freeOpenLink = (
  transaction: Transaction,
  schema: string,
  type: string,
  open: string,
): Promise<unknown> =>
  run(
    transaction,
    `ALTER TABLE ${tableOf(schema, type)} DROP CONSTRAINT IF EXISTS ${quote(openLinkName(type, open))}`,
  );

/** What holds a column to others: a link’s foreign key and index, a unique field’s index, where a serial number stands. */
export async function bindField(
  transaction: Transaction,
  schema: string,
  type: string,
  field: Field,
): Promise<void> {
  const table = tableOf(schema, type);
  const column = columnOf(field.key);
  if (field.type.kind === 'link') {
    await run(
      transaction,
      `ALTER TABLE ${table} ADD FOREIGN KEY (${column}) REFERENCES ${tableOf(schema, field.type.target)} DEFERRABLE INITIALLY DEFERRED`,
    );
    await run(transaction, `CREATE INDEX ${named(type, `by_${snake(field.key)}`)} ON ${table} (${column})`);
  }
  if (field.type.kind === 'serial') await startSerial(transaction, schema, type, field.key);
  if (field.unique) await run(transaction, makeUnique(schema, type, field.key));
}

export const makeUnique = (schema: string, type: string, field: string): string =>
  `CREATE UNIQUE INDEX ${quote(uniqueName(type, field))} ON ${tableOf(schema, type)} (${columnOf(field)}) WHERE deleted_run IS NULL`;

/** A field's column with its type, as CREATE TABLE and ADD COLUMN take it. */
export function columnSql(field: Field): string {
  const column = columnType(field.type, placesOf(field.type) ?? 0);
  return `${columnOf(field.key)} ${column}${column === 'text' ? ' COLLATE "C"' : ''}${field.required ? ' NOT NULL' : ''}`;
}

function createTable(schema: string, type: RecordType): string {
  const own = [
    `id uuid CONSTRAINT ${named(type.key, 'pkey')} PRIMARY KEY`,
    'version integer NOT NULL DEFAULT 1',
    'created_run bigint NOT NULL',
    'changed_run bigint NOT NULL',
    'deleted_run bigint',
    // Of a record that went along with another: that one, so that restoring it brings this back.
    'deleted_with uuid',
    // Kept fields in error with their codes; on the record itself, so that locking it holds them too.
    'problems jsonb',
  ];
  return `CREATE TABLE ${tableOf(schema, type.key)} (${[...own, ...type.fields.map(columnSql)].join(', ')})`;
}
