import {
  caseSort,
  expectedWords,
  type MissedProof,
  PlannedRules,
  type Proof,
  type ProofHead,
  type ProofResult,
  type ProofRun,
  type ProofStanding,
  proofThrough,
  readyProof,
  resultWords,
  withDrafts,
} from '@/core/verify';
import type { Rule } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { Refusal } from '../refusal';
import { inSlices, Slices } from '../slices';
import { quote, run } from '../store/sql';
import { inSnapshot } from '../store/transactions';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace } from '../store/workspace';
import { findRule, latestOf } from './rules';
import { personName } from './run-head';

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
): ProofRun {
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
export async function proofsOf(key: string, rule: string): Promise<ProofRun[]> {
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const latest = latestOf(await findRule(transaction, workspace.schema, rule));
    const stored = await run<Stored>(
      transaction,
      `SELECT ${HEAD}, content FROM ${quote(workspace.schema)}._proof WHERE rule = $1 ORDER BY lower(name), id`,
      [latest.id],
    );
    const rules = new PlannedRules(withDrafts(workspace.live, [latest]));
    return inSlices(stored, (one) => {
      const proof = proofIn(one);
      return ranView(workspace, proof, one, proofThrough(readyProof(workspace.model, proof), rules));
    });
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
  if (!found) throw unknownProof(id);
  return found;
}

export const unknownProof = (id: string): Refusal =>
  new Refusal(404, 'proof.unknown', `There is no proof ${id}. It may have been removed.`);

/**
 * What proofs say of taking rules live: of each rule how many proofs it has and how many hold, and which don't hold then, of these rules or of
 * others where they hold now.
 */
export async function proofsTold(
  workspace: LoadedWorkspace,
  taken: readonly Rule[],
  proofs: readonly Proof[],
): Promise<{
  readonly standings: ReadonlyMap<string, ProofStanding>;
  readonly missed: readonly MissedProof[];
}> {
  const { model, live, people } = workspace;
  const [now, then] = [new PlannedRules(live), new PlannedRules(withDrafts(live, taken))];
  const names = new Map([...live, ...taken].map(({ id, name }) => [id, name]));
  const standings = new Map(taken.map(({ id }) => [id, { rule: id, proofs: 0, held: 0 }]));
  const missed: MissedProof[] = [];
  const slices = new Slices();
  for (const proof of proofs) {
    await slices.rest();
    const name = names.get(proof.rule);
    // Of a rule that is neither live nor taken live nothing is asked.
    if (name === undefined) continue;
    const ready = readyProof(model, proof);
    const result = proofThrough(ready, then);
    const isHeld = result.kind === 'held';
    const standing = standings.get(proof.rule);
    if (standing) {
      standing.proofs += 1;
      standing.held += isHeld ? 1 : 0;
    }
    if (isHeld || (!standing && proofThrough(ready, now).kind !== 'held')) continue;
    const says = resultWords(model, proof, result, (id) => proof.family.names[id] ?? people.get(id));
    missed.push({ rule: { id: proof.rule, name }, name: proof.name, says });
  }
  return { standings, missed };
}

/** The proofs of one rule. */
export const readProofsOf = async (
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  rule: string,
): Promise<Proof[]> =>
  (
    await run<Stored>(
      transaction,
      `SELECT ${HEAD}, content FROM ${quote(schema)}._proof WHERE rule = $1 ORDER BY lower(name), id`,
      [rule],
    )
  ).map(proofIn);

/** All proofs of a workspace, by the rules that they are about; those of retired rules are out of every check. */
export const readProofs = async (transaction: Transaction, { schema }: LoadedWorkspace): Promise<Proof[]> =>
  (
    await run<Stored>(
      transaction,
      `SELECT ${HEAD}, content FROM ${quote(schema)}._proof
        WHERE rule IN (SELECT id FROM ${quote(schema)}._rule WHERE state <> 'retired') ORDER BY rule, lower(name), id`,
    )
  ).map(proofIn);
