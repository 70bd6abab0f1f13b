import { APPROVED, type ApprovalKind, type ApprovalView, type Right, type TwoPeopleKind } from '@/core/api';
import { certain } from '@/core/values';
import type { ModelChange } from '@/core/model';
import type { Pilot } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { bundleWords, mergeBundle } from '@/server/actions/bundles/merge-bundle';
import { applyModelChanges, modelWords } from '@/server/actions/model/change-model';
import { takeLive } from '@/server/actions/rules/change-state';
import { type Approved, settleApproval, wantTwoPeople } from '@/server/actions/workspaces/two-people';
import { readInput } from '@/server/forms/input';
import { instantSql } from '@/server/queries/run-head';
import { findRules, sentenceOfStored } from '@/server/queries/rules/rules';
import { Refusal } from '@/server/refusal';
import { standingIn } from '@/server/sign-in/roles';
import { noteSecurity } from '@/server/sign-in/security-events';
import { inSave, inSnapshot } from '@/server/store/session/transactions';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { quote, run } from '@/server/store/sql/sql';
import { isUuid } from '@/server/uuid';

const LIST = new Intl.ListFormat('en-GB');

interface By {
  readonly workspace: string;
  readonly person: string;
}

/** What is asked for, as it is kept: exactly what is done once it is approved. */
type Asked =
  | {
      readonly kind: 'rules';
      readonly rules: readonly string[];
      /** The version of each, in the same order. */
      readonly versions: readonly string[];
      readonly reason?: string;
      readonly actsOnMatching?: boolean;
      readonly othersAct?: boolean;
      readonly pilot?: Pilot | null;
    }
  | {
      readonly kind: 'model';
      readonly changes: readonly ModelChange[];
      readonly version: number;
      readonly note?: string;
      readonly othersAct?: boolean;
    }
  | {
      readonly kind: 'bundle';
      readonly bundle: string;
      readonly chosen: readonly string[];
      readonly version: number;
    }
  | { readonly kind: 'twoPeople'; readonly kinds: readonly TwoPeopleKind[] };

type Unversioned = Asked extends infer A ? (A extends { kind: 'rules' } ? Omit<A, 'versions'> : A) : never;

/** What one has to have to ask for something, and to approve it. */
const RIGHTS_OF: Readonly<Record<ApprovalKind, { readonly ask: Right; readonly approve: Right }>> = {
  rules: { ask: 'writeRules', approve: 'takeLive' },
  model: { ask: 'administer', approve: 'administer' },
  bundle: { ask: 'administer', approve: 'administer' },
  twoPeople: { ask: 'administer', approve: 'administer' },
};

/** What was asked of a route, read as that route reads it. */
function readAsked(route: string, body: unknown): Unversioned {
  const [, rule] = /^rules\/([0-9a-f-]{36})\/state$/.exec(route) ?? [];
  if (rule !== undefined) {
    const { state, endsPilot, ...how } = readInput('ruleState', body);
    // As it was live it was approved before.
    if (state === 'live' && !endsPilot) return { kind: 'rules', rules: [rule], ...how };
  }
  if (route === 'live-rules') return { kind: 'rules', ...readInput('rulesLive', body) };
  if (route === 'model-changes') return { kind: 'model', ...readInput('modelChange', body) };
  if (route === 'bundle-merges') return { kind: 'bundle', ...readInput('mergeApply', body) };
  if (route === 'two-people') return { kind: 'twoPeople', ...readInput('twoPeople', body) };
  throw new Refusal(
    422,
    'approval.route',
    `“route” should be live-rules, rules/{id}/state with live, model-changes, bundle-merges or two-people; found “${route.slice(0, 60)}”.`,
  );
}

async function checkRight({ workspace, person }: By, right: Right): Promise<void> {
  if ((await standingIn(workspace, person))?.rights.has(right)) return;
  throw new Refusal(403, 'right.missing', 'What you are here doesn’t allow that. Ask somebody who may.');
}

