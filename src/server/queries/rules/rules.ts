import { datedIn, type RuleProblem } from '@/core/plan';
import {
  compileRule,
  type Pilot,
  pilotWords,
  reacts,
  type Rule,
  type RuleDefinition,
  type RuleState,
  sentenceOf,
  targetsOf,
} from '@/core/rules';
import { withDrafts } from '@/core/verify';
import { type KeeperView, type LaterView, type RuleView } from '@/core/api';
import { certain, firstIn, formInUse, formKey } from '@/core/values';
import type { Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { dayIn } from '@/server/day';
import { nextTime } from '@/server/next-time';
import { Refusal } from '@/server/refusal';
import { MOST_AT_ONCE } from '@/server/store/write/deferred-targets';
import { quote, run } from '@/server/store/sql/sql';
import { readTitles, Wanted } from '@/server/store/session/titles';
import { currentWorkspace, type LoadedWorkspace, planned } from '@/server/store/session/workspace';
import { instantSql } from '@/server/queries/run-head';

export interface StoredRule {
  id: string;
  name: string;
  is_named: boolean;
  note: string;
  tags: string[];
  state: RuleState;
  version: number;
  latest_version: string;
  live_version: string | null;
  pilot: Pilot | null;
  /** Of a pilot that runs beside the live version: which version it is. */
  pilot_version: string | null;
  pilot_definition: RuleDefinition | null;
  definition: RuleDefinition;
  live_definition: RuleDefinition | null;
  state_changed_at: string;
  due_at: string | null;
  pace_problem: string | null;
  /** Up to one more than are counted. */
  waits: number;
  waits_all: boolean;
  waits_since: string | null;
}

const selectRules = (schema: string): string => `
  SELECT r.id::text, r.name, r.is_named, r.note, r.tags, r.state, r.version, r.latest_version::text, r.live_version::text, r.pilot,
    r.pilot_version::text, t.definition AS pilot_definition, v.definition, l.definition AS live_definition, ${instantSql('r.state_changed_at')} AS state_changed_at,
    ${instantSql('r.due_at')} AS due_at, r.pace_problem, w.waits, w.waits_all, ${instantSql('f.at')} AS waits_since
  FROM ${quote(schema)}._rule r
  JOIN ${quote(schema)}._rule_version v ON v.id = r.latest_version
  LEFT JOIN ${quote(schema)}._rule_version l ON l.id = r.live_version
  LEFT JOIN ${quote(schema)}._rule_version t ON t.id = r.pilot_version
  LEFT JOIN LATERAL (
    SELECT count(*)::int AS waits, COALESCE(bool_or(x.record IS NULL), false) AS waits_all
    FROM (SELECT DISTINCT record FROM ${quote(schema)}._later WHERE rule = r.id ORDER BY record NULLS FIRST LIMIT ${MOST_AT_ONCE + 1}) x
  ) w ON true
  LEFT JOIN ${quote(schema)}._run f ON f.id = (SELECT min(run) FROM ${quote(schema)}._later WHERE rule = r.id)`;

/** The latest version of a stored rule, as the plan takes it. */
export const latestOf = ({ id, latest_version: version, name, definition }: StoredRule): Rule => ({
  id,
  version,
  name,
  definition,
});

/** The version that stays live for all others once the latest is tried as a pilot; `null` of a rule that isn't live for all now. */
export const staysLive = ({ state, pilot, pilot_version, ...stored }: StoredRule): Rule['beside'] =>
  state === 'live' && (pilot === null || pilot_version !== null)
    ? { version: certain(stored.live_version), definition: certain(stored.live_definition) }
    : null;

/** The latest versions of all rules that aren't retired. */
export const allRules = async (
  transaction: Transaction,
  { schema }: Pick<LoadedWorkspace, 'schema'>,
): Promise<(Rule & Pick<StoredRule, 'state' | 'note' | 'tags'>)[]> =>
  (
    await run<StoredRule>(
      transaction,
      `${selectRules(schema)} WHERE r.state <> 'retired' ORDER BY lower(r.name), r.id`,
    )
  ).map((stored) => {
    const { state, note, tags } = stored;
    return { ...latestOf(stored), state, note, tags };
  });

/** Several rules in the order in which they are named, each once; refuses where one isn't there. */
export async function findRules(
  transaction: Transaction,
  schema: string,
  ids: readonly string[],
): Promise<StoredRule[]> {
  const all = await run<StoredRule>(
    transaction,
    `${selectRules(schema)} WHERE r.id::text = ANY($1::text[])`,
    [ids],
  );
  const found = new Map(all.map((rule) => [rule.id, rule]));
  return [...new Set(ids)].map((id) => {
    const rule = found.get(id);
    if (rule) return rule;
    throw new Refusal(
      404,
      'rule.unknown',
      'There is no such rule. It may have been deleted; go back to the list of rules.',
    );
  });
}

export const findRule = async (transaction: Transaction, schema: string, id: string): Promise<StoredRule> =>
  firstIn(await findRules(transaction, schema, [id]));

function viewOf(
  workspace: LoadedWorkspace,
  stored: StoredRule,
  titles: Readonly<Record<string, string>>,
  now: Date,
): RuleView {
  const { sentence, findings } = writtenOf(workspace, stored);
  return {
    ...{
      id: stored.id,
      name: stored.name,
      isNamed: stored.is_named,
      note: stored.note,
      tags: stored.tags,
      state: stored.state,
      version: stored.version,
      definition: stored.definition,
    },
    sentence: sentence ?? stored.name,
    liveDefinition: stored.live_definition,
    hasChangesNotLive: stored.live_version !== null && stored.live_version !== stored.latest_version,
    stateChangedAt: stored.state_changed_at,
    pilot: stored.pilot && {
      scope: stored.pilot,
      words: pilotWords(workspace.model, stored.pilot, titles),
      tried: stored.pilot_definition,
    },
    later: laterOf(workspace, stored, now),
    findings: isUnchecked(stored) ? [] : findings(),
  };
}

/** What a version of a rule says, and what is found in it among the live rules. */
interface Written {
  /** `null` where it doesn't fit the model. */
  readonly sentence: string | null;
  /** Orders all live rules with it, when it is first asked. */
  readonly findings: () => readonly RuleProblem[];
}

const written = new WeakMap<LoadedWorkspace, Map<string, Written>>();

/** Worked out once for each version, epoch and form of numbers and dates: none changes. */
function writtenOf(workspace: LoadedWorkspace, stored: StoredRule): Written {
  let known = written.get(workspace);
  if (!known) written.set(workspace, (known = new Map<string, Written>()));
  const key = `${formKey(formInUse())} ${stored.latest_version}`;
  let found = known.get(key);
  if (!found) {
    const { model, live, people } = workspace;
    const latest = latestOf(stored);
    const compiled = compileRule(model, latest);
    let findings: readonly RuleProblem[] | null = null;
    found = {
      sentence: compiled.ok ? sentenceOf(model, compiled.rule, (id) => people.get(id)) : null,
      findings: () =>
        (findings ??= planned(model, withDrafts(live, [latest])).problems.filter(
          ({ rule }) => rule === stored.id,
        )),
    };
    known.set(key, found);
  }
  return found;
}

/** What the latest version of a rule says; its name where it doesn't fit the model. */
export const sentenceOfStored = (workspace: LoadedWorkspace, stored: StoredRule): string =>
  writtenOf(workspace, stored).sentence ?? stored.name;

/** What is live has nothing to be found, or the workspace couldn't be loaded; a retired rule is out of every check. */
const isUnchecked = ({ state, live_version, latest_version, pilot }: StoredRule): boolean =>
  state === 'retired' || (live_version === latest_version && pilot === null);

/** What waits for a rule that is live at a slower pace. */
function laterOf(workspace: LoadedWorkspace, stored: StoredRule, now: Date): LaterView | null {
  const pace = stored.live_definition?.pace ?? 'withTheSave';
  if (pace === 'withTheSave') return null;
  const isTimed = typeof pace !== 'string' && pace.kind === 'timetable';
  return {
    values: stored.waits_all || stored.waits > MOST_AT_ONCE ? null : stored.waits,
    since: stored.waits_since,
    next: isTimed ? (stored.due_at ?? nextTime(pace, workspace.timeZone, now).toISOString()) : null,
    problem: stored.pace_problem,
  };
}

/** Titles of the records that pilots are for. */
export function pilotTitles(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  pilots: readonly { readonly pilot: Pilot | null; readonly definition: { readonly type: string } }[],
): Promise<Record<string, string>> {
  const wanted = new Wanted();
  for (const { pilot, definition } of pilots)
    if (pilot?.kind === 'records') for (const id of pilot.ids) wanted.add(definition.type, id);
  return readTitles(transaction, workspace, wanted);
}

/** The rules and the plan are read in one transaction, so that findings fit what is shown. */
async function reading<T>(
  workspace: LoadedWorkspace,
  work: (transaction: Transaction, fresh: LoadedWorkspace) => Promise<T>,
): Promise<T> {
  return database().transaction(async (transaction) =>
    work(transaction, await currentWorkspace(transaction, workspace)),
  );
}

async function rulesIn(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  isRetired = false,
): Promise<RuleView[]> {
  const found = await run<StoredRule>(
    transaction,
    `${selectRules(workspace.schema)} WHERE (r.state = 'retired') = ${isRetired} ORDER BY r.name COLLATE "C", r.id`,
  );
  const titles = await pilotTitles(transaction, workspace, found);
  return found.map((stored) => viewOf(workspace, stored, titles, new Date()));
}

export const listRules = (workspace: LoadedWorkspace): Promise<RuleView[]> => reading(workspace, rulesIn);

/** Rules that are out of the lists and of every check. */
export const listRetired = (workspace: LoadedWorkspace): Promise<RuleView[]> =>
  reading(workspace, (transaction, fresh) => rulesIn(transaction, fresh, true));

export const getRule = (workspace: LoadedWorkspace, id: string): Promise<RuleView> =>
  reading(workspace, async (transaction, fresh) => {
    const stored = await findRule(transaction, workspace.schema, id);
    return viewOf(fresh, stored, await pilotTitles(transaction, fresh, [stored]), new Date());
  });

/** Ids of live rules whose values are of the settled day while the calendar is further on. */
function behind({ model, live, settledDay, timeZone }: LoadedWorkspace, now: Date): ReadonlySet<string> {
  return settledDay < dayIn(timeZone, now) ? new Set(datedIn(model, live).map(({ id }) => id)) : new Set();
}

export const listKeepers = (workspace: LoadedWorkspace, now = new Date()): Promise<KeeperView[]> =>
  reading(workspace, async (transaction, fresh) => {
    const ofOldDay = behind(fresh, now);
    return (await rulesIn(transaction, fresh))
      .filter((rule) => rule.state !== 'draft')
      .flatMap(({ id, name, state, definition, liveDefinition, pilot }) => {
        const current = liveDefinition ?? definition;
        const isReacting = reacts(current) || (current.kind === 'link' && current.holds === 'whereEmpty');
        const isInStep =
          (pilot !== null && pilot.tried === null && !isReacting) ||
          (current.kind === 'cascade' && current.moment === 'inStep') ||
          (current.kind === 'link' && current.holds === 'always');
        return targetsOf(fresh.model, current).map((ref) => ({
          ...{ ...ref, isReacting, isInStep, rule: { id, name, state, kind: current.kind } },
          asOf: state === 'live' && ofOldDay.has(id) ? fresh.settledDay : null,
          pace: current.pace,
        }));
      });
  });
