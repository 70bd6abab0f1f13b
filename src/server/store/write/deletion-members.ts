import { valueAt } from '@/core/values';
import { recordKey, type RecordRef, type DeletionMembers } from '@/core/engine';
import { isCreate } from '@/core/rules';
import type { Transaction } from 'sequelize';
import type { LedgerSource } from './ledger-entries';
import { quote, run, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/**
 * What the deletion of each of these records, which are in the bin, took along: records by the record with which they went,
 * in the same run; links that were cleared from that run's ledger.
 */
export async function readDeletionMembers(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  roots: readonly RecordRef[],
): Promise<DeletionMembers> {
  const { model, plan, schema } = workspace;
  const runs = new Map<string, string>();
  for (const type of new Set(roots.map((root) => root.type))) {
    const ids = roots.filter((root) => root.type === type).map(({ id }) => id);
    const text = `SELECT id::text, deleted_run::text AS run FROM ${tableOf(schema, type)} WHERE id = ANY($1::uuid[]) AND deleted_run IS NOT NULL`;
    for (const { id, run: number } of await run<{ id: string; run: string }>(transaction, text, [ids]))
      runs.set(recordKey({ type, id }), number);
  }
  const byId = new Map(roots.map((root) => [root.id, root]));
  const records: (RecordRef & { with: RecordRef })[] = [];
  for (const { key: type } of model.types.filter(
    ({ key }) =>
      model.linksFrom(key).some(isDeletedToo) ||
      plan.turns.some((rule) => isCreate(rule) && rule.makes === key),
  )) {
    const text = `SELECT id::text, deleted_with::text AS root, deleted_run::text AS run FROM ${tableOf(schema, type)}
      WHERE deleted_run = ANY($1::bigint[]) AND deleted_with = ANY($2::uuid[])`;
    const found = await run<{ id: string; root: string; run: string }>(transaction, text, [
      [...new Set(runs.values())],
      [...byId.keys()],
    ]);
    for (const { id, root, run: number } of found) {
      const by = valueAt(byId, root);
      if (runs.get(recordKey(by)) === number) records.push({ type, id, with: by });
    }
  }
  const back = new Set([...runs.keys(), ...records.map(recordKey)]);
  return { records, cleared: await readCleared(transaction, schema, [...new Set(runs.values())], back) };
}

const isDeletedToo = ({ policy }: { policy: string }): boolean => policy === 'delete';

async function readCleared(
  transaction: Transaction,
  schema: string,
  runs: readonly string[],
  parents: ReadonlySet<string>,
): Promise<DeletionMembers['cleared'][number][]> {
  interface Logged {
    type: string;
    record: string;
    changes: Record<string, [unknown, unknown]>;
    sources: Record<string, LedgerSource>;
  }
  const logged = await run<Logged>(
    transaction,
    `SELECT type, record::text, changes, sources FROM ${quote(schema)}._ledger WHERE run = ANY($1::bigint[]) AND event IN ('changed', 'restored')`,
    [runs],
  );
  return logged.flatMap(({ type, record, changes, sources }) =>
    Object.entries(sources).flatMap(([field, { ruleVersion, causes }]) => {
      const [cause] = causes;
      if (ruleVersion !== null || cause?.field !== '' || changes[field]?.[1] !== null) return [];
      const parent = { type: cause.type, id: cause.id };
      return parents.has(recordKey(parent)) ? [{ type, id: record, field, parent }] : [];
    }),
  );
}
