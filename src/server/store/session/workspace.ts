import { type Model, type ModelDefinition, readModel, type Sight } from '@/core/model';
import { buildPlan, type Plan, type PlanResult } from '@/core/plan';
import type { Rule } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { models } from '@/server/database/models';
import { Refusal } from '@/server/refusal';
import { quote, run } from '@/server/store/sql/sql';

/** A workspace as compiled for one epoch: its model, the plan of its live rules, and who takes part. */
export interface LoadedWorkspace {
  readonly id: number;
  readonly key: string;
  readonly name: string;
  readonly schema: string;
  readonly epoch: string;
  readonly settledDay: string;
  readonly timeZone: string;
  readonly model: Model;
  /** The stored version of the model. */
  readonly modelVersion: number;
  readonly plan: Plan;
  readonly live: readonly Rule[];
  /** What of it somebody sees who sees only a part; then `model` and `schema` are as they know them. `null` or left out: all. */
  readonly sight?: Sight | null;
  /** Names of the people of the workspace by their id. */
  readonly people: ReadonlyMap<string, string>;
}

const globals = globalThis as { oikonWorkspaces?: Map<string, LoadedWorkspace> };
const cache = (): Map<string, LoadedWorkspace> => (globals.oikonWorkspaces ??= new Map());

/** The workspace as this process last compiled it. Saves compare its epoch and call `reloadWorkspace` when it has moved on. */
export const loadWorkspace = async (key: string): Promise<LoadedWorkspace> =>
  cache().get(key) ?? reloadWorkspace(key);

export const forgetWorkspace = (key: string): void => void cache().delete(key);

export async function reloadWorkspace(key: string): Promise<LoadedWorkspace> {
  const { Workspace } = models();
  const found = await Workspace.findOne({ where: { key } });
  if (!found) {
    forgetWorkspace(key);
    throw new Refusal(404, 'workspace.unknown', `There is no workspace “${key}”. Check the address.`);
  }
  const loaded = await database().transaction((transaction) => readWorkspace(transaction, found));
  cache().set(key, loaded);
  return loaded;
}

/**
 * The workspace as a transaction sees it: the one that is known where that is of the same epoch, else it is read and compiled. Not for a transaction
 * that changed the model or the rules itself: the epoch rises at its end.
 */
export async function currentWorkspace(
  transaction: Transaction,
  known: LoadedWorkspace,
): Promise<LoadedWorkspace> {
  const [state] = await run<{ epoch: string }>(
    transaction,
    `SELECT epoch::text FROM ${quote(known.schema)}._state`,
  );
  if (state?.epoch === known.epoch) return known;
  const loaded = await readWorkspace(transaction, known);
  const cached = cache().get(known.key);
  if (cached && BigInt(cached.epoch) < BigInt(loaded.epoch)) cache().set(known.key, loaded);
  return loaded;
}

const counted = globalThis as { oikonPlans?: number };

/** How many plans this process has built so far: tests hold what only looks to none. */
export const plansBuilt = (): number => counted.oikonPlans ?? 0;

/** Orders rules (see `buildPlan`), and counts it: of hundreds of rules it takes its time. */
export function planned(model: Model, rules: readonly Rule[]): PlanResult {
  counted.oikonPlans = plansBuilt() + 1;
  return buildPlan(model, rules);
}

/** The version that stays live beside one that is tried, as a rule has it; NULL where there is none. */
export const besideSql = (version: string): string =>
  `CASE WHEN ${version}.id IS NOT NULL THEN jsonb_build_object('version', ${version}.id, 'definition', ${version}.definition) END`;

/** Reads and compiles a workspace as a transaction sees it. */
export async function readWorkspace(
  transaction: Transaction,
  { id, key, name, schema }: { id: number; key: string; name: string; schema: string },
): Promise<LoadedWorkspace> {
  interface State {
    epoch: string;
    settled_day: string;
    time_zone: string;
    definition: ModelDefinition;
    model: number;
  }
  const s = quote(schema);
  const [state] = await run<State>(
    transaction,
    `SELECT s.epoch::text, s.settled_day::text, s.time_zone, m.definition, m.id::int AS model FROM ${s}._state s JOIN ${s}._model_version m ON m.id = s.model`,
  );
  if (!state) throw new Error(`The workspace “${key}” has no state; load it again.`);
  const live = await run<Rule>(
    transaction,
    `SELECT r.id, v.id AS version, r.name, v.definition, r.pilot, ${besideSql('b')} AS beside
      FROM ${s}._rule r JOIN ${s}._rule_version v ON v.id = COALESCE(r.pilot_version, r.live_version)
      LEFT JOIN ${s}._rule_version b ON b.id = r.live_version AND r.pilot_version IS NOT NULL WHERE r.state = 'live'`,
  );
  const model = readModel({ ...state.definition, timeZone: state.time_zone }, state.settled_day);
  const { plan, problems } = planned(model, live);
  if (problems.length > 0)
    throw new Error(
      `The live rules of “${key}” don’t fit together: ${problems.map((problem) => problem.message).join(' ')}`,
    );
  const people = await run<{ id: string; name: string }>(
    transaction,
    `SELECT p.id, CASE WHEN EXISTS (SELECT FROM public.member_role r WHERE r.workspace_id = m.workspace_id AND r.person_id = m.person_id) THEN p.name ELSE p.name || ' (no longer here)' END AS name
      FROM public.person p JOIN public.membership m ON m.person_id = p.id WHERE m.workspace_id = $1`,
    [id],
  );
  return {
    ...{
      id,
      key,
      name,
      schema,
      epoch: state.epoch,
      settledDay: state.settled_day,
      timeZone: state.time_zone,
      model,
      modelVersion: state.model,
      plan,
      live,
    },
    people: new Map(people.map((person) => [person.id, person.name])),
  };
}
