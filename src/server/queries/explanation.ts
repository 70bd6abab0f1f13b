import { fieldIn, typeIn } from '@/core/model';
import { explain, type Explanation } from '@/core/verify';
import { inSnapshot } from '../store/transactions';
import { Refusal } from '../refusal';
import { LoadingDriver } from '../store/loading-driver';
import { type LoadedWorkspace, readWorkspace } from '../store/workspace';
import { findRow, namesFor } from './records';

/** What a kept value is made of. Refuses a field that no live rule keeps. */
export function getExplanation(
  known: LoadedWorkspace,
  type: string,
  id: string,
  field: string,
): Promise<Explanation> {
  return inSnapshot(async (transaction) => {
    const workspace = await readWorkspace(transaction, known);
    const { model, plan } = workspace;
    const parent = await findRow(transaction, workspace, type, id);
    if (!model.field(type, field))
      throw new Refusal(404, 'field.unknown', `${typeIn(model, type).name} has no field “${field}”.`);
    const rule = plan.keeper({ type, field });
    if (!rule) {
      const message = `${fieldIn(model, type, field).name} isn’t kept by a live rule: people enter it, so there is nothing to open.`;
      throw new Refusal(404, 'field.notKept', message);
    }
    const driver = new LoadingDriver(workspace, transaction);
    await driver.loadInputs(rule, [id]);
    const rows = [...driver.overlay.rows(rule.link.type)];
    const names = {
      ...Object.fromEntries(workspace.people),
      ...(await namesFor(transaction, workspace, rows)),
    };
    return explain({ model, plan, store: driver.overlay, names }, rule, parent);
  });
}
