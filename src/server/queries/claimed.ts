import { readerOf, type Row } from '@/core/engine';
import { evaluatorOf } from '@/core/expression';
import type { Transaction } from 'sequelize';
import { LoadingDriver } from '../store/loading-driver';
import type { LoadedWorkspace } from '../store/workspace';

/** Fields that live rules keep in step on this record: where their conditions hold, and there is a record that hands on. */
export async function claimedOn(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  row: Row,
): Promise<string[]> {
  const { model, plan } = workspace;
  const driver = new LoadingDriver(workspace, transaction);
  driver.know(row);
  const claimed: string[] = [];
  for (const rule of plan.rules) {
    if (rule.kind !== 'inStep' || rule.writes.type !== row.type) continue;
    await driver.loadInputs(rule, [row.id]);
    const reader = readerOf(model, driver.overlay);
    if (evaluatorOf(rule.appliesWhen)(row, reader.given, reader.beneath) === true)
      claimed.push(rule.writes.field);
  }
  return claimed;
}
