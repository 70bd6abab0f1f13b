import type { Model } from '@/core/model';
import type { Rule } from '@/core/rules';
import { resultWords } from './propose-expectations';
import { type Proof, proofThrough, readyProof } from './proof';
import { PlannedRules } from '@/core/verify/rehearsal/planned-rules';
import { withDrafts } from '@/core/verify/rehearsal/rehearse';

export interface ProofsAmong {
  readonly model: Model;
  readonly live: readonly Rule[];
  readonly proofs: readonly Proof[];
}

/** What proofs say of taking rules live. */
export interface ToldAmong {
  /** Of each of these rules how many proofs it has, and how many hold then. */
  readonly standings: readonly ProofStanding[];
  /** Which don't hold then, of these rules or of others where they hold now. */
  readonly missed: readonly MissedProof[];
}

/** Runs proofs through the rules as they are and as they would be; yields after each. `people` are the workspace's, by id. */
export function* toldAmong({
  model,
  live,
  proofs,
  taken,
  people,
}: ProofsAmong & {
  readonly taken: readonly Rule[];
  readonly people: Readonly<Record<string, string>>;
}): Generator<void, ToldAmong> {
  const [now, then] = [new PlannedRules(live), new PlannedRules(withDrafts(live, taken))];
  const names = new Map([...live, ...taken].map(({ id, name }) => [id, name]));
  const standings = new Map(taken.map(({ id }) => [id, { rule: id, proofs: 0, held: 0 }]));
  const missed: MissedProof[] = [];
  for (const proof of proofs) {
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
    if (!isHeld && (standing || proofThrough(ready, now).kind === 'held')) {
      const says = resultWords(model, proof, result, (id) => proof.family.names[id] ?? people[id]);
      missed.push({ rule: { id: proof.rule, name }, name: proof.name, says });
    }
    yield;
  }
  return { standings: [...standings.values()], missed };
}

/** Ids of the proofs that hold, each through the live rules with the latest version of its own; yields after each. */
export function* heldAmong({
  model,
  live,
  proofs,
  latest,
}: ProofsAmong & {
  readonly latest: readonly (Rule & { readonly isLive: boolean })[];
}): Generator<void, readonly string[]> {
  // Rules that are live as they are share one plan.
  const asLive = new PlannedRules(live);
  const planned = new Map(
    latest.map((rule) => [rule.id, rule.isLive ? asLive : new PlannedRules(withDrafts(live, [rule]))]),
  );
  const held: string[] = [];
  for (const proof of proofs) {
    const rules = planned.get(proof.rule);
    if (rules && proofThrough(readyProof(model, proof), rules).kind === 'held') held.push(proof.id);
    yield;
  }
  return held;
}

/** A proof that doesn't hold, with what came instead. */
export interface MissedProof {
  readonly rule: { readonly id: string; readonly name: string };
  readonly name: string;
  readonly says: readonly string[];
}

/** How many proofs a rule has, and how many of them hold. */
export interface ProofStanding {
  readonly rule: string;
  readonly proofs: number;
  readonly held: number;
}
