import { firstIn } from '@/core/values';
import type { Transaction } from 'sequelize';
import { quote, run, type Schema, tableOf } from '@/server/store/sql/sql';

/** From so many records on what a run did is counted once, after it is committed, and kept with it: nothing of it changes then. */
export const COUNTED_ONCE = 10_000;

/** How many records of a type a rule (`null`: people) did something to, or made, in one run. */
export interface LedgerCount {
  readonly type: string;
  readonly kind: 'created' | 'changed' | 'deleted' | 'restored';
  readonly rule: string | null;
  readonly records: number;
}

/** What is kept with a run: its counts, and how many entries of the ledger it has. Empty while it waits to be counted. */
interface Kept {
  readonly entries?: number;
  readonly counts?: readonly LedgerCount[];
}

/** A run over many is to be counted once it is committed. */
export const countLater = (transaction: Transaction, schema: string, runId: string): Promise<unknown> =>
  run(transaction, `UPDATE ${quote(schema)}._run SET counted = '{}' WHERE id = $1`, [runId]);

/** Counts the runs that wait for it. */
export async function countWaiting(transaction: Transaction, { model, schema }: Schema): Promise<void> {
  const s = quote(schema);
  const waiting = await run<{ id: string }>(
    transaction,
    `SELECT id::text FROM ${s}._run WHERE counted = '{}' ORDER BY id`,
  );
  for (const { id } of waiting) {
    const counts = await count(transaction, { model, schema }, id);
    const kept: Kept = { entries: await entriesOf(transaction, schema, id), counts };
    await run(transaction, `UPDATE ${s}._run SET counted = $2 WHERE id = $1`, [id, JSON.stringify(kept)]);
  }
}

/**
 * By type, event and rule: how many records a run made, which aren't in the ledger but carry its number, and did something to. All of that is written
 * with the run: what is kept of one that is committed holds.
 */
export async function countsOfRun(
  transaction: Transaction,
  of: Schema,
  runId: string,
): Promise<readonly LedgerCount[]> {
  const { counted } = firstIn(
    await run<{ counted: Kept | null }>(
      transaction,
      `SELECT counted FROM ${quote(of.schema)}._run WHERE id = $1`,
      [runId],
    ),
  );
  return counted?.counts ?? count(transaction, of, runId);
}

/** How many entries of the ledger a run of the row `r` has: as it is kept, or counted. */
export const entriesSql = (schema: string): string =>
  `COALESCE((r.counted ->> 'entries')::int, (SELECT count(*)::int FROM ${quote(schema)}._ledger l WHERE l.run = r.id))`;

async function entriesOf(transaction: Transaction, schema: string, runId: string): Promise<number> {
  const found = await run<{ entries: number }>(
    transaction,
    `SELECT count(*)::int AS entries FROM ${quote(schema)}._ledger WHERE run = $1`,
    [runId],
  );
  return firstIn(found).entries;
}

async function count(
  transaction: Transaction,
  { model, schema }: Schema,
  runId: string,
): Promise<readonly LedgerCount[]> {
  const made: LedgerCount[] = [];
  for (const { key: type } of model.types)
    made.push(
      ...(await run<LedgerCount>(
        transaction,
        `SELECT $2::text AS type, 'created' AS kind, m.rule::text AS rule, count(*)::int AS records
          FROM ${tableOf(schema, type)} t LEFT JOIN ${quote(schema)}._made_ever m ON m.made = t.id AND m.run = $1
          WHERE t.created_run = $1 GROUP BY m.rule`,
        [runId, type],
      )),
    );
  return [...made, ...(await countLedger(transaction, schema, runId))];
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
