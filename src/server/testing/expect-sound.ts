import { keptIn, keptPlainly } from '@/core/testing/compare';
import { flawsIn } from './flaws';
import type { TestWorkspace } from './workspace';

/** What rules keep is what the plain evaluator, and a recalculation over the whole table, give; and the ledger has every change, once and in order. */
export async function expectSound(workspace: TestWorkspace): Promise<void> {
  const { model, plan } = await workspace.load();
  const rows = await workspace.rows();
  expect(keptIn(plan, rows)).toEqual(keptPlainly(model, plan, rows));
  expect(await flawsIn(workspace)).toEqual([]);
}
