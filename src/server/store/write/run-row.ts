import { firstIn } from '@/core/values';
import type { Transaction } from 'sequelize';
import { Binds, quote, run } from '@/server/store/sql/sql';

/** What a run is, for its row and the ledger. */
export interface RunInfo {
  readonly kind: 'save' | 'load' | 'import' | 'listEdit' | 'live' | 'pause' | 'model' | 'day' | 'pace';
  /** Who started it; `null` for the program itself. */
  readonly person: string | null;
  readonly ruleVersion?: string;
  readonly note?: string;
  /** When: an instant; left out, as it is written. */
  readonly at?: string;
}

/** Adds the row of a run and answers its number. */
export async function insertRun(transaction: Transaction, schema: string, info: RunInfo): Promise<string> {
  const binds = new Binds();
  const row = firstIn(
    await run<{ id: string }>(
      transaction,
      `WITH run AS (${insertRunSql(schema, info, binds)}) SELECT id::text FROM run`,
      binds.values,
    ),
  );
  return row.id;
}

/** Notes which fields the rows of an import had. */
export const noteFilled = (
  transaction: Transaction,
  schema: string,
  runId: string,
  fields: readonly string[],
): Promise<unknown> =>
  run(transaction, `UPDATE ${quote(schema)}._run SET filled = $2 WHERE id = $1`, [runId, fields]);

/** Inserts it, as part of a statement; `where` is a FROM clause, of which each row would make one. */
export const insertRunSql = (schema: string, info: RunInfo, binds: Binds, where = ''): string =>
  `INSERT INTO ${quote(schema)}._run (kind, person, rule_version, note, at)
    SELECT ${binds.add(info.kind, 'text')}, ${binds.add(info.person, 'uuid')}, ${binds.add(info.ruleVersion ?? null, 'uuid')}, ${binds.add(info.note ?? '', 'text')}, COALESCE(${binds.add(info.at ?? null, 'timestamptz')}, clock_timestamp()) ${where}
    RETURNING id`;
