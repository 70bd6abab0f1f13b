import type { Row } from '@/core/engine';
import { copyRows } from '@/server/store/sql/copy-in';
import { insertRun } from '@/server/store/write/run-row';
import { numberMade } from '@/server/store/write/serials';
import { inSave } from '@/server/store/session/transactions';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

export type NewRow = Pick<Row, 'id' | 'values'>;

/**
 * Loads records as one run, as they are: they must fit the model, and no rule may be live yet (kept values are filled when
 * rules are taken live).
 */
export function loadRows(
  workspace: LoadedWorkspace,
  rows: ReadonlyMap<string, Iterable<NewRow>> | readonly Row[],
  person: string | null,
): Promise<void> {
  const byType: ReadonlyMap<string, Iterable<NewRow>> = Array.isArray(rows)
    ? new Map(
        workspace.model.types.map(({ key }) => [key, (rows as Row[]).filter((row) => row.type === key)]),
      )
    : (rows as ReadonlyMap<string, Iterable<NewRow>>);
  return inSave(
    workspace.key,
    () => false,
    async ({ workspace: fresh, transaction }) => {
      if (fresh.live.length > 0) throw new RangeError('Records are loaded before rules are live');
      const run = await insertRun(transaction, fresh.schema, { kind: 'load', person, note: 'Loaded' });
      for (const { key } of fresh.model.types) {
        const ofType = byType.get(key);
        if (!ofType) continue;
        await copyRows(transaction, fresh, key, run, ofType);
        await numberMade({ transaction, workspace: fresh, type: key, run });
      }
    },
  );
}
