import { grouped } from '@/core/grouped';
import { canonical } from '@/core/intake';
import type { Rule } from '@/core/rules';
import { PlannedRules, type ProofStanding, proofThrough, readyProof, withDrafts } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { quote, run } from '../store/sql';
import { inSnapshot } from '../store/transactions';
import { type LoadedWorkspace, loadWorkspace, readWorkspace } from '../store/workspace';
import { readProofs } from './proofs';

interface Latest extends Rule {
  readonly isLive: boolean;
}

/** What a workspace's proofs came to the last time, by what they hang on. */
const known = new Map<string, { readonly of: string; readonly standings: readonly ProofStanding[] }>();

/**
 * How the proofs of all rules stand: each run through the live rules with the latest version of its own rule. Run again only once a rule, the
 * model or a proof is another.
 */
export async function proofStandings(key: string): Promise<readonly ProofStanding[]> {
  const loaded = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await readWorkspace(transaction, loaded);
    const latest = await readLatest(transaction, workspace);
    const s = quote(workspace.schema);
    const versions = await run(transaction, `SELECT id::text, version FROM ${s}.proof ORDER BY id`);
    const { types, lists, selections } = workspace.model;
    const live = workspace.live.map(({ version }) => version).sort();
    const of = canonical([types, lists, selections, live, latest.map(({ version }) => version), versions]);
    const before = known.get(key);
    if (before?.of === of) return before.standings;
    const standings = await runAll(transaction, workspace, latest);
    known.set(key, { of, standings });
    return standings;
  });
}

const readLatest = (transaction: Transaction, { schema }: LoadedWorkspace): Promise<Latest[]> =>
  run<Latest>(
    transaction,
    `SELECT r.id::text, r.latest_version::text AS version, r.name, v.definition, r.live_version = r.latest_version IS TRUE AS "isLive"
      FROM ${quote(schema)}.rule r JOIN ${quote(schema)}.rule_version v ON v.id = r.latest_version
      WHERE EXISTS (SELECT FROM ${quote(schema)}.proof p WHERE p.rule = r.id) ORDER BY r.id`,
  );

async function runAll(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  latest: readonly Latest[],
): Promise<ProofStanding[]> {
  const { model, live } = workspace;
  const proofs = grouped(await readProofs(transaction, workspace), ({ rule }) => rule);
  // Rules that are live as they are share one plan.
  const asLive = new PlannedRules(live);
  return latest.map((rule): ProofStanding => {
    const planned = rule.isLive ? asLive : new PlannedRules(withDrafts(live, [rule]));
    const own = proofs.get(rule.id) ?? [];
    const held = own.filter((proof) => proofThrough(readyProof(model, proof), planned).kind === 'held');
    return { rule: rule.id, proofs: own.length, held: held.length };
  });
}
