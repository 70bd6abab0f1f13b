import {
  PlannedRules,
  type Proof,
  proofThrough,
  readyProof,
  resultWords,
  type Strength,
  type StrengthInput,
  strengthOf,
  withDrafts,
} from '@/core/verify';
import { liveOf, modelOf, readBundle } from '@/server/actions/bundles/read-bundle';

export interface ProvenProof {
  readonly name: string;
  readonly isHeld: boolean;
  /** What came instead of what was expected, or why it can't be run; empty where it holds. */
  readonly says: readonly string[];
  /** How long it took, in milliseconds. */
  readonly took: number;
}

/** A rule of a bundle with its proofs. */
export interface ProvenRule {
  readonly name: string;
  readonly proofs: readonly ProvenProof[];
  /** How strong they are, where that was asked; left out of drafts without any. */
  readonly strength?: Strength;
}

/** Runs every proof of a bundle, in memory: through its live rules with the latest version of the proof's rule. Refuses what isn't a bundle. */
export async function runProofs(text: string, asksStrength = false): Promise<ProvenRule[]> {
  const bundle = await readBundle(text);
  const model = modelOf(bundle);
  const live = liveOf(bundle);
  const people = new Map(bundle.people.map((person) => [person.id, person.name]));
  return bundle.rules.map(({ id, name, definition, state }): ProvenRule => {
    const rule = { id, version: id, name, definition };
    const among = withDrafts(live, [rule]);
    const rules = new PlannedRules(among);
    const proofs = (bundle.proofs as readonly Proof[]).filter((proof) => proof.rule === id);
    const isAsked = asksStrength && (state === 'live' || proofs.length > 0);
    return {
      name,
      ...(isAsked ? { strength: searched({ model, rules: among, rule, proofs }) } : {}),
      proofs: proofs.map((proof): ProvenProof => {
        const before = performance.now();
        const result = proofThrough(readyProof(model, proof), rules);
        const nameOf = (one: string) => proof.family.names[one] ?? people.get(one);
        return {
          ...{ name: proof.name, isHeld: result.kind === 'held' },
          says: resultWords(model, proof, result, nameOf),
          took: performance.now() - before,
        };
      }),
    };
  });
}

/** The whole search, step after step. */
function searched(input: StrengthInput): Strength {
  const steps = strengthOf(input);
  for (let step = steps.next(); ; step = steps.next()) if (step.done) return step.value;
}
