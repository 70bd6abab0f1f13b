import type { Model } from '@/core/model';
import type { Transaction } from 'sequelize';
import { columnOf, quote, run, snake, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** Where a rehearsal's temporary tables lie: each has the name of the one that it stands for. */
const SHADOW = 'pg_temp';
/** Above all runs that there are: what the rehearsal writes is told apart from what stands. */
export const SHADOW_RUN = '9000000000000000000';

/** Tables of which a rehearsal has what stands; of the others only what it writes itself. */
const COPIED = ['_problem', '_serial', '_made', '_proposal'];

/**
 * The workspace for a rehearsal on the real data: tables that may be written are temporary copies, all others are looked at where they
 * lie; the run that is rehearsed is the person's. So the same statements that save a run rehearse it, without a lock on any record, and nothing of it can be saved.
 */
export async function shadowOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { types, person }: { readonly types: readonly string[]; readonly person: string | null },
): Promise<LoadedWorkspace> {
  const s = quote(workspace.schema);
  const written = reachedTypes(workspace, types);
  let indexes = 0;
  for (const { key } of workspace.model.types) {
    const [from, name] = [tableOf(workspace.schema, key), quote(snake(key))];
    if (!written.has(key)) {
      await run(transaction, `CREATE TEMPORARY VIEW ${name} AS SELECT * FROM ${from}`);
      continue;
    }
    await run(transaction, `CREATE TEMPORARY TABLE ${name} (LIKE ${from} INCLUDING DEFAULTS) ON COMMIT DROP`);
    await run(transaction, `INSERT INTO ${SHADOW}.${name} SELECT * FROM ${from}`);
    for (const column of ['id', ...workspace.model.linksFrom(key).map(({ link }) => columnOf(link))])
      await run(
        transaction,
        `CREATE INDEX ${quote(`_index_${(indexes += 1)}`)} ON ${SHADOW}.${name} (${column})`,
      );
    await run(transaction, `ANALYZE ${SHADOW}.${name}`);
  }
  for (const table of [...COPIED, '_ledger', '_message'])
    await run(
      transaction,
      `CREATE TEMPORARY TABLE ${table} (LIKE ${s}.${table} INCLUDING DEFAULTS INCLUDING IDENTITY INCLUDING INDEXES) ON COMMIT DROP`,
    );
  for (const table of COPIED)
    await run(
      transaction,
      `INSERT INTO ${SHADOW}.${table} OVERRIDING SYSTEM VALUE SELECT * FROM ${s}.${table}`,
    );
  await run(transaction, `CREATE TEMPORARY TABLE _run (LIKE ${s}._run INCLUDING DEFAULTS) ON COMMIT DROP`);
  await run(transaction, `INSERT INTO ${SHADOW}._run (id, kind, person) VALUES (${SHADOW_RUN}, 'save', $1)`, [
    person,
  ]);
  // Its proposals are numbered above all that there are.
  await run(transaction, `ALTER TABLE ${SHADOW}._proposal ALTER COLUMN id RESTART WITH ${SHADOW_RUN}`);
  return { ...workspace, schema: SHADOW };
}

/** Types whose records rules may write, make or put into the bin after a change of records of types. */
function reachedTypes({ plan, model }: LoadedWorkspace, types: readonly string[]): Set<string> {
  const touched = new Set(types);
  const add = (...types: readonly string[]) => types.forEach((one) => touched.add(one));
  // In a circle what comes earlier may follow from what comes later.
  const turns = plan.circles.length > 0 ? [...plan.turns, ...plan.turns] : plan.turns;
  for (const rule of turns) {
    if (rule.kind !== 'create') {
      if (rule.reads.some((read) => touched.has(read.type))) add(rule.writes.type);
      continue;
    }
    const seen = [rule.writes.type, rule.makes, ...rule.reads.map((read) => read.type)];
    if (!seen.some((one) => touched.has(one))) continue;
    add(rule.writes.type, rule.makes);
    if (rule.definition.afterwards === 'removed') add(...typesBeneath(model, rule.makes));
  }
  return touched;
}

/** Types whose records may go into the bin with one of a type, or lose their link to it. */
function typesBeneath(model: Model, type: string): Set<string> {
  const found = new Set<string>();
  const open = [type];
  for (let next = open.pop(); next !== undefined; next = open.pop())
    for (const { type: child } of model.linksTo(next))
      if (!found.has(child)) {
        found.add(child);
        open.push(child);
      }
  return found;
}
