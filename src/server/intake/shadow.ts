import { stagesOf } from '@/core/engine';
import type { Plan } from '@/core/plan';
import type { Transaction } from 'sequelize';
import { columnOf, quote, run, snake, tableOf } from '../store/sql';
import type { LoadedWorkspace } from '../store/workspace';

/** Where a rehearsal's temporary tables lie: each has the name of the one that it stands for. */
const SHADOW = 'pg_temp';
/** Above all runs that there are: what the rehearsal writes is told apart from what stands. */
export const SHADOW_RUN = '9000000000000000000';

/**
 * The workspace for a rehearsal on the real data: tables that may be written are temporary copies, all others are looked at where they
 * lie. So the same statements that save a run rehearse it, without a lock on any record, and nothing of it can be saved.
 */
export async function shadowOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: string,
): Promise<LoadedWorkspace> {
  const s = quote(workspace.schema);
  const written = new Set([type, ...reachedTypes(workspace.plan, type)]);
  for (const { key } of workspace.model.types) {
    const [from, name] = [tableOf(workspace.schema, key), quote(snake(key))];
    if (!written.has(key)) {
      await run(transaction, `CREATE TEMPORARY VIEW ${name} AS SELECT * FROM ${from}`);
      continue;
    }
    await run(transaction, `CREATE TEMPORARY TABLE ${name} (LIKE ${from} INCLUDING DEFAULTS) ON COMMIT DROP`);
    await run(transaction, `INSERT INTO ${SHADOW}.${name} SELECT * FROM ${from}`);
    await run(transaction, `CREATE INDEX ON ${SHADOW}.${name} (id)`);
    for (const { link } of workspace.model.linksFrom(key))
      await run(transaction, `CREATE INDEX ON ${SHADOW}.${name} (${columnOf(link)})`);
    await run(transaction, `ANALYZE ${SHADOW}.${name}`);
  }
  for (const table of ['ledger', 'problem', 'serial'])
    await run(
      transaction,
      `CREATE TEMPORARY TABLE ${table} (LIKE ${s}.${table} INCLUDING DEFAULTS INCLUDING INDEXES) ON COMMIT DROP`,
    );
  for (const table of ['problem', 'serial'])
    await run(transaction, `INSERT INTO ${SHADOW}.${table} SELECT * FROM ${s}.${table}`);
  return { ...workspace, schema: SHADOW };
}

/** Types whose records rules may write after a change of records of a type. */
function reachedTypes(plan: Plan, type: string): Set<string> {
  const touched = new Set([type]);
  for (const rules of stagesOf(plan))
    for (const rule of rules)
      if (rule.reads.some((read) => touched.has(read.type))) touched.add(rule.writes.type);
  return touched;
}
