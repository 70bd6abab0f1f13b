import { datedIn, type Plan } from '@/core/plan';
import {
  compileRule,
  reacts,
  type Rule,
  type RuleDefinition,
  type RuleState,
  sentenceOf,
} from '@/core/rules';
import { type KeeperView, planWithDrafts, type RuleView } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { database } from '../database/connection';
import { dayIn } from '../day';
import { Refusal } from '../refusal';
import { quote, run } from '../store/sql';
import { type LoadedWorkspace, readWorkspace } from '../store/workspace';
import { instantSql } from './run-head';

interface Stored {
  id: string;
  name: string;
  note: string;
  state: RuleState;
  version: number;
  latest_version: string;
  live_version: string | null;
  definition: RuleDefinition;
  live_definition: RuleDefinition | null;
  state_changed_at: string;
}

const selectRules = (schema: string): string => `
  SELECT r.id::text, r.name, r.note, r.state, r.version, r.latest_version::text, r.live_version::text,
    v.definition, l.definition AS live_definition, ${instantSql('r.state_changed_at')} AS state_changed_at
  FROM ${quote(schema)}.rule r
  JOIN ${quote(schema)}.rule_version v ON v.id = r.latest_version
  LEFT JOIN ${quote(schema)}.rule_version l ON l.id = r.live_version`;

/** The latest version of a stored rule, as the plan takes it. */
export const latestOf = ({ id, latest_version: version, name, definition }: Stored): Rule => ({
  id,
  version,
  name,
  definition,
});

export async function findRule(transaction: Transaction, schema: string, id: string): Promise<Stored> {
  const [found] = await run<Stored>(transaction, `${selectRules(schema)} WHERE r.id::text = $1`, [id]);
  if (!found) throw new Refusal(404, 'rule.unknown', `There is no rule ${id}. Go back to the list of rules.`);
  return found;
}

function viewOf(workspace: LoadedWorkspace, stored: Stored): RuleView {
  const latest = latestOf(stored);
  const compiled = compileRule(workspace.model, latest);
  const { problems } = planWithDrafts(workspace.model, workspace.live, [latest]);
  return {
    ...{
      id: stored.id,
      name: stored.name,
      note: stored.note,
      state: stored.state,
      version: stored.version,
      definition: stored.definition,
    },
    sentence: compiled.ok
      ? sentenceOf(workspace.model, compiled.rule, (id) => workspace.people.get(id))
      : stored.name,
    liveDefinition: stored.live_definition,
    hasChangesNotLive: stored.live_version !== null && stored.live_version !== stored.latest_version,
    stateChangedAt: stored.state_changed_at,
    findings: problems.filter((problem) => problem.rule === stored.id),
  };
}

/** The rules and the plan are read in one transaction, so that findings fit what is shown. */
async function reading<T>(
  workspace: LoadedWorkspace,
  work: (transaction: Transaction, fresh: LoadedWorkspace) => Promise<T>,
): Promise<T> {
  return database().transaction(async (transaction) =>
    work(transaction, await readWorkspace(transaction, workspace)),
  );
}

async function rulesIn(transaction: Transaction, workspace: LoadedWorkspace): Promise<RuleView[]> {
  const found = await run<Stored>(
    transaction,
    `${selectRules(workspace.schema)} ORDER BY r.name COLLATE "C", r.id`,
  );
  return found.map((stored) => viewOf(workspace, stored));
}

export const listRules = (workspace: LoadedWorkspace): Promise<RuleView[]> => reading(workspace, rulesIn);

export const getRule = (workspace: LoadedWorkspace, id: string): Promise<RuleView> =>
  reading(workspace, async (transaction, fresh) =>
    viewOf(fresh, await findRule(transaction, workspace.schema, id)),
  );

/** Ids of live rules whose values are of the settled day while the calendar is further on. */
function behind({ model, live, settledDay, timeZone }: LoadedWorkspace, now: Date): ReadonlySet<string> {
  return settledDay < dayIn(timeZone, now) ? new Set(datedIn(model, live).map(({ id }) => id)) : new Set();
}

export const listKeepers = (workspace: LoadedWorkspace, now = new Date()): Promise<KeeperView[]> =>
  reading(workspace, async (transaction, fresh) => {
    const ofOldDay = behind(fresh, now);
    return (await rulesIn(transaction, fresh))
      .filter((rule) => rule.state !== 'draft')
      .flatMap(({ id, name, state, definition, liveDefinition }) => {
        const current = liveDefinition ?? definition;
        const isReacting = reacts(current);
        const together = current.kind === 'rollUp' ? (current.together ?? []) : [];
        return [current, ...together].map(({ target }) => ({
          ...{ type: current.type, field: target, isReacting, rule: { id, name, state } },
          asOf: state === 'live' && ofOldDay.has(id) ? fresh.settledDay : null,
        }));
      });
  });

export const keepsField = (plan: Plan) => (type: string, field: string) =>
  plan.keeper({ type, field }) !== undefined;
