import { canonical, valueAt } from '@/core/values';

import { type RequestedRule, type RequestPoint, requestStanding } from '@/core/verify';
import { type AgreementView, type RequestView } from '@/core/api';
import type { RuleState } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { quote, run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { proofsCame } from './proof-standings';
import { instantSql, personName } from '@/server/queries/run-head';

export interface StoredRequest {
  readonly id: string;
  readonly name: string;
  readonly asked_by: string;
  readonly words: string;
  readonly due: string | null;
  readonly points: readonly RequestPoint[];
  readonly version: number;
  readonly person: string | null;
  readonly made_at: string;
  /** Ids of its rules, in their order. */
  readonly rules: readonly string[];
}

interface StoredAgreement extends Omit<AgreementView, 'isOfNow'> {
  readonly request: string;
  readonly agreed_to: unknown;
}

interface StoredRule {
  readonly id: string;
  readonly name: string;
  readonly state: RuleState;
  readonly latest: string;
  readonly isChanged: boolean;
  readonly isPilot: boolean;
}

/** What the requests of a workspace hang on. */
export interface RequestGround {
  readonly rules: ReadonlyMap<string, RequestedRule>;
  /** The latest version of each rule. */
  readonly latest: ReadonlyMap<string, string>;
}

/** What colleagues asked for, with how it stands: what is wanted soonest first, what has no day last. */
export async function requestViews(key: string): Promise<RequestView[]> {
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) =>
    viewsOf(transaction, await currentWorkspace(transaction, known), null),
  );
}

export async function requestView(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  id: string,
): Promise<RequestView> {
  const [found] = await viewsOf(transaction, workspace, id);
  if (!found) throw unknownRequest();
  return found;
}

async function viewsOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  id: string | null,
): Promise<RequestView[]> {
  const stored = await readRequests(transaction, workspace, id);
  const ground = await requestGround(transaction, workspace);
  const agreements = await run<StoredAgreement>(
    transaction,
    `SELECT id::text, request::text, name, note, agreed_to, person::text, ${instantSql('at')} AS at
      FROM ${quote(workspace.schema)}._agreement a WHERE $1::text IS NULL OR request::text = $1 ORDER BY a.at, id`,
    [id],
  );
  return stored.map((one): RequestView => {
    const rules = one.rules.map((rule) => valueAt(ground.rules, rule));
    const proofs = new Set(rules.flatMap((rule) => rule.proofs.map((proof) => proof.id)));
    const points = one.points.map((point) => ({
      ...point,
      proofs: point.proofs.filter((proof) => proofs.has(proof)),
    }));
    const now = canonical(agreedTo(one, ground));
    return {
      ...{ id: one.id, name: one.name, askedBy: one.asked_by, words: one.words, due: one.due },
      ...{ points, rules, standing: requestStanding(points, rules) },
      agreements: agreements
        .filter(({ request }) => request === one.id)
        .map(({ id: own, name, note, at, person, agreed_to: agreed }) => ({
          ...{ id: own, name, note, at, person: personName(workspace, person) },
          isOfNow: canonical(agreed) === now,
        })),
      ...{ version: one.version, person: personName(workspace, one.person), madeAt: one.made_at },
    };
  });
}

/** What somebody agrees to: what must be true, and the rules as they are written. */
export const agreedTo = (
  { points, rules }: Pick<StoredRequest, 'points' | 'rules'>,
  { latest }: RequestGround,
) => ({
  points: points.map(({ text }) => text),
  rules: Object.fromEntries(rules.map((rule) => [rule, latest.get(rule) ?? ''])),
});

export const readRequests = (
  transaction: Transaction,
  { schema }: Pick<LoadedWorkspace, 'schema'>,
  id: string | null,
): Promise<StoredRequest[]> => {
  const s = quote(schema);
  return run<StoredRequest>(
    transaction,
    `SELECT id::text, name, asked_by, words, due::text, points, version, person::text, ${instantSql('made_at')} AS made_at,
        ARRAY(SELECT rule::text FROM ${s}._request_rule WHERE request = r.id ORDER BY place) AS rules
      FROM ${s}._request r WHERE $1::text IS NULL OR id::text = $1 ORDER BY r.due NULLS LAST, lower(name), id`,
    [id],
  );
};

export async function requestGround(
  transaction: Transaction,
  workspace: LoadedWorkspace,
): Promise<RequestGround> {
  const s = quote(workspace.schema);
  const rules = await run<StoredRule>(
    transaction,
    `SELECT id::text, name, state, latest_version::text AS latest, state = 'live' AND live_version <> latest_version AS "isChanged", pilot IS NOT NULL AND pilot_version IS NULL AS "isPilot" FROM ${s}._rule`,
  );
  const heads = await run<{ id: string; rule: string; name: string }>(
    transaction,
    `SELECT id::text, rule::text, name FROM ${s}._proof ORDER BY lower(name), id`,
  );
  const { held } = await proofsCame(transaction, workspace);
  return {
    rules: new Map(
      rules.map(({ id, name, state, isChanged, isPilot }) => [
        id,
        {
          ...{ id, name, state, hasChangesNotLive: isChanged, isPilot },
          proofs: heads
            .filter(({ rule }) => rule === id)
            .map((head) => ({ id: head.id, name: head.name, isHeld: held.has(head.id) })),
        },
      ]),
    ),
    latest: new Map(rules.map(({ id, latest }) => [id, latest])),
  };
}

export const unknownRequest = (): Refusal =>
  new Refusal(404, 'request.unknown', 'There is no such request. It may have been removed.');
