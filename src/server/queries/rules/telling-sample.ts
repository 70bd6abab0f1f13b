import { type Expression, type Typed, typeCondition } from '@/core/expression';
import { arrive, type Step, type StepDown } from '@/core/model';
import { type RuleDefinition, withOption } from '@/core/rules';
import { byKind } from '@/core/values';
import { database } from '@/server/database/connection';
import { listRecords } from '@/server/queries/records/list-records';
import { expressionSql } from '@/server/store/rule-sql/expression-sql';
import { membersSql, RouteJoins } from '@/server/store/rule-sql/route-joins';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { Binds, run } from '@/server/store/sql/sql';
import { keepsField } from '@/server/store/write/keeps-field';

/** So many records beneath are looked at: enough to find a sample that tells, and quick whatever there is. */
const MOST_LOOKED_AT = 5_000;

/** About as many beneath a sample as can be looked over. */
const FEW = 8;

/** What a rule asks, and of which records: those beneath by steps down, or of the records that it is on. */
interface Asked {
  readonly down: readonly StepDown[];
  readonly condition: Expression | null;
}

const asked = byKind<RuleDefinition, [], Asked>({
  rollUp: (definition) => {
    const { type, also = [], perOption } = definition;
    // What goes all the way down is seen best where a hierarchy lies beneath.
    const deep = [definition, ...also].find(({ route }) => downOf(route).at(-1)?.type === type);
    const { route, condition } = deep ?? definition;
    return {
      down: downOf(route),
      condition: perOption ? withOption(condition, perOption.by, perOption.option) : condition,
    };
  },
  cascade: ({ route, condition }) => ({ down: downOf(route), condition }),
  formula: ({ appliesWhen }) => ({ down: [], condition: appliesWhen }),
  link: ({ appliesWhen }) => ({ down: [], condition: appliesWhen }),
  create: ({ condition }) => ({ down: [], condition }),
});

function downOf(route: readonly Step[]): readonly StepDown[] {
  const turn = route.findIndex(({ direction }) => direction === 'up');
  return (turn < 0 ? route : route.slice(0, turn)) as readonly StepDown[];
}

/**
 * The record on which a rule, as it is written, tells most: where some of what lies beneath counts and some doesn't, rather few of them; else where
 * something counts; of a rule that asks of its own records one that meets it. `null` where nothing tells more than any other.
 */
export async function tellingSample(key: string, definition: RuleDefinition): Promise<string | null> {
  const workspace = await loadWorkspace(key);
  const { down, condition } = asked(definition);
  const { model } = workspace;
  const at = down.length > 0 ? arrive(model, definition.type, down) : definition.type;
  if (at === undefined || model.type(definition.type) === undefined) return null;
  const typed = condition && typeCondition(model, at, condition);
  if (typed && !typed.ok) return null;
  if (down.length > 0) return tellingParent(workspace, at, down, typed && typed.value);
  if (!condition) return null;
  const list = await listRecords(workspace, {
    ...{ type: definition.type, filter: {}, descending: false, limit: 1, condition },
  });
  return list.records[0]?.id ?? null;
}

async function tellingParent(
  workspace: LoadedWorkspace,
  type: string,
  down: readonly StepDown[],
  condition: Typed | null,
): Promise<string | null> {
  const binds = new Binds();
  const members = membersSql(workspace, down);
  const isKept = keepsField(workspace.plan);
  const routes = new RouteJoins({ schema: workspace, from: type, alias: 'c', binds, isKept });
  const counts = condition ? `coalesce(${expressionSql(condition, routes, binds)}, false)` : 'true';
  const text = `SELECT parent FROM (
      SELECT ${members.parent} AS parent, ${counts} AS counts FROM ${members.from} ${routes.sql()}
        WHERE c.deleted_run IS NULL AND ${members.parent} IS NOT NULL LIMIT ${binds.add(MOST_LOOKED_AT, 'int')}) m
    GROUP BY parent
    ORDER BY (bool_or(counts) AND NOT bool_and(counts)) DESC, bool_or(counts) DESC, abs(count(*) - ${binds.add(FEW, 'int')}), parent
    LIMIT 1`;
  const [found] = await database().transaction((transaction) =>
    run<{ parent: string }>(transaction, text, binds.values),
  );
  return found?.parent ?? null;
}