/** Asks that somebody else approves something, exactly as it is now. */
export async function askApproval(
  by: By,
  { route, body, note = '' }: { readonly route: string; readonly body: unknown; readonly note?: string },
): Promise<ApprovalView> {
  const given = readAsked(route, body);
  await checkRight(by, RIGHTS_OF[given.kind].ask);
  const id = newId();
  await inSave(
    by.workspace,
    () => false,
    async ({ workspace, transaction, begun }) => {
      await begun;
      const { asked, words } = await asItIs(transaction, workspace, given);
      await run(
        transaction,
        `INSERT INTO ${quote(workspace.schema)}._approval (id, kind, asked, words, asked_by, note) VALUES ($1, $2, $3, $4, $5, $6)`,
        [id, asked.kind, JSON.stringify(asked), JSON.stringify(words), by.person, note],
      );
    },
  );
  return certain((await listApprovals(by.workspace)).find((one) => one.id === id));
}

/** What is asked for as it stands, with the versions of rules, and what it does in words. Refuses what can't be done as it is. */
async function asItIs(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  given: Unversioned,
): Promise<{ readonly asked: Asked; readonly words: readonly string[] }> {
  switch (given.kind) {
    case 'rules': {
      const stored = await findRules(transaction, workspace.schema, given.rules);
      const versions = given.rules.map((id) => certain(stored.find((one) => one.id === id)).latest_version);
      const words = stored.flatMap((one) => [`“${one.name}” goes live`, sentenceOfStored(workspace, one)]);
      return { asked: { ...given, versions }, words };
    }
    case 'model':
      return { asked: given, words: await modelWords(transaction, workspace, given.changes) };
    case 'bundle':
      return { asked: given, words: await bundleWords(workspace.key, given) };
    case 'twoPeople': {
      const kinds = given.kinds.map((kind) => APPROVED[kind]);
      const less =
        kinds.length === 0
          ? 'Nobody else approves anything any more'
          : `Somebody else approves only ${LIST.format(kinds)}`;
      return { asked: given, words: [less] };
    }
  }
}

interface Row {
  readonly id: string;
  readonly kind: ApprovalKind;
  readonly asked: Asked;
  readonly words: readonly string[];
  readonly askedBy: string;
  readonly askedAt: string;
  readonly note: string;
  readonly state: ApprovalView['state'];
  readonly decidedBy: string | null;
  readonly decidedAt: string | null;
  readonly reason: string;
}

/** How many of those that were decided are listed, the latest first. */
const DECIDED = 20;

/** What waits for somebody to approve it, the earliest first; then what was decided last. */
export async function listApprovals(key: string): Promise<ApprovalView[]> {
  const workspace = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const a = `${quote(workspace.schema)}._approval`;
    const columns = `id::text, kind, asked, words, asked_by::text AS "askedBy", ${instantSql('asked_at')} AS "askedAt", note, state,
      decided_by::text AS "decidedBy", ${instantSql('decided_at')} AS "decidedAt", reason`;
    const rows = await run<Row>(
      transaction,
      `(SELECT ${columns} FROM ${a} WHERE state = 'waiting' ORDER BY asked_at, id)
        UNION ALL (SELECT ${columns} FROM ${a} WHERE state <> 'waiting' ORDER BY decided_at DESC, id LIMIT ${DECIDED})`,
    );
    const latest = await latestVersions(transaction, workspace, rows);
    const [now] = await run<{ model: number }>(
      transaction,
      `SELECT model::int FROM ${quote(workspace.schema)}._state`,
    );
    const nameOf = (id: string) => workspace.people.get(id) ?? 'Somebody';
    return rows.map(({ asked, askedBy, decidedBy, ...row }) => ({
      ...row,
      askedBy: { id: askedBy, name: nameOf(askedBy) },
      decidedBy: decidedBy === null ? null : nameOf(decidedBy),
      rules: asked.kind === 'rules' ? asked.rules : [],
      isMoved:
        asked.kind === 'rules'
          ? asked.rules.some((id, at) => latest.get(id) !== asked.versions[at])
          : asked.kind !== 'twoPeople' && asked.version !== now?.model,
    }));
  });
}

