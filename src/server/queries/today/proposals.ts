import { called } from '@/core/called';
import { firstIn, parseValue, type WireValue } from '@/core/values';
import type { CellRef, Missing, WireEdit } from '@/core/engine';
import { typeIn, fieldIn } from '@/core/model';
import { valueView } from '@/core/verify';
import { type MessageView, type ProposalList, type ProposalView } from '@/core/api';
import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { inSnapshot } from '@/server/store/session/transactions';
import { quote, run } from '@/server/store/sql/sql';
import { readRows } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { instantSql, personName } from '@/server/queries/run-head';
import { proposalSeen } from './proposals-seen';
import { readTitles, Wanted } from '@/server/store/session/titles';

/** A proposal as it is stored. */
export interface StoredProposal {
  readonly id: string;
  readonly rule: string;
  readonly rule_name: string;
  readonly kind: ProposalView['kind'];
  readonly source_type: string;
  readonly source: string;
  readonly target_type: string;
  readonly target: string | null;
  readonly content: Readonly<Record<string, WireValue>>;
  readonly missing: readonly Missing[];
  readonly causes: readonly CellRef[];
  readonly state: ProposalView['state'];
  readonly run: string;
  readonly at: string;
  readonly person: string | null;
  readonly decided_by: string | null;
  readonly decided_at: string | null;
  readonly decided_run: string | null;
  readonly reason: string | null;
}

const selectProposals = (schema: string): string => {
  const s = quote(schema);
  return `SELECT p.id::text, p.rule::text, r.name AS rule_name, p.kind, p.source_type, p.source::text, p.target_type, p.target::text, p.content,
      p.missing, p.causes, p.state, p.run::text, ${instantSql('u.at')} AS at, u.person::text, p.decided_by::text,
      ${instantSql('p.decided_at')} AS decided_at, p.decided_run::text, p.reason
    FROM ${s}._proposal p JOIN ${s}._rule r ON r.id = p.rule JOIN ${s}._run u ON u.id = p.run`;
};

export const MOST_PROPOSALS = 200;

/**
 * What waits for people: what is open, the oldest first, then what they are told of; or what was decided, the latest first. Of a workspace that is `seen`
 * in part, what is about nothing else.
 */
export function listProposals(
  workspace: LoadedWorkspace,
  isDecided: boolean,
  seen: LoadedWorkspace = workspace,
): Promise<ProposalList> {
  return inSnapshot(async (transaction) => {
    const isSeen = proposalSeen(seen);
    const states = isDecided ? ['approved', 'refused', 'withdrawn', 'seen'] : ['open', 'told'];
    const order = isDecided ? 'p.decided_at DESC, p.id DESC' : 'p.state, p.id';
    const found = await run<StoredProposal & Record<string, unknown>>(
      transaction,
      `${selectProposals(workspace.schema)} WHERE p.state = ANY($1::text[]) AND ${isSeen} ORDER BY ${order} LIMIT ${MOST_PROPOSALS}`,
      [states],
    );
    const counted = firstIn(
      await run<{ open: number; told: number }>(
        transaction,
        `SELECT count(*) FILTER (WHERE state = 'open')::int AS open, count(*) FILTER (WHERE state = 'told')::int AS told
        FROM ${quote(workspace.schema)}._proposal p WHERE state IN ('open', 'told') AND ${isSeen}`,
      ),
    );
    return { proposals: await viewsOf(transaction, seen, found), ...counted };
  });
}

/** What was written to people, or to one of them, the latest first. */
export function listMessages(workspace: LoadedWorkspace, to: string | null = null): Promise<MessageView[]> {
  return inSnapshot(async (transaction) => {
    const s = quote(workspace.schema);
    const found = await run<Omit<MessageView, 'person'> & { person: string }>(
      transaction,
      `SELECT m.id::text, m.person::text, m.subject, m.body, m.run::text, ${instantSql('u.at')} AS at, ${instantSql('m.sent_at')} AS "sentAt", m.failure
        FROM ${s}._message m JOIN ${s}._run u ON u.id = m.run WHERE $1::uuid IS NULL OR m.person = $1::uuid ORDER BY m.id DESC LIMIT ${MOST_PROPOSALS}`,
      [to],
    );
    return found.map((one) => ({ ...one, person: personName(workspace, one.person) ?? one.person }));
  });
}

/** One proposal, locked until the transaction ends. */
export async function findProposal(
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  id: string,
): Promise<StoredProposal> {
  const [found] = /^\d{1,18}$/.test(id)
    ? await run<StoredProposal & Record<string, unknown>>(
        transaction,
        `${selectProposals(schema)} WHERE p.id = $1 FOR UPDATE OF p`,
        [id],
      )
    : [];
  if (!found) throw new Refusal(404, 'proposal.unknown', 'There is no such proposal. Go back to Today.');
  return found;
}

