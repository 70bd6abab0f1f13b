import { certain, sameData, foundIn, firstIn } from '@/core/values';

import { downstream } from '@/core/plan';
import { type Acting } from '@/core/engine';
import {
  type CompiledRule,
  isCreate,
  isReactingCascade,
  type ReactingCascade,
  type Pilot,
  type Rule,
} from '@/core/rules';
import { type MissedProof, planWithDrafts } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { refuse, Refusal } from '@/server/refusal';
import { proofsOnTaking } from '@/server/queries/rules/proofs';
import { findRule, findRules, latestOf, staysLive, type StoredRule } from '@/server/queries/rules/rules';
import { noteSecurity } from '@/server/sign-in/security-events';
import { holdRequiredLinks } from '@/server/store/schema/required-links';
import { makeKeptColumns } from '@/server/store/sets/fill';
import { forgetLater } from '@/server/store/write/deferred-targets';
import { cascadeNow } from '@/server/store/bulk/cascade-now';
import { recomputeAfter } from '@/server/store/bulk/recompute-after';
import { insertRun } from '@/server/store/write/run-row';
import { quote, run, tableOf } from '@/server/store/sql/sql';
import { type LoadedWorkspace, loadWorkspace, readWorkspace } from '@/server/store/session/workspace';
import { inChange, inSave, inSnapshot } from '@/server/store/session/transactions';
import { makeAsked } from '@/server/actions/records/make-asked';
import { type Approved, settleApproval } from '@/server/actions/workspaces/two-people';
import { checkPerson } from '@/server/queries/workspaces/people';

export interface StateChange extends By {
  readonly id: string;
  readonly state: 'live' | 'paused' | 'retired';
  /** Of a rule that reacts: whether it acts at once on the records that match already, rather than only on what comes from now on. */
  readonly actsOnMatching?: boolean;
  /** Whether other rules that react, cascade or make records act on what this one fills, rather than only on what comes from now on. */
  readonly othersAct?: boolean;
  /** Why it goes live although proofs don't hold; it is kept. */
  readonly reason?: string;
  /** For which records it runs at first, as a pilot; `null` or left out for all. */
  readonly pilot?: Pilot | null;
  /** The pilot of its change ends: it is live for all as it was. Nothing else is said with it. */
  readonly endsPilot?: boolean;
}

export interface StateChanged {
  /** `null` where no record can change by it. */
  readonly run: string | null;
  /** How many records each rule wrote, that one first. */
  readonly written: readonly { readonly rule: string; readonly records: number }[];
  /** Of a rule that makes records: how many it made at once, and how many it proposed. */
  readonly made?: number;
  readonly proposed?: number;
}

/**
 * Takes a rule's latest version live, and fills its target everywhere; pauses it, and its values stand still; or retires a paused one, so that it is out of
 * the lists and of every check. A retired one is taken back by pausing it.
 */
export async function changeState(input: StateChange): Promise<StateChanged> {
  if (input.endsPilot) return endPilot(input);
  if (input.state === 'live') return takeLive({ ...input, ids: [input.id] });
  if (input.state === 'retired') return putAside(input, 'paused', 'retired');
  const isRetired = await inSnapshot(async (transaction) => {
    const { schema } = await loadWorkspace(input.workspace);
    return (await findRule(transaction, schema, input.id)).state === 'retired';
  });
  return isRetired ? putAside(input, 'retired', 'paused') : pause(input);
}

/** Between paused and retired: no record changes by it. */
async function putAside(
  input: StateChange,
  from: 'paused' | 'retired',
  to: 'paused' | 'retired',
): Promise<StateChanged> {
  await inSave(input.workspace, never, async ({ workspace, transaction, begun }) => {
    await begun;
    checkPerson(workspace, input.person);
    const stored = await findRule(transaction, workspace.schema, input.id);
    const changed = await run(
      transaction,
      `UPDATE ${quote(workspace.schema)}._rule SET state = $3, version = version + 1, state_changed_at = clock_timestamp() WHERE id = $1 AND state = $2 RETURNING 1`,
      [stored.id, from, to],
    );
    if (changed.length > 0) return noteRules(transaction, 'rulesRetired', input, [stored.name]);
    const message =
      stored.state === 'live'
        ? `“${stored.name}” is live. Pause it first; then it can be retired.`
        : stored.state === 'draft'
          ? `“${stored.name}” was never live. Delete the draft instead.`
          : `“${stored.name}” is ${stored.state} already.`;
    throw new Refusal(409, 'rule.state', message);
  });
  return { run: null, written: [] };
}