async function latestVersions(
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  rows: readonly Row[],
): Promise<ReadonlyMap<string, string>> {
  const ids = rows.flatMap(({ asked }) => (asked.kind === 'rules' ? asked.rules : []));
  const found = await run<{ id: string; latest: string }>(
    transaction,
    `SELECT id::text, latest_version::text AS latest FROM ${quote(schema)}._rule WHERE id = ANY ($1::uuid[])`,
    [ids],
  );
  return new Map(found.map(({ id, latest }) => [id, latest]));
}

/** Approves what somebody else asked for, which does it; refuses it, saying why; or takes one's own back. */
export async function decideApproval(
  by: By,
  id: string,
  {
    decision,
    reason = '',
  }: { readonly decision: 'approve' | 'refuse' | 'withdraw'; readonly reason?: string },
): Promise<ApprovalView> {
  const waiting = isUuid(id) ? await waitingBy(by, id) : null;
  if (!waiting)
    throw new Refusal(
      404,
      'approval.decided',
      'Nothing such waits here. It may have been decided on already.',
    );
  const isOwn = waiting.askedBy === by.person;
  if (decision === 'withdraw') {
    if (!isOwn)
      throw new Refusal(403, 'approval.own', 'Only who asked for it takes it back. Refuse it instead.');
  } else {
    await checkRight(by, RIGHTS_OF[waiting.kind].approve);
    if (decision === 'approve' && isOwn)
      throw new Refusal(
        403,
        'approval.own',
        'Nobody approves what they asked for themselves. Somebody else does.',
      );
    if (decision === 'refuse' && reason.trim() === '')
      throw new Refusal(422, 'approval.reason', 'Say why it is refused: whoever asked for it reads it.');
  }
  if (decision === 'approve') {
    await checkAsker(by, waiting);
    await carryOut(by, waiting);
  } else await close(by, id, decision === 'refuse' ? 'refused' : 'withdrawn', reason.trim());
  return certain((await listApprovals(by.workspace)).find((one) => one.id === id));
}

/** What somebody asked for who may no longer ask for it isn't done in their name. */
async function checkAsker({ workspace }: By, { askedBy, kind }: Row): Promise<void> {
  if ((await standingIn(workspace, askedBy))?.rights.has(RIGHTS_OF[kind].ask)) return;
  throw new Refusal(
    409,
    'approval.moved',
    'Who asked for it is no longer here, or may no longer ask for it. Refuse it, and have somebody ask again.',
  );
}

async function waitingBy({ workspace: key }: By, id: string): Promise<Row | null> {
  const { schema } = await loadWorkspace(key);
  const [found] = await inSnapshot((transaction) =>
    run<Row>(
      transaction,
      `SELECT id::text, kind, asked, asked_by::text AS "askedBy", words FROM ${quote(schema)}._approval WHERE id = $1 AND state = 'waiting'`,
      [id],
    ),
  );
  return found ?? null;
}

/** Does what was asked for, as who asked for it; in the same transaction it is settled. */
async function carryOut(by: By, { id, asked, askedBy, words }: Row): Promise<void> {
  const approved: Approved = { id, by: by.person };
  const asker = { workspace: by.workspace, person: askedBy };
  switch (asked.kind) {
    case 'rules': {
      const { rules: ids, versions, kind: _, ...how } = asked;
      await takeLive({ ...asker, ids, ...how, approved: { ...approved, versions } });
      break;
    }
    case 'model':
      await applyModelChanges({ ...asker, ...asked, approved });
      break;
    case 'bundle':
      await mergeBundle(asker, asked, approved);
      break;
    case 'twoPeople':
      await wantTwoPeople(asker, asked.kinds, approved);
  }
  const data = { workspace: by.workspace, by: by.person, name: words.join('; ').slice(0, 500) };
  await noteSecurity({ kind: 'approved', person: askedBy, data });
}

async function close(by: By, id: string, state: 'refused' | 'withdrawn', reason: string): Promise<void> {
  await inSave(
    by.workspace,
    () => false,
    async ({ workspace, transaction, begun }) => {
      await begun;
      await settleApproval(transaction, workspace, 'rules', { id, by: by.person });
      await run(
        transaction,
        `UPDATE ${quote(workspace.schema)}._approval SET state = $2, reason = $3 WHERE id = $1`,
        [id, state, reason],
      );
    },
  );
}
