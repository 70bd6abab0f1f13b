import {
  caseSort,
  expectedWords,
  PlannedRules,
  type Proof,
  type ProofResult,
  proofThrough,
  readyProof,
  resultWords,
  type ToldAmong,
  withDrafts,
} from '@/core/verify';
import { type ProofHead, type ProofRunView } from '@/core/api';
import type { Rule } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { inSlices } from '@/server/slices';
import { proofsTold } from '@/server/workers/proofs';
import { quote, run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { findRule, latestOf } from './rules';
import { personName } from '@/server/queries/run-head';

/** What a proof runs on, as it is stored. */
export type ProofContent = Pick<Proof, 'family' | 'day' | 'people' | 'runs' | 'settings'>;

export type StoredHead = Omit<ProofHead, 'madeAt'> & { readonly made_at: Date };
type Stored = StoredHead & { readonly content: ProofContent };

export const HEAD =
  "id::text, rule::text, name, content->>'day' AS day, expectations, version, person::text, made_at";

const headOf = (workspace: LoadedWorkspace, stored: StoredHead): ProofHead => ({
  ...{ id: stored.id, rule: stored.rule, name: stored.name, day: stored.day, version: stored.version },
  expectations: stored.expectations,
  person: personName(workspace, stored.person),
  madeAt: stored.made_at.toISOString(),
});

export const proofIn = ({ content, id, rule, name, expectations }: Stored): Proof => ({
  ...content,
  ...{ id, rule, name, expectations },
});

/** A proof with what came of it, in words. */
export function ranView(
  workspace: LoadedWorkspace,
  proof: Proof,
  stored: StoredHead,
  result: ProofResult,
): ProofRunView {
  const { model, people } = workspace;
  const nameOf = (id: string) => proof.family.names[id] ?? people.get(id);
  return {
    ...{ proof: headOf(workspace, stored), result },
    says: resultWords(model, proof, result, nameOf),
    expects: expectedWords(model, proof, nameOf),
    sort: caseSort(proof),
  };
}

export const readHeads = (
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  rule: string,
): Promise<StoredHead[]> =>
  run<StoredHead>(
    transaction,
    `SELECT ${HEAD} FROM ${quote(schema)}._proof WHERE rule = $1 ORDER BY lower(name), id`,
    [rule],
  );

/** A rule's proofs, each run through the live rules and the latest version of the rule. */
export async function proofsOf(key: string, rule: string): Promise<ProofRunView[]> {
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const latest = latestOf(await findRule(transaction, workspace.schema, rule));
    const stored = await readStored(transaction, workspace, latest.id);
    const rules = new PlannedRules(withDrafts(workspace.live, [latest]));
    return inSlices(stored, (one) => {
      const proof = proofIn(one);
      return ranView(workspace, proof, one, proofThrough(readyProof(workspace.model, proof), rules));
    });
  });
}

/** A rule's proofs with all that they run on. */
export async function wholeProofs(key: string, rule: string): Promise<Proof[]> {
  const workspace = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const { id } = await findRule(transaction, workspace.schema, rule);
    return (await readStored(transaction, workspace, id)).map(proofIn);
  });
}

/** A kept proof with all that it runs on. */
export async function getProof(key: string, id: string): Promise<Proof> {
  const workspace = await loadWorkspace(key);
  return inSnapshot(async (transaction) => proofIn(await findProof(transaction, workspace, id)));
}

export async function findProof(
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  id: string,
): Promise<Stored> {
  const [found] = await run<Stored>(
    transaction,
    `SELECT ${HEAD}, content FROM ${quote(schema)}._proof WHERE id::text = $1`,
    [id],
  );
  if (!found) throw unknownProof();
  return found;
}

export const unknownProof = (): Refusal =>
  new Refusal(404, 'proof.unknown', 'There is no such proof. It may have been removed.');

/** What proofs say of taking rules live. */
export async function proofsOnTaking(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  taken: readonly Rule[],
): Promise<ToldAmong> {
  const { model, live, people } = workspace;
  const proofs = await readProofs(transaction, workspace);
  return proofsTold({ model, live, taken, proofs, people: Object.fromEntries(people) });
}

const readStored = (transaction: Transaction, { schema }: LoadedWorkspace, rule: string): Promise<Stored[]> =>
  run<Stored>(
    transaction,
    `SELECT ${HEAD}, content FROM ${quote(schema)}._proof WHERE rule = $1 ORDER BY lower(name), id`,
    [rule],
  );

/** The proofs of one rule. */
export const readProofsOf = async (
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: string,
): Promise<Proof[]> => (await readStored(transaction, workspace, rule)).map(proofIn);

/** A workspace's proofs, all of them or those with these ids, by the rules that they are about; those of retired rules are out of every check. */
export const readProofs = async (
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  ids: readonly string[] | null = null,
): Promise<Proof[]> =>
  (
    await run<Stored>(
      transaction,
      `SELECT ${HEAD}, content FROM ${quote(schema)}._proof
        WHERE rule IN (SELECT id FROM ${quote(schema)}._rule WHERE state <> 'retired') ${ids ? 'AND id = ANY($1::uuid[])' : ''}
        ORDER BY rule, lower(name), id`,
      ids ? [ids] : [],
    )
  ).map(proofIn);
