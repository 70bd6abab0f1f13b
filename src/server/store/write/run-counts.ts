import { firstIn } from '@/core/values';
import type { Transaction } from 'sequelize';
import { quote, run } from '@/server/store/sql/sql';

/** From so many records on what a run did is counted once, after it is committed, and kept with it: nothing of it changes then. */
export const COUNTED_ONCE = 10_000;

/** How many records of a type a rule (`null`: people) did something to, in one run. */
export interface LedgerCount {
  readonly type: string;
  readonly kind: 'changed' | 'deleted' | 'restored';
  readonly rule: string | null;
  readonly records: number;
}

/** What is kept with a run: its counts, and of how many entries of the ledger they are. Empty while it waits to be counted. */
interface Kept {
  readonly entries?: number;
  readonly counts?: readonly LedgerCount[];
}

/** A run over many is to be counted once it is committed. */
export const countLater = (transaction: Transaction, schema: string, runId: string): Promise<unknown> =>
  run(transaction, `UPDATE ${quote(schema)}._run SET counted = '{}' WHERE id = $1`, [runId]);

/** Counts the runs that wait for it. */
export async function countWaiting(transaction: Transaction, schema: string): Promise<void> {
  const s = quote(schema);
  const waiting = await run<{ id: string }>(
    transaction,
    `SELECT id::text FROM ${s}._run WHERE counted = '{}' ORDER BY id`,
  );
  for (const { id } of waiting) {
    const counts = await countLedger(transaction, schema, id);
    const kept: Kept = { entries: await entriesOf(transaction, schema, id), counts };
    await run(transaction, `UPDATE ${s}._run SET counted = $2 WHERE id = $1`, [id, JSON.stringify(kept)]);
  }
}

/** By type, event and rule: how many entries of the ledger a run has; kept counts where they are of as many entries as there are. */
export async function ledgerCounts(
  transaction: Transaction,
  schema: string,
  runId: string,
): Promise<readonly LedgerCount[]> {
  const { counted } = firstIn(
    await run<{ counted: Kept | null }>(
      transaction,
      `SELECT counted FROM ${quote(schema)}._run WHERE id = $1`,
      [runId],
    ),
  );
  if (counted?.counts && counted.entries === (await entriesOf(transaction, schema, runId)))
    return counted.counts;
  return countLedger(transaction, schema, runId);
}

async function entriesOf(transaction: Transaction, schema: string, runId: string): Promise<number> {
  const found = await run<{ entries: number }>(
    transaction,
    `SELECT count(*)::int AS entries FROM ${quote(schema)}._ledger WHERE run = $1`,
    [runId],
  );
  return firstIn(found).entries;
}

/** First what came by the same versions, of which there are few; then each of their rules. */
const countLedger = (
  transaction: Transaction,
  schema: string,
  runId: string,
): Promise<readonly LedgerCount[]> => {
  const s = quote(schema);
  return run<LedgerCount>(
    transaction,
    `SELECT g.type, g.event AS kind, x.rule::text AS rule, sum(g.records)::int AS records
      FROM (
        SELECT k.type, k.event, k.versions, k.is_own, count(*) AS records FROM (
          SELECT type, event, jsonb_path_query_array(sources, '$.*.ruleVersion') AS versions,
            changes = '{}' AND sources = '{}' OR changes - ARRAY(SELECT jsonb_object_keys(sources)) <> '{}' AS is_own
            FROM ${s}._ledger WHERE run = $1
        ) k GROUP BY 1, 2, 3, 4
      ) g CROSS JOIN LATERAL (
        SELECT DISTINCT v.rule FROM (
          SELECT jsonb_array_elements_text(g.versions)::uuid AS version UNION ALL SELECT NULL WHERE g.is_own
        ) w LEFT JOIN ${s}._rule_version v ON v.id = w.version
      ) x GROUP BY 1, 2, 3`,
    [runId],
  );
};
