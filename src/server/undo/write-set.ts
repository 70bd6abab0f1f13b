import { valueAt } from '@/core/values';
import { fieldIn } from '@/core/model';
import { recomputeAfter } from '@/server/store/bulk/recompute-after';
import { type Filled } from '@/core/engine';
import { columnOf, quote, run, tableOf } from '@/server/store/sql/sql';
import { CELLS, columnSqlOf, RECORDS, stagedFields, stagedTypes, type Undoing } from './staged';

/** An undo that writes by statements over the whole set. */
export interface WritingSet extends Undoing {
  /** The run as which it is written. */
  readonly undoneBy: string;
  /** Every pace comes round at once, as rehearsals show it. */
  readonly isEveryPace: boolean;
}

/** Writes what was decided, with its ledger, and works out what rules keep; nobody else saves meanwhile. Answers what rules wrote. */
export async function writeSet(writing: WritingSet): Promise<readonly Filled[]> {
  const types = (await stagedTypes(writing)).map(({ type }) => type);
  const fields = await stagedFields(writing.transaction);
  for (const type of types) {
    if (fields.has(type)) await writeValues(writing, type, valueAt(fields, type));
    await writeRecords(writing, type);
    await writeLedger(writing, type);
    await run(writing.transaction, `ANALYZE ${tableOf(writing.workspace.schema, type)}`);
  }
  const [type, ...also] = types;
  if (type === undefined) return [];
  const { transaction, workspace, undoneBy, isEveryPace } = writing;
  const filled = await recomputeAfter({
    ...{ transaction, workspace, run: undoneBy, isEveryPace, isQuiet: true },
    written: { type, also, parents: (link) => parentsSql(writing, type, link) },
  });
  await settleClaimed(writing);
  return filled;
}

/** The parents that written records name, or named before. */
function parentsSql({ workspace }: Undoing, type: string, link: string): string {
  const written = `SELECT id FROM ${CELLS} WHERE type = '${type}' AND why IS NULL UNION SELECT id FROM ${RECORDS} WHERE type = '${type}' AND why IS NULL`;
  return `SELECT t.${columnOf(link)} FROM ${tableOf(workspace.schema, type)} t WHERE t.id IN (${written})
    UNION SELECT (c.after #>> '{}')::uuid FROM ${CELLS} c WHERE c.type = '${type}' AND c.field = '${link}' AND c.why IS NULL AND c.after <> 'null'`;
}

async function writeValues(
  { transaction, workspace, undoneBy }: WritingSet,
  type: string,
  keys: readonly string[],
): Promise<void> {
  const parts = keys.map((key, at) => {
    const field = fieldIn(workspace.model, type, key);
    const wire = `(jsonb_object_agg(c.field, c.before) FILTER (WHERE c.field = '${key}') -> '${key}')`;
    return { at, column: columnOf(key), sql: columnSqlOf(field, `x.w${at}`), wire, field };
  });
  const errors = parts.map(({ field }) => `'${field.key}'`).join(', ');
  await run(
    transaction,
    `UPDATE ${tableOf(workspace.schema, type)} t SET ${parts
      .map(({ at, column, sql }) => `${column} = CASE WHEN x.h${at} THEN ${sql} ELSE t.${column} END`)
      .join(
        ', ',
      )}, version = t.version + 1, changed_run = $2, problems = NULLIF(t.problems - ARRAY(SELECT f FROM unnest(ARRAY[${errors}]) f WHERE f = ANY(x.fields)), '{}')
      FROM (SELECT c.id, array_agg(c.field) AS fields, ${parts.map(({ at, wire, field }) => `COALESCE(bool_or(c.field = '${field.key}'), false) AS h${at}, ${wire} AS w${at}`).join(', ')}
        FROM ${CELLS} c WHERE c.type = $1 AND c.why IS NULL GROUP BY c.id) x WHERE x.id = t.id`,
    [type, undoneBy],
  );
  await run(
    transaction,
    `DELETE FROM ${quote(workspace.schema)}._problem p USING ${CELLS} c WHERE c.type = $1 AND c.why IS NULL AND p.record = c.id AND p.field = c.field`,
    [type],
  );
}

async function writeRecords({ transaction, workspace, undoneBy }: WritingSet, type: string): Promise<void> {
  // A record whose values were written already counts once.
  await run(
    transaction,
    `UPDATE ${tableOf(workspace.schema, type)} t SET changed_run = $2,
        version = t.version + CASE WHEN EXISTS (SELECT FROM ${CELLS} c WHERE c.id = t.id AND c.why IS NULL) THEN 0 ELSE 1 END,
        deleted_run = CASE r.what WHEN 'delete' THEN $2::bigint END, deleted_with = CASE r.what WHEN 'delete' THEN COALESCE(r.with_id, r.id) END
      FROM ${RECORDS} r WHERE r.type = $1 AND r.why IS NULL AND r.id = t.id`,
    [type, undoneBy],
  );
}

async function writeLedger({ transaction, workspace, undoneBy }: WritingSet, type: string): Promise<void> {
  await run(
    transaction,
    `INSERT INTO ${quote(workspace.schema)}._ledger (run, type, record, event, changes)
      SELECT $2, $1, COALESCE(c.id, r.id), CASE r.what WHEN 'delete' THEN 'deleted' WHEN 'restore' THEN 'restored' ELSE 'changed' END, COALESCE(c.changes, '{}')
      FROM (SELECT id, jsonb_object_agg(field, jsonb_build_array(after, before)) AS changes FROM ${CELLS} WHERE type = $1 AND why IS NULL GROUP BY id) c
        FULL JOIN (SELECT id, what FROM ${RECORDS} WHERE type = $1 AND why IS NULL) r ON r.id = c.id`,
    [type, undoneBy],
  );
}

/** Where a rule keeps the field for a record after all, the ledger tells of what stood there before the undo; and nothing where that stands again. */
async function settleClaimed({ transaction, workspace, undoneBy }: WritingSet): Promise<void> {
  const ledger = `${quote(workspace.schema)}._ledger`;
  const found = await run<{ type: string; field: string }>(
    transaction,
    `SELECT DISTINCT type, field FROM ${CELLS} WHERE is_claimed AND why IS NULL ORDER BY type, field`,
  );
  for (const { type, field } of found)
    await run(
      transaction,
      `WITH kept AS (
          SELECT c.id, c.after FROM ${CELLS} c JOIN ${ledger} l ON l.run = $1 AND l.type = c.type AND l.record = c.id
            WHERE c.type = $2 AND c.field = $3 AND c.why IS NULL AND l.sources ? $3
        ), gone AS (DELETE FROM ${CELLS} c USING kept k WHERE c.id = k.id AND c.field = $3)
        UPDATE ${ledger} l SET
            changes = CASE WHEN l.changes -> $3 -> 1 = k.after THEN l.changes - $3 ELSE jsonb_set(l.changes, ARRAY[$3, '0'], k.after) END,
            sources = CASE WHEN l.changes -> $3 -> 1 = k.after THEN l.sources - $3 ELSE l.sources END
          FROM kept k WHERE l.run = $1 AND l.type = $2 AND l.record = k.id`,
      [undoneBy, type, field],
    );
  await run(transaction, `DELETE FROM ${ledger} WHERE run = $1 AND event = 'changed' AND changes = '{}'`, [
    undoneBy,
  ]);
}
