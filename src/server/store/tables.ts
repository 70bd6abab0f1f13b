import { type Model, type RecordType } from '@/core/model';
import { placesOf } from '@/core/values';
import { type Transaction } from 'sequelize';
import { columnOf, columnType, quote, run, snake, tableOf } from './sql';

/**
 * Makes the tables of a model's types: a typed column for each field, a deferrable foreign key and an index for each link.
 * A record's own columns come first: id, version, the runs that made, last changed and deleted it, with what it went, and its problems.
 */
export async function createTables(transaction: Transaction, schema: string, model: Model): Promise<void> {
  for (const type of model.types) {
    await run(transaction, createTable(schema, type));
    await run(
      transaction,
      `CREATE INDEX ${quote(`${snake(type.key)}_by_title`.slice(0, 63))} ON ${tableOf(schema, type.key)} (${columnOf(type.title)}, id) WHERE deleted_run IS NULL`,
    );
    // Runs come one after the other, so ranges of pages tell where their records are, at next to no cost.
    await run(
      transaction,
      `CREATE INDEX ${quote(`${snake(type.key)}_by_making`.slice(0, 63))} ON ${tableOf(schema, type.key)} USING brin (created_run) WITH (pages_per_range = 16)`,
    );
    await run(
      transaction,
      `CREATE INDEX ${quote(`${snake(type.key)}_in_bin`.slice(0, 63))} ON ${tableOf(schema, type.key)} (deleted_run) WHERE deleted_run IS NOT NULL`,
    );
  }
  for (const type of model.types) {
    for (const { link, parent } of model.linksFrom(type.key)) {
      const table = tableOf(schema, type.key);
      await run(
        transaction,
        `ALTER TABLE ${table} ADD FOREIGN KEY (${columnOf(link)}) REFERENCES ${tableOf(schema, parent)} DEFERRABLE INITIALLY DEFERRED`,
      );
      await run(
        transaction,
        `CREATE INDEX ${quote(`${snake(type.key)}_by_${snake(link)}`.slice(0, 63))} ON ${table} (${columnOf(link)})`,
      );
    }
  }
}

function createTable(schema: string, type: RecordType): string {
  const fields = type.fields.map((field) => {
    const column = columnType(field.type, placesOf(field.type) ?? 0);
    return `${columnOf(field.key)} ${column}${column === 'text' ? ' COLLATE "C"' : ''}${field.required ? ' NOT NULL' : ''}`;
  });
  const own = [
    'id uuid PRIMARY KEY',
    'version integer NOT NULL DEFAULT 1',
    'created_run bigint NOT NULL',
    'changed_run bigint NOT NULL',
    'deleted_run bigint',
    // Of a record that went along with another: that one, so that restoring it brings this back.
    'deleted_with uuid',
    // Kept fields in error with their codes; on the record itself, so that locking it holds them too.
    'problems jsonb',
  ];
  return `CREATE TABLE ${tableOf(schema, type.key)} (${[...own, ...fields].join(', ')})`;
}
