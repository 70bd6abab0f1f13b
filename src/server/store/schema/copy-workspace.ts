import type { Transaction } from 'sequelize';
import { quote, run, snake } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** Copies a workspace's model, rules and state into the schema of a new one. The tables of its types aren't touched. */
export async function copyRules(
  transaction: Transaction,
  source: LoadedWorkspace,
  schema: string,
): Promise<void> {
  for (const table of [
    '_model_version',
    '_state',
    '_rule',
    '_rule_version',
    '_saved_list',
    '_sample_family',
    '_proof',
    '_request',
    '_request_rule',
    '_unfinished_rule',
  ])
    await copyTable(transaction, source.schema, schema, table);
  await goOn(transaction, schema, '_model_version');
}

/** Copies every record with its history, and what is kept beside totals, into tables that are there. */
export async function copyAll(
  transaction: Transaction,
  source: LoadedWorkspace,
  schema: string,
): Promise<void> {
  // What was copied so far counts from the first run on.
  await run(
    transaction,
    `DELETE FROM ${quote(schema)}._live_span; DELETE FROM ${quote(schema)}._settled_day`,
  );
  for (const table of [
    '_run',
    '_live_span',
    '_settled_day',
    '_serial',
    '_ledger',
    '_problem',
    '_later',
    '_made',
    '_unmade',
    '_put_again',
    '_proposal',
    ...source.model.types.map(({ key }) => snake(key)),
  ])
    await copyTable(transaction, source.schema, schema, table);
  for (const table of ['_run', '_later', '_proposal']) await goOn(transaction, schema, table);
  await run(
    transaction,
    `ANALYZE ${source.model.types.map(({ key }) => `${quote(schema)}.${quote(snake(key))}`).join(', ') || `${quote(schema)}._run`}`,
  );
}

/** By name: a column that was added later stands elsewhere in a table that is made at once. */
async function copyTable(transaction: Transaction, from: string, to: string, table: string): Promise<void> {
  const found = await run<{ name: string }>(
    transaction,
    `SELECT column_name AS name FROM information_schema.columns WHERE table_name = $3 AND table_schema IN ($1, $2)
      GROUP BY column_name HAVING count(*) = 2`,
    [from, to, table],
  );
  const columns = found.map(({ name }) => quote(name)).join(', ');
  await run(
    transaction,
    `INSERT INTO ${quote(to)}.${quote(table)} (${columns}) OVERRIDING SYSTEM VALUE SELECT ${columns} FROM ${quote(from)}.${quote(table)}`,
  );
}

/** New numbers go on after those that were copied. */
async function goOn(transaction: Transaction, schema: string, table: string): Promise<void> {
  const name = `${quote(schema)}.${quote(table)}`;
  await run(
    transaction,
    `SELECT setval(pg_get_serial_sequence('${name}', 'id'), GREATEST((SELECT max(id) FROM ${name}), 1))`,
  );
}
