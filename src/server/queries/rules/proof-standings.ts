import { grouped } from '@/core/grouped';
import { canonical, valueAt } from '@/core/values';

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

/** Which proofs of a workspace hold, as was found under its rules and its model; what is being found is waited for by all who ask. */
interface Known {
  /** The model and the live rules. */
  readonly of: string;
  /** By the proof, its version and its rule's. */
  readonly held: Map<string, Promise<boolean>>;
}

const known = new Map<string, Known>();

/**
 * How the proofs of all rules stand: each run through the live rules with the latest version of its own rule. One is run again only once it, its
 * rule, the model or a live rule is another.
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
  const kept = await run<Kept>(
    transaction,
    `SELECT id::text, rule::text, version FROM ${s}._proof WHERE rule IN (SELECT id FROM ${s}._rule WHERE state <> 'retired') ORDER BY rule, lower(name), id`,
  );
  const held = await whichHold(transaction, workspace, latest, kept);
  const ofRule = grouped(kept, ({ rule }) => rule);
  const standings = latest.map(({ id: rule }): RuleProofs => {
    const own = (ofRule.get(rule) ?? []).map(({ id, version }) => ({ id, version }));
    return { rule, proofs: own.length, held: own.filter(({ id }) => held.has(id)).length, kept: own };
  });
  return { standings, held };
}

const readLatest = (transaction: Transaction, { schema }: LoadedWorkspace): Promise<Latest[]> =>
  run<Latest>(
    transaction,
    `SELECT r.id::text, r.latest_version::text AS version, r.name, v.definition, r.live_version = r.latest_version IS TRUE AND r.pilot IS NULL AS "isLive"
      FROM ${quote(schema)}._rule r JOIN ${quote(schema)}._rule_version v ON v.id = r.latest_version
      WHERE r.state <> 'retired' AND EXISTS (SELECT FROM ${quote(schema)}._proof p WHERE p.rule = r.id) ORDER BY r.id`,
  );

/** Ids of the proofs that hold; only those that aren't known yet are read and run. */
async function whichHold(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  latest: readonly Latest[],
  kept: readonly Kept[],
): Promise<ReadonlySet<string>> {
  const { model, live } = workspace;
  const { types, lists, selections } = model;
  const of = canonical([types, lists, selections, live.map(({ version }) => version).sort()]);
  const before = known.get(workspace.schema);
  const ofRule = new Map(latest.map(({ id, version, isLive }) => [id, `${version} ${isLive}`]));
  const keys = new Map(
    kept.map(({ id, rule, version }) => [id, `${id} ${version} ${ofRule.get(rule) ?? ''}`]),
  );
  const held = new Map<string, Promise<boolean>>();
  const asked: string[] = [];
  for (const [id, key] of keys) {
    const found = before?.of === of ? before.held.get(key) : undefined;
    if (found) held.set(key, found);
    else asked.push(id);
  }
  if (asked.length > 0) {
    // Nothing is waited for before it is known: whoever asks meanwhile waits for the same.
    const found = readProofs(transaction, workspace, asked)
      .then((proofs) => proofsHeld({ model, live, latest, proofs }))
      .then((ids) => new Set(ids));
    for (const id of asked) {
      const isHeld = found.then((ids) => ids.has(id));
      // Whoever waits for it is told that it failed; the next asks again.
      isHeld.catch(() => known.delete(workspace.schema));
      held.set(valueAt(keys, id), isHeld);
    }
  }
  known.set(workspace.schema, { of, held });
  const all = await Promise.all([...keys].map(async ([id, key]) => ((await valueAt(held, key)) ? [id] : [])));
  return new Set(all.flat());
}