/** The edit that does what was proposed, as it may have been changed. */
export function editOf(proposal: StoredProposal, changed: Readonly<Record<string, unknown>> = {}): WireEdit {
  const { target_type: type, target, content, rule, source } = proposal;
  const values = { ...content, ...changed };
  return target === null
    ? { kind: 'create', type, values, madeFor: { rule, source } }
    : { kind: 'edit', type, id: target, values };
}

async function viewsOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  found: readonly StoredProposal[],
): Promise<ProposalView[]> {
  const { model, people } = workspace;
  const wanted = new Wanted();
  const readable = found.filter(
    ({ source_type, target_type }) => model.type(source_type) && model.type(target_type),
  );
  for (const { source_type, source, target_type, target, content, missing } of readable) {
    wanted.add(source_type, source);
    if (target) wanted.add(target_type, target);
    for (const { field, candidates = [] } of missing) {
      const link = model.field(target_type, field)?.type;
      if (link?.kind === 'link') for (const id of candidates) wanted.add(link.target, id);
    }
    for (const { key, type } of typeIn(model, target_type).fields)
      if (type.kind === 'link' && typeof content[key] === 'string') wanted.add(type.target, content[key]);
  }
  const under = await namesUnder(transaction, workspace, readable);
  const titles = await readTitles(transaction, workspace, wanted);
  const nameOf = (id: string) => people.get(id) ?? titles[id];
  const standing = new Map<string, Readonly<Record<string, unknown>>>();
  for (const type of new Set(readable.map((one) => one.target_type))) {
    const ids = readable.flatMap((one) => (one.target_type === type && one.target ? [one.target] : []));
    for (const row of await readRows(transaction, workspace, type, ids)) standing.set(row.id, row.values);
  }
  return readable.map((one): ProposalView => {
    const type = typeIn(model, one.target_type);
    const missing = new Map(one.missing.map((found) => [found.field, found]));
    const keys = type.fields.map(({ key }) => key).filter((key) => key in one.content || missing.has(key));
    return {
      ...{
        id: one.id,
        kind: one.kind,
        state: one.state,
        at: one.at,
        run: one.run,
        reason: workspace.sight ? null : one.reason,
      },
      rule: { id: one.rule, name: one.rule_name, kind: one.kind === 'choose' ? 'link' : 'create' },
      ...{ type: type.key, typeName: type.name },
      source: {
        ...{ type: one.source_type, typeName: typeIn(model, one.source_type).name, id: one.source },
        title: titles[one.source] ?? one.source,
      },
      target:
        one.target === null
          ? null
          : { type: type.key, id: one.target, title: titles[one.target] ?? one.target },
      fields: keys.flatMap((key) => {
        const field = fieldIn(model, type.key, key);
        const parsed = parseValue(field.type, one.content[key] ?? null);
        const after = parsed.ok ? valueView(field.type, parsed.value, nameOf) : null;
        const stands = one.target === null ? null : standing.get(one.target);
        return [
          {
            ...{ field: key, fieldName: field.name, after, missing: missing.get(key)?.reason ?? null },
            candidates: (missing.get(key)?.candidates ?? []).flatMap((id) =>
              titles[id] === undefined ? [] : [{ id, title: titles[id], under: under.get(id) ?? '' }],
            ),
            before: stands ? valueView(field.type, (stands[key] ?? null) as never, nameOf) : null,
          },
        ];
      }),
      edit: editOf(one),
      person: personName(workspace, one.person),
      decidedBy: one.decided_by === null ? null : personName(workspace, one.decided_by),
      ...{ decidedAt: one.decided_at, decidedRun: one.decided_run },
    };
  });
}

/** Of records that a link may name, what tells them apart: the first record that each hangs under. */
async function namesUnder(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  proposals: readonly StoredProposal[],
): Promise<Map<string, string>> {
  const { model } = workspace;
  const ids = new Map<string, string[]>();
  for (const { target_type, missing } of proposals)
    for (const { field, candidates = [] } of missing) {
      const link = model.field(target_type, field)?.type;
      if (link?.kind === 'link') ids.set(link.target, [...(ids.get(link.target) ?? []), ...candidates]);
    }
  const wanted = new Wanted();
  const parents = new Map<string, { readonly name: string; readonly id: string }>();
  for (const [type, some] of ids)
    for (const row of await readRows(transaction, workspace, type, [...new Set(some)])) {
      const link = model.linksFrom(type).find(({ link: key }) => typeof row.values[key] === 'string');
      if (!link) continue;
      const id = row.values[link.link] as string;
      parents.set(row.id, { name: link.field.name, id });
      wanted.add(link.parent, id);
    }
  const titles = await readTitles(transaction, workspace, wanted);
  return new Map(
    Array.from(parents).flatMap(([id, { name, id: parent }]) => {
      const title = titles[parent] ?? (workspace.sight ? null : parent);
      return title === null ? [] : [[id, called(name, title)] as const];
    }),
  );
}