/** What is taken live, how, and by whose approval: of exactly these versions. */
export interface Taking extends By, Pick<StateChange, 'actsOnMatching' | 'othersAct' | 'reason' | 'pilot'> {
  readonly ids: readonly string[];
  readonly approved?: Approved & { readonly versions: readonly string[] };
}

/** Takes rules live, and has them act at once where that is asked for. */
export async function takeLive(input: Taking): Promise<StateChanged> {
  const changed = await takeLiveTogether(input);
  if (!input.actsOnMatching) return changed;
  const { workspace, person, ids } = input;
  const { made, proposed } = await makeAsked({ workspace, person, rules: ids });
  return made + proposed > 0 ? { ...changed, made, proposed } : changed;
}

/**
 * Takes the latest versions of several rules live in one run; those over the same link are filled by one statement. Refused where proofs of
 * theirs don't hold then, or others' don't that did, unless it is said why all the same.
 */
export function takeLiveTogether(input: Taking): Promise<StateChanged> {
  return inChange(input.workspace, async ({ workspace, transaction }) => {
    checkPerson(workspace, input.person);
    const stored = await findRules(transaction, workspace.schema, input.ids);
    await settleApproval(transaction, workspace, 'rules', input.approved);
    if (input.approved) await checkApproved(transaction, workspace, stored, input);
    const retired = stored.find((rule) => rule.state === 'retired');
    if (retired)
      throw new Refusal(
        409,
        'rule.state',
        `“${retired.name}” is retired. Take it back first; then it can go live.`,
      );
    const pilot = input.pilot ?? null;
    const already = stored.find(
      (rule) =>
        rule.state === 'live' &&
        (rule.pilot_version ?? rule.live_version) === rule.latest_version &&
        sameData(rule.pilot, pilot),
    );
    if (already)
      throw new Refusal(409, 'rule.live', `“${already.name}” is live already${pilot ? ' for these' : ''}.`);
    const rules = takenAs(stored, pilot);
    const { plan, problems } = planWithDrafts(workspace.model, workspace.live, rules);
    const ids = new Set(rules.map(({ id }) => id));
    const [problem] = [...problems.filter(({ rule }) => ids.has(rule)), ...problems];
    if (problem) throw refuse(409, [problem]);
    // Proofs are about the whole rule, whatever records it begins with.
    const told = await proofsOnTaking(transaction, workspace, stored.map(latestOf));
    const reason = input.reason?.trim() || null;
    if (told.missed.length > 0 && !reason) throw proofsRefused(told.missed);
    const taken = plan.rules.filter(({ id }) => ids.has(id));
    await makeKeptColumns(transaction, workspace, taken);
    await run(
      transaction,
      `UPDATE ${quote(workspace.schema)}._rule SET state = 'live', pilot = $2,
          live_version = CASE WHEN id = ANY($3::uuid[]) THEN live_version ELSE latest_version END,
          pilot_version = CASE WHEN id = ANY($3::uuid[]) THEN latest_version END,
          due_at = NULL, pace_problem = NULL, version = version + 1, state_changed_at = clock_timestamp() WHERE id = ANY($1::uuid[])`,
      [
        [...ids],
        pilot ? JSON.stringify(pilot) : null,
        rules.flatMap(({ id, beside }) => (beside ? [id] : [])),
      ],
    );
    await holdRequiredLinks(transaction, workspace.schema);
    const runId = await insertRun(transaction, workspace.schema, {
      ...{ kind: 'live', person: input.person, note: rules.map(({ name }) => name).join('; ') },
      ...(rules.length === 1 ? { ruleVersion: rules[0]!.version } : {}),
    });
    for (const rule of rules) {
      const { proofs, held } = foundIn(told.standings, (one) => one.rule === rule.id);
      await run(
        transaction,
        `INSERT INTO ${quote(workspace.schema)}._taken_live (rule, version, proofs, held, reason, run, person, pilot) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`,
        [
          ...[
            rule.id,
            rule.version,
            proofs,
            held,
            told.missed.length > 0 ? reason : null,
            runId,
            input.person,
          ],
          pilot ? JSON.stringify(pilot) : null,
        ],
      );
    }
    await noteRules(
      transaction,
      'rulesLive',
      input,
      rules.map(({ name }) => name),
    );
    const followers = new Set(taken.flatMap((rule) => downstream(plan, rule).map(({ id }) => id)));
    const chain = plan.rules.filter(({ id }) => ids.has(id) || followers.has(id));
    const { othersAct = false, actsOnMatching = false } = input;
    const actingOf = (rule: CompiledRule): Acting =>
      ids.has(rule.id) ? (actsOnMatching ? 'onAll' : 'onNone') : othersAct ? 'onChange' : 'onNone';
    const fresh = { ...workspace, plan };
    const written = await fillAll(transaction, fresh, chain, runId, { othersAct, actingOf });
    const handing = input.actsOnMatching ? input.ids : [];
    for (const id of handing) {
      const parts = taken.filter(
        (rule): rule is ReactingCascade => rule.id === id && isReactingCascade(rule),
      );
      if (parts.length === 0) continue;
      const filled = await cascadeNow({ transaction, workspace: fresh, run: runId, parts });
      written.push(...filled.map(({ rule, records }) => ({ rule: rule.id, records })));
    }
    const [first] = input.ids;
    return {
      run: runId,
      written: [...written].sort((a, b) => Number(b.rule === first) - Number(a.rule === first)),
    };
  });
}

