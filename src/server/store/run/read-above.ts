import { type Need, type Row } from '@/core/engine';
import { type Transaction } from 'sequelize';
import { columnOf, runHot, tableOf } from '@/server/store/sql/sql';
import { rowColumns, rowFrom } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** These records and all that lies above them over a self link, level by level in one statement. */
export async function readAbove(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { set, link }: Pick<Extract<Need, { kind: 'above' }>, 'set' | 'link'>,
  ids: readonly string[],
): Promise<Row[]> {
  const column = columnOf(link.link);
  const table = tableOf(workspace.schema, set.type);
  const text = `WITH RECURSIVE up AS (
      SELECT id, ${column} AS next FROM ${table} WHERE id = ANY($1::uuid[])
      UNION SELECT t.id, t.${column} FROM up JOIN ${table} t ON t.id = up.next
    ) SELECT ${rowColumns(workspace, set.type, 't')} FROM ${table} t WHERE t.id IN (SELECT id FROM up)`;
  const found = await runHot(transaction, workspace.epoch, text, [ids]);
  return found.map((row) => rowFrom(workspace, set.type, row));
}
