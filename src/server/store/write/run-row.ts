import { firstIn } from '@/core/values';
import type { Transaction } from 'sequelize';
import { Binds, constant, quote, run } from '@/server/store/sql/sql';

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
export function insertRunSql(schema: string, info: RunInfo, binds: Binds, where = ''): string {
  const { kind, person, ruleVersion, note = '', at } = info;
  const given: [string, string][] = [
    ['kind', constant(kind)],
    ['person', binds.add(person, 'uuid')],
    ['note', binds.add(note, 'text')],
  ];
  if (ruleVersion !== undefined) given.push(['rule_version', binds.add(ruleVersion, 'uuid')]);
  if (at !== undefined) given.push(['at', binds.add(at, 'timestamptz')]);
  return `INSERT INTO ${quote(schema)}._run (${given.map(([column]) => column).join(', ')})
    SELECT ${given.map(([, value]) => value).join(', ')} ${where}
    RETURNING id`;
}
