import { firstIn } from '@/core/values';
import { readerOf, type Row } from '@/core/engine';
import { evaluatorOf } from '@/core/expression';
import { isClaiming, isOfHalf, isReactingCascade } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { SnapshotDriver } from '@/server/store/run/snapshot-driver';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/**
 * Fields that live rules keep in step on records of one type, by the records' ids: where their conditions hold, and
 * there is a record that cascades. Records without any are left out.
 */
export async function claimedOn(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rows: readonly Row[],
): Promise<Map<string, string[]>> {
  const { model, plan } = workspace;
  const claimed = new Map<string, string[]>();
  if (rows.length === 0) return claimed;
  const driver = new SnapshotDriver(workspace, transaction);
  for (const row of rows) driver.know(row);
  for (const rule of plan.rules) {
    if (!isClaiming(rule) || isReactingCascade(rule) || rule.writes.type !== firstIn(rows).type) continue;
    await driver.loadInputs(
      rule,
      rows.map(({ id }) => id),
    );
    const reader = readerOf(model, driver.overlay);
    const where = rule.kind === 'rollUp' || rule.kind === 'formula' ? rule.claims : rule.appliesWhen;
    const applies = where ? evaluatorOf(where) : () => true;
    // Where a link rule found none and leaves the link as it is, it claims nothing.
    const isLeft = (row: Row) =>
      rule.kind === 'linked' && rule.none === 'leave' && (row.values[rule.writes.field] ?? null) === null;
    for (const row of rows)
      if (
        isOfHalf(rule.half, row, reader) === true &&
        applies(row, reader.given, reader.beneath) === true &&
        !isLeft(row)
      )
        claimed.set(row.id, [...(claimed.get(row.id) ?? []), rule.writes.field]);
  }
  return claimed;
}