/** The latest versions as they would run: for all, or as a pilot, beside what stays live where that is live for all now. */
export function takenAs(stored: readonly StoredRule[], pilot: Pilot | null): Rule[] {
  const same = pilot && stored.find((rule) => staysLive(rule)?.version === rule.latest_version);
  if (same) throw pilotRefused(same.name);
  return stored.map((rule) => ({ ...latestOf(rule), pilot, beside: pilot ? staysLive(rule) : null }));
}

/** Ends the pilot of a change: its records go back to the version that stayed live. The change stays written. */
const endPilot = (input: StateChange): Promise<StateChanged> =>
  inChange(input.workspace, async ({ workspace, transaction }) => {
    checkPerson(workspace, input.person);
    const stored = await findRule(transaction, workspace.schema, input.id);
    const beside = stored.pilot_version === null ? null : staysLive(stored);
    if (!beside)
      throw new Refusal(
        409,
        'rule.noPilot',
        `No change of “${stored.name}” is tried beside it, so there is no pilot to end.`,
      );
    await run(
      transaction,
      `UPDATE ${quote(workspace.schema)}._rule SET pilot = NULL, pilot_version = NULL, version = version + 1, state_changed_at = clock_timestamp() WHERE id = $1`,
      [stored.id],
    );
    const runId = await insertRun(transaction, workspace.schema, {
      ...{ kind: 'live', person: input.person, ruleVersion: beside.version },
      note: `The pilot of “${stored.name}” ended`,
    });
    await noteRules(transaction, 'rulesLive', input, [stored.name]);
    const fresh = await readWorkspace(transaction, workspace);
    const own = fresh.plan.rules.filter(({ id }) => id === stored.id);
    const following = new Set(own.flatMap((rule) => downstream(fresh.plan, rule)));
    const chain = fresh.plan.rules.filter((rule) => own.includes(rule) || following.has(rule));
    return { run: runId, written: await fillAll(transaction, fresh, chain, runId) };
  });

/** Who approves rules stands in the installation's security ledger, too. */
const noteRules = (
  transaction: Transaction,
  kind: 'rulesLive' | 'rulesPaused' | 'rulesRetired',
  { workspace, person }: By,
  names: readonly string[],
): Promise<void> =>
  noteSecurity(
    { kind, person, data: { workspace, name: names.map((name) => `“${name}”`).join(', ') } },
    transaction,
  );

/** What is approved is exactly the versions that were asked for, and by nobody who wrote one of them. */
async function checkApproved(
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  stored: readonly StoredRule[],
  { ids, approved }: Taking,
): Promise<void> {
  const { versions, by } = certain(approved);
  const moved = stored.find(({ id, latest_version: latest }) => latest !== versions[ids.indexOf(id)]);
  if (moved)
    throw new Refusal(
      409,
      'approval.moved',
      `“${moved.name}” was changed after it was asked for, so it can’t be approved as it was. Ask for it again.`,
    );
  const [own] = await run<{ name: string }>(
    transaction,
    `SELECT r.name FROM ${quote(schema)}._rule_version v JOIN ${quote(schema)}._rule r ON r.id = v.rule WHERE v.id = ANY ($1::uuid[]) AND v.person = $2 LIMIT 1`,
    [versions, by],
  );
  if (own)
    throw new Refusal(
      403,
      'approval.own',
      `You wrote this version of “${own.name}” yourself. Somebody else approves it.`,
    );
}

