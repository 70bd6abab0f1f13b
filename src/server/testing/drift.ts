import { isReactingCascade, isKeptByDifference, isKeptByExtremum } from '@/core/rules';
import { keepsField } from '@/server/store/write/keeps-field';
import { differsSql, keptDiffersSql, rollUpSql } from '@/server/store/rule-sql/roll-up-sql';
import { Binds, run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import type { TestWorkspace } from './workspace';

/** Targets where set-based SQL over the whole table gives something else than what stands there or is kept beside it. */
export async function driftIn(workspace: Pick<TestWorkspace, 'load'>): Promise<string[]> {
  const schema = await workspace.load();
  return inSnapshot(async (transaction) => {
    const drifted: string[] = [];
    for (const rule of schema.plan.rules) {
      if (isReactingCascade(rule)) continue;
      const binds = new Binds();
      const isKept = keepsField(schema.plan);
      const sql = rollUpSql({ schema, rules: [rule], binds, isKept, withKept: true, withLeader: true });
      const beside = keptDiffersSql(rule, 0, true);
      const known = isKeptByDifference(rule)
        ? 'was_count0 IS NOT NULL AND '
        : isKeptByExtremum(rule)
          ? 'was_leader0 IS NOT NULL AND '
          : '';
      const kept = beside ? ` OR (${known}${beside})` : '';
      const text = `SELECT id::text, before0::text AS before, after0::text AS after FROM (${sql}) w WHERE ${differsSql(0)}${kept}`;
      for (const row of await run(transaction, text, binds.values))
        drifted.push(`${rule.name} ${JSON.stringify(row)}`);
    }
    return drifted;
  });
}
