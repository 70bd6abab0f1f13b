import { readModel, type Model } from '@/core/model';
import type { Plan } from '@/core/plan';
import type { Rule } from '@/core/rules';
import { firstIn, sameData } from '@/core/values';
import type { Transaction } from 'sequelize';
import { quote, run } from '@/server/store/sql/sql';
import { besideSql, type LoadedWorkspace, planned } from '@/server/store/session/workspace';

/** The rules that were live for a run, on the model as it is now, read as of the settled day of then. */
export interface LiveThen {
  readonly model: Model;
  readonly plan: Plan;
  /** Names of rules of then that don't fit the model any more. */
  readonly unfit: readonly string[];
}

export async function liveThen(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  id: string,
): Promise<LiveThen> {
  const { schema, timeZone } = workspace;
  const s = quote(schema);
  const { day } = firstIn(
    await run<{ day: string }>(
      transaction,
      `SELECT COALESCE(
          (SELECT d.day FROM ${s}._settled_day d WHERE d.after_run < $1 ORDER BY d.after_run DESC LIMIT 1),
          (SELECT (r.at AT TIME ZONE $2)::date FROM ${s}._run r WHERE r.id = $1))::text AS day`,
      [id, timeZone],
    ),
  );
  const rules = await run<Rule>(
    transaction,
    `SELECT r.id::text, v.id::text AS version, r.name, v.definition, l.pilot, ${besideSql('b')} AS beside FROM ${s}._live_span l
      JOIN ${s}._rule r ON r.id = l.rule JOIN ${s}._rule_version v ON v.id = l.version
      LEFT JOIN ${s}._rule_version b ON b.id = l.beside
      WHERE l.after_run < $1 AND (l.up_to_run IS NULL OR l.up_to_run >= $1)`,
    [id],
  );
  const isOfNow =
    day === workspace.settledDay &&
    rules.length === workspace.live.length &&
    rules.every((rule) =>
      workspace.live.some(
        (one) =>
          one.version === rule.version &&
          sameData(one.pilot, rule.pilot) &&
          one.beside?.version === rule.beside?.version,
      ),
    );
  if (isOfNow) return { model: workspace.model, plan: workspace.plan, unfit: [] };
  const model = readModel(workspace.model, day);
  // Those that don't fit are left out of the plan.
  const { plan, problems } = planned(model, rules);
  const unfit = new Set(problems.map(({ rule }) => rule));
  return { model, plan, unfit: rules.filter(({ id: rule }) => unfit.has(rule)).map(({ name }) => name) };
}
