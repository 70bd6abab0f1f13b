import { firstIn, writeCount } from '@/core/values';
import { type CompiledRule, isClaiming } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { keepsField } from '@/server/store/write/keeps-field';
import { Refusal } from '@/server/refusal';
import type { EnteredQuery } from '@/server/store/rule-sql/result-sql';
import { differsSql, rollUpSql } from '@/server/store/rule-sql/roll-up-sql';
import { Binds, run } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

export interface Entered {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly entered?: EnteredQuery;
}

/** Refuses what people entered where a rule keeps the field in step: on all records, or on those of a query of their ids. */
export async function refuseEntered(
  { transaction, workspace, entered }: Entered,
  rules: readonly CompiledRule[],
  targets?: string,
): Promise<void> {
  for (const rule of rules) {
    const binds = new Binds();
    const sql = isClaiming(rule) ? (entered?.(rule.writes, binds) ?? null) : null;
    if (sql === null) continue;
    const worked = rollUpSql({
      ...{ schema: workspace, rules: [rule], binds, isKept: keepsField(workspace.plan) },
      ...(targets === undefined ? {} : { targets }),
    });
    const found = firstIn(
      await run<{ number: number }>(
        transaction,
        `SELECT count(*)::int AS number FROM (${worked}) w WHERE ${differsSql(0)} AND id IN (${sql})`,
        binds.values,
      ),
    );
    if (found.number === 0) continue;
    const records = `${writeCount(found.number)} ${found.number === 1 ? 'record has' : 'records have'}`;
    const message = `${records} a value for ${rule.target.name} that the rule “${rule.name}” keeps in step there. Leave the column out, or pause the rule.`;
    throw new Refusal(422, 'edit.kept', message, [], { rule: rule.id, name: rule.name });
  }
}
