import { grouped } from '@/core/grouped';
import { canonical } from '@/core/intake';
import type { Rule } from '@/core/rules';
import type { RuleProofs } from '@/core/api';
import type { Transaction } from 'sequelize';
import { quote, run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { proofsHeld } from '@/server/workers/proofs';
import { readProofs } from './proofs';

interface Latest extends Rule {
  readonly isLive: boolean;
}

interface Kept {
  readonly id: string;
  readonly rule: string;
  readonly version: number;
}

/** What came of a workspace's proofs. */
interface ProofsRun {
  readonly standings: readonly RuleProofs[];
  /** Ids of those that hold. */
  readonly held: ReadonlySet<string>;
}

/** What a workspace's proofs came to the last time, by what they hang on. */
const known = new Map<string, { readonly of: string; readonly came: ProofsRun }>();

/**
 * How the proofs of all rules stand: each run through the live rules with the latest version of its own rule. Run again only once a rule, the
 * model or a proof is another.
 */
export async function proofStandings(key: string): Promise<readonly RuleProofs[]> {
  const loaded = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const { standings } = await proofsCame(transaction, await currentWorkspace(transaction, loaded));
    return standings;
  });
}

/** The same with which of them hold, in a transaction. */
export async function proofsCame(transaction: Transaction, workspace: LoadedWorkspace): Promise<ProofsRun> {
  const latest = await readLatest(transaction, workspace);
  const s = quote(workspace.schema);
  const versions = await run<Kept>(
    transaction,
    `SELECT id::text, rule::text, version FROM ${s}._proof WHERE rule IN (SELECT id FROM ${s}._rule WHERE state <> 'retired') ORDER BY rule, lower(name), id`,
  );
  const { types, lists, selections } = workspace.model;
  const live = workspace.live.map(({ version }) => version).sort();
  const of = canonical([types, lists, selections, live, latest.map(({ version }) => version), versions]);
  const before = known.get(workspace.schema);
  if (before?.of === of) return before.came;
  const came = await runAll(transaction, workspace, latest, versions);
  known.set(workspace.schema, { of, came });
  return came;
}

const readLatest = (transaction: Transaction, { schema }: LoadedWorkspace): Promise<Latest[]> =>
  run<Latest>(
    transaction,
    `SELECT r.id::text, r.latest_version::text AS version, r.name, v.definition, r.live_version = r.latest_version IS TRUE AND r.pilot IS NULL AS "isLive"
      FROM ${quote(schema)}._rule r JOIN ${quote(schema)}._rule_version v ON v.id = r.latest_version
      WHERE r.state <> 'retired' AND EXISTS (SELECT FROM ${quote(schema)}._proof p WHERE p.rule = r.id) ORDER BY r.id`,
  );

async function runAll(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  latest: readonly Latest[],
  versions: readonly Kept[],
): Promise<ProofsRun> {
  const { model, live } = workspace;
  const proofs = await readProofs(transaction, workspace);
  const held = new Set(await proofsHeld({ model, live, latest, proofs }));
  const ofRule = grouped(proofs, ({ rule }) => rule);
  const standings = latest.map(({ id: rule }): RuleProofs => {
    const own = ofRule.get(rule) ?? [];
    const kept = versions.filter((one) => one.rule === rule).map(({ id, version }) => ({ id, version }));
    return { rule, proofs: own.length, held: own.filter(({ id }) => held.has(id)).length, kept };
  });
  return { standings, held };
}
