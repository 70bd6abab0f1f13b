import { firstIn } from '@/core/values';
import { typeIn } from '@/core/model';
import type { Transaction } from 'sequelize';
import { columnOf, quote, run, type Schema, tableOf, uniqueSerial } from '@/server/store/sql/sql';

interface SerialField {
  readonly type: string;
  readonly field: string;
}

const counters = (schema: string): string => `${quote(schema)}._serial`;

/** Takes so many numbers in a row, held until the transaction ends, and answers the first. */
export async function takeSerials(
  transaction: Transaction,
  schema: string,
  { type, field, count }: SerialField & { readonly count: number },
): Promise<number> {
  const taken = firstIn(
    await run<{ first: string }>(
      transaction,
      `UPDATE ${counters(schema)} SET next = next + $3 WHERE type = $1 AND field = $2 RETURNING (next - $3)::text AS first`,
      [type, field, count],
    ),
  );
  return Number(taken.first);
}

/** The number that the next record would be given; takes none. */
export async function nextSerial(
  transaction: Transaction,
  schema: string,
  { type, field }: SerialField,
): Promise<number> {
  const found = firstIn(
    await run<{ next: string }>(
      transaction,
      `SELECT next::text FROM ${counters(schema)} WHERE type = $1 AND field = $2`,
      [type, field],
    ),
  );
  return Number(found.next);
}

/**
 * Holds a new serial field together: none twice, not even in the bin; records that are there are numbered in the order in which they
 * were made.
 */
export async function startSerial(
  transaction: Transaction,
  schema: string,
  type: string,
  field: string,
): Promise<void> {
  const table = tableOf(schema, type);
  // A copy of a workspace brings along where its numbers stand.
  await run(
    transaction,
    `INSERT INTO ${counters(schema)} (type, field) VALUES ($1, $2) ON CONFLICT DO NOTHING`,
    [type, field],
  );
  await numberRecords(transaction, schema, { type, field, where: 'true' });
  await run(
    transaction,
    `CREATE UNIQUE INDEX ${quote(uniqueSerial(type, field))} ON ${table} (${columnOf(field)})`,
  );
}

/** Forgets where the serial numbers of a type, or of one field of it, stand. */
export const endSerials = (
  transaction: Transaction,
  schema: string,
  type: string,
  field: string | null = null,
): Promise<unknown> =>
  run(
    transaction,
    `DELETE FROM ${counters(schema)} WHERE type = $1 AND ($2::text IS NULL OR field = $2::text)`,
    [type, field],
  );

/** Numbers the records that a run made and that came without; those that came with a number move the next one on. */
export async function numberMade({
  transaction,
  workspace: { model, schema },
  type,
  run: made,
}: {
  readonly transaction: Transaction;
  readonly workspace: Schema;
  readonly type: string;
  readonly run: string;
}): Promise<void> {
  for (const field of typeIn(model, type).fields)
    if (field.type.kind === 'serial')
      await numberRecords(transaction, schema, {
        ...{ type, field: field.key },
        where: `created_run = ${BigInt(made)}`,
      });
}

async function numberRecords(
  transaction: Transaction,
  schema: string,
  { type, field, where }: SerialField & { readonly where: string },
): Promise<void> {
  const [table, column] = [tableOf(schema, type), columnOf(field)];
  await run(
    transaction,
    `UPDATE ${counters(schema)} SET next = GREATEST(next, (SELECT COALESCE(max(${column}), 0) + 1 FROM ${table}))
      WHERE type = $1 AND field = $2`,
    [type, field],
  );
  const wanting = firstIn(
    await run<{ count: number }>(
      transaction,
      `SELECT count(*)::int AS count FROM ${table} WHERE ${where} AND ${column} IS NULL`,
    ),
  );
  if (wanting.count === 0) return;
  const first = await takeSerials(transaction, schema, { type, field, count: wanting.count });
  await run(
    transaction,
    `UPDATE ${table} t SET ${column} = n.number FROM (
        SELECT id, $1::bigint + row_number() OVER (ORDER BY created_run, id) - 1 AS number
        FROM ${table} WHERE ${where} AND ${column} IS NULL) n
      WHERE n.id = t.id`,
    [first],
  );
}
