import type { Row } from '@/core/engine';
import { typeIn } from '@/core/model';
import { placesOf } from '@/core/values';
import type { Transaction } from 'sequelize';
import { inSave } from './transactions';
import { insertRun } from './run-writer';
import { columnOf, columnType, run, snake, tableOf } from './sql';
import { toColumn } from './values';
import type { LoadedWorkspace } from './workspace';

const AT_ONCE = 2_000;

/**
 * Loads records as one run, as they are: they must fit the model, and no rule may be live yet (kept values are filled when
 * rules are taken live).
 */
export function loadRows(
  workspace: LoadedWorkspace,
  rows: readonly Row[],
  person: string | null,
): Promise<void> {
  return inSave(
    workspace.key,
    () => false,
    async ({ workspace: fresh, transaction }) => {
      if (fresh.live.length > 0) throw new RangeError('Records are loaded before rules are live');
      const runId = await insertRun(transaction, fresh.schema, { kind: 'load', person, note: 'Loaded' });
      for (const { key } of fresh.model.types) {
        const ofType = rows.filter((row) => row.type === key);
        for (let at = 0; at < ofType.length; at += AT_ONCE)
          await insertRows(transaction, fresh, key, ofType.slice(at, at + AT_ONCE), runId);
      }
    },
  );
}

async function insertRows(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: string,
  rows: readonly Row[],
  runId: string,
): Promise<void> {
  const { fields } = typeIn(workspace.model, type);
  const columns = fields.map((field) => columnOf(field.key));
  const record = fields.map(
    (field) => `${columnOf(field.key)} ${columnType(field.type, placesOf(field.type) ?? 0)}`,
  );
  const documents = rows.map((row) => ({
    id: row.id,
    ...Object.fromEntries(
      fields.map((field) => [snake(field.key), toColumn(field.type, row.values[field.key] ?? null)]),
    ),
  }));
  await run(
    transaction,
    `INSERT INTO ${tableOf(workspace.schema, type)} (id, created_run, changed_run, ${columns.join(', ')})
      SELECT x.id, $2, $2, ${columns.map((column) => `x.${column}`).join(', ')}
      FROM jsonb_to_recordset($1::jsonb) AS x(id uuid, ${record.join(', ')})`,
    [JSON.stringify(documents), runId],
  );
}
