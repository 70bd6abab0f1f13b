import { isFilledByRule, watchedIn } from '@/core/engine';
import { firstIn, writeCount } from '@/core/values';
import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { columnOf, run, tableOf } from '@/server/store/sql/sql';

/** After a run over many: refuses it where it leaves a required link empty that a rule fills, because the rule finds none. */
export async function refuseLeftEmpty(
  transaction: Transaction,
  { schema, model, plan }: LoadedWorkspace,
  runId: string,
): Promise<void> {
  for (const type of model.types) {
    const { fields, open } = watchedIn(plan, type);
    const filled = open.filter((one) => one.required && isFilledByRule(plan, type.key, one));
    for (const { name, columns } of [
      ...fields.map(({ field }) => ({ name: field.name, columns: [field.key] })),
      ...filled.map((one) => ({ name: one.name, columns: one.links })),
    ]) {
      const isEmpty = `num_nonnulls(${columns.map((key) => `t.${columnOf(key)}`).join(', ')}) = 0`;
      const found = firstIn(
        await run<{ number: number }>(
          transaction,
          `SELECT count(*)::int AS number FROM ${tableOf(schema, type.key)} t
            WHERE ${isEmpty} AND t.deleted_run IS NULL AND (t.created_run = $1 OR t.changed_run = $1)`,
          [runId],
        ),
      );
      if (found.number === 0) continue;
      const records = found.number === 1 ? `One ${type.name}` : `${writeCount(found.number)} ${type.plural}`;
      throw new Refusal(
        422,
        'edit.required',
        `${records} would have no ${name}, which is required, and no rule finds one. Nothing was saved; fill it in there.`,
      );
    }
  }
}
