import type { Model } from '../model';
import type { Plan } from '../plan';
import type { CompiledRule } from '../rules';
import { affectedTargets, type Touched } from './affected';
import { touchAll } from './claims';
import type { Answer, Need } from './need';
import { recordKey, type Row } from './record';

/** A rule that may change because of a record, and the targets that it may change. */
export interface Follower {
  readonly rule: CompiledRule;
  readonly targets: readonly string[];
}

/** What may follow from a change of any of a record's fields: in the plan's order, also at second hand. */
export function* followersOf(model: Model, plan: Plan, row: Row): Generator<Need, Follower[], Answer> {
  const fields = new Set(Object.keys(row.values).filter((field) => !plan.keeper({ type: row.type, field })));
  const touched = new Map<string, Touched>([
    [recordKey(row), { type: row.type, id: row.id, before: row, after: row, fields }],
  ]);
  const followers: Follower[] = [];
  for (const rule of plan.rules) {
    const { targets } = yield* affectedTargets(model, rule, touched);
    if (targets.size === 0) continue;
    const ids = [...targets.keys()];
    followers.push({ rule, targets: ids });
    yield* touchAll(touched, rule, ids);
  }
  return followers;
}
