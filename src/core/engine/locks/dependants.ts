import type { Model } from '@/core/model';
import type { Plan } from '@/core/plan';
import { type CompiledRule, isReactingCascade } from '@/core/rules';
import { affectedTargets } from '@/core/engine/reach/affected';
import type { Touched } from '@/core/engine/driver/record';
import { standingIn, touchAll } from './lock-claims';
import { claimsOfCascade } from './cascade-claims';
import type { Answer, Need } from '@/core/engine/driver/need';
import { recordKey, type Row } from '@/core/engine/driver/record';

/** A rule that may change because of a record, and the targets that it may change. */
export interface Dependant {
  readonly rule: CompiledRule;
  readonly targets: readonly string[];
}

/** What may follow from a change of any of a record's fields: in the plan's order, also at second hand. */
export function* dependantsOf(model: Model, plan: Plan, row: Row): Generator<Need, Dependant[], Answer> {
  const fields = new Set(Object.keys(row.values).filter((field) => !plan.keeper({ type: row.type, field })));
  const touched = new Map<string, Touched>([
    [recordKey(row), { type: row.type, id: row.id, before: row, after: row, fields }],
  ]);
  const followers = new Map<CompiledRule, readonly string[]>();
  // Where rules run in a circle, what comes earlier may follow from what comes later.
  for (let size = -1; size < touched.size;) {
    size = touched.size;
    for (const rule of plan.rules) {
      const ids = yield* targetsOf(model, rule, touched, row);
      if (ids.length === 0) continue;
      followers.set(rule, ids);
      yield* touchAll(touched, rule.writes.type, ids, [rule.writes.field]);
    }
    if (plan.circles.length === 0) break;
  }
  return plan.rules.flatMap((rule) => {
    const targets = followers.get(rule);
    return targets ? [{ rule, targets }] : [];
  });
}

function* targetsOf(
  model: Model,
  rule: CompiledRule,
  touched: ReadonlyMap<string, Touched>,
  row: Row,
): Generator<Need, string[], Answer> {
  if (!isReactingCascade(rule)) return [...(yield* affectedTargets(model, rule, touched)).targets.keys()];
  const { recipients } = yield* claimsOfCascade({ model, rule, touched, rowsOf: standingIn(touched) });
  return recipients.filter((id) => rule.route.length === 0 || id !== row.id);
}