const pilotRefused = (name: string): Refusal =>
  new Refusal(
    409,
    'rule.pilotLive',
    `“${name}” runs for all records already as it is written, so there is no change to try for some. Change it first, or pause it.`,
  );

function proofsRefused(missed: readonly MissedProof[]): Refusal {
  const first = firstIn(missed);
  const count = missed.length === 1 ? 'A proof doesn’t hold' : `${missed.length} proofs don’t hold`;
  return new Refusal(
    409,
    'rule.proofs',
    `${count} with it: “${first.name}” of “${first.rule.name}”. Change the rule or the proof, or say why it should go live all the same.`,
    missed.map(({ rule, name, says }) => ({
      ...{ code: 'proof.missed', place: 'proofs', rule: rule.id },
      message: `“${name}” of “${rule.name}”: ${says.join(' ')}`,
    })),
  );
}

const pause = (input: StateChange): Promise<StateChanged> => pauseTogether({ ...input, ids: [input.id] });

/** Pauses several live rules in one run. Their problems go with them; what read them is worked out again. */
export function pauseTogether(input: By & { readonly ids: readonly string[] }): Promise<StateChanged> {
  return inChange(input.workspace, async ({ workspace, transaction }) => {
    checkPerson(workspace, input.person);
    const ids = new Set(input.ids);
    const stored = await findRules(transaction, workspace.schema, input.ids);
    const other = stored.find(({ state }) => state !== 'live');
    if (other) throw new Refusal(409, 'rule.notLive', `“${other.name}” isn’t live, so it can’t be paused.`);
    const schema = quote(workspace.schema);
    const parts = workspace.plan.rules.filter(({ id }) => ids.has(id));
    const reading = new Set(parts.flatMap((part) => downstream(workspace.plan, part).map(({ id }) => id)));
    const followers = workspace.plan.rules.filter(({ id }) => reading.has(id) && !ids.has(id));
    await run(
      transaction,
      `UPDATE ${schema}._rule SET state = 'paused', live_version = NULL, pilot = NULL, pilot_version = NULL, version = version + 1, state_changed_at = clock_timestamp() WHERE id = ANY($1::uuid[])`,
      [[...ids]],
    );
    await holdRequiredLinks(transaction, workspace.schema);
    await run(transaction, `DELETE FROM ${schema}._problem WHERE rule = ANY($1::uuid[])`, [[...ids]]);
    await forgetLater(transaction, workspace.schema, [...ids]);
    // What they proposed can't be done any more.
    await run(
      transaction,
      `UPDATE ${schema}._proposal SET state = 'withdrawn', decided_at = clock_timestamp() WHERE rule = ANY($1::uuid[]) AND state = 'open'`,
      [[...ids]],
    );
    for (const { writes } of parts)
      await run(
        transaction,
        `UPDATE ${tableOf(workspace.schema, writes.type)} SET problems = NULLIF(problems - $1::text, '{}') WHERE problems ->> $1 IS NOT NULL`,
        [writes.field],
      );
    const runId = await insertRun(transaction, workspace.schema, {
      ...{ kind: 'pause', person: input.person, note: stored.map(({ name }) => name).join('; ') },
      ...(ids.size === 1
        ? { ruleVersion: foundIn(workspace.plan.turns, ({ id }) => ids.has(id)).version }
        : {}),
    });
    await noteRules(
      transaction,
      'rulesPaused',
      input,
      stored.map(({ name }) => name),
    );
    const fresh = await readWorkspace(transaction, workspace);
    return { run: runId, written: await fillAll(transaction, fresh, followers, runId) };
  });
}

/** Fills rules in the plan's order, whatever their pace; those over the same link in one statement. */
export async function fillAll(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  chain: readonly CompiledRule[],
  run: string,
  {
    othersAct = false,
    actingOf = () => (othersAct ? 'onChange' : 'onNone'),
  }: {
    /** Rules that react, cascade or make records act on what is filled. */
    readonly othersAct?: boolean;
    /** What roll-ups that react do; left out, what all that react do. */
    readonly actingOf?: (rule: CompiledRule) => Acting;
  } = {},
) {
  const fill = { rules: new Set(chain), actingOf, isActedOn: othersAct };
  const filled = await recomputeAfter({ transaction, workspace, run, fill });
  // What stays live beside a pilot writes only where it takes records back from one.
  return filled.flatMap(({ rule, records }) =>
    records === 0 && !isCreate(rule) && rule.half?.isOutside ? [] : [{ rule: rule.id, records }],
  );
}

export interface By {
  readonly workspace: string;
  readonly person: string;
}

export const never = () => false;
