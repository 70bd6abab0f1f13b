import { PlannedRules, type Proof, proofThrough, readyProof, resultWords, withDrafts } from '@/core/verify';
import { liveOf, modelOf, readBundle } from '../actions/read-bundle';

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
}

/** Runs every proof of a bundle, in memory: through its live rules with the latest version of the proof's rule. Refuses what isn't a bundle. */
export function runProofs(text: string): ProvenRule[] {
  const bundle = readBundle(text);
  const model = modelOf(bundle);
  const live = liveOf(bundle);
  const people = new Map(bundle.people.map((person) => [person.id, person.name]));
  return bundle.rules.map(({ id, name, definition }): ProvenRule => {
    const rules = new PlannedRules(withDrafts(live, [{ id, version: id, name, definition }]));
    const proofs = (bundle.proofs as readonly Proof[]).filter((proof) => proof.rule === id);
    return {
      name,
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
