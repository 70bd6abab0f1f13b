'use client';

import type { Proof, RuleView } from '@/core/verify';
import { useProofs } from '../api/queries';
import { Link } from '../kit/navigation';

/** What an opened proof is, and what came otherwise than it expects. */
export function ProofOpened({
  proof,
  rules,
  isAsKept,
}: {
  proof: Proof;
  rules: readonly RuleView[];
  isAsKept: boolean;
}) {
  const { data } = useProofs(proof.rule);
  const run = data?.proofs.find((one) => one.proof.id === proof.id);
  const rule = rules.find(({ id }) => id === proof.rule);
  return (
    <section className="bench-proof" aria-label="The proof">
      <p>
        <strong>{proof.name}</strong>{' '}
        {rule ? (
          <>
            <span className="quiet">of</span> <Link href={`/rules/${rule.id}`}>{rule.name}</Link>
          </>
        ) : null}
      </p>
      {isAsKept ? null : (
        <p className="quiet">You changed what it does: this isn’t the proof as it is kept.</p>
      )}
      {run && isAsKept ? (
        run.says.length > 0 ? (
          run.says.map((line) => (
            <p key={line} className="proof-fails">
              {line}
            </p>
          ))
        ) : (
          <p className="quiet">It holds: everything comes as it expects.</p>
        )
      ) : null}
    </section>
  );
}
