'use client';

import type { Missed, Proof } from '@/core/verify';
import type { ProofRunView, RuleView } from '@/core/api';
import { useProofs } from '@/ui/api/queries';
import { cellKey } from '@/ui/kit/values/cell-key';
import { Link } from '@/ui/kit/navigation';
import type { Rehearsed } from '@/ui/workers/rule-worker';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './proof-opened.module.css';

/** How an opened proof runs, as long as it is as it was kept. */
export function useRunOf(proof: Proof | null, isAsKept: boolean): ProofRunView | null {
  const { data } = useProofs(proof?.rule ?? null);
  if (!proof || !isAsKept) return null;
  return data?.proofs.find((one) => one.proof.id === proof.id) ?? null;
}

const missedIn = (run: ProofRunView | null): readonly Missed[] =>
  run?.result.kind === 'missed' ? run.result.missed : [];

/** The fields that come otherwise than the proof expects. */
export const differingCells = (run: ProofRunView | null): ReadonlySet<string> =>
  new Set(
    missedIn(run).flatMap(({ expectation: one }) =>
      'field' in one ? [cellKey(one.type, one.id, one.field)] : [],
    ),
  );

/** What an opened proof is, and what came otherwise than it expects; where it has several saves, in which of them. */
export function ProofOpened({
  proof,
  rules,
  run,
  isAsKept,
  data,
}: {
  proof: Proof;
  rules: readonly RuleView[];
  run: ProofRunView | null;
  isAsKept: boolean;
  data: Rehearsed | undefined;
}) {
  const rule = rules.find(({ id }) => id === proof.rule);
  const missed = missedIn(run);
  return (
    <section className={style.benchProof} aria-label="The proof">
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
      {run?.says.map((line, at) => (
        <p key={line} className={kitStyle.proofFails}>
          {line}
          <InSave save={missed[at] && data ? saveOf(missed[at], data) : null} />
        </p>
      ))}
      {run?.says.length === 0 ? <p className="quiet">It holds: everything comes as it expects.</p> : null}
    </section>
  );
}

/** A press shows the save in which something comes otherwise. */
function InSave({ save }: { save: number | null }) {
  if (save === null) return null;
  const show = () => {
    const section = document.getElementById(saveId(save));
    section?.scrollIntoView({ block: 'start' });
    section?.focus();
  };
  return (
    <>
      {' '}
      <button type="button" className={clsx('plain', style.proofSave)} onClick={show}>
        {`In save ${save + 1}`}
      </button>
    </>
  );
}

/** The id of what a save is told in. */
export const saveId = (number: number): string => `save-${number + 1}`;

/** The last of several saves in which the field got what it has; `null` where none did, or there is one only. */
function saveOf({ expectation: one }: Missed, { rehearsals }: Rehearsed): number | null {
  if (rehearsals.length < 2) return null;
  if (one.kind === 'isRefused') return one.run;
  if (!('field' in one)) return null;
  const found = rehearsals.findLastIndex((rehearsal) => {
    const ripples = rehearsal.kind === 'done' ? [rehearsal.turned, rehearsal.ripple] : [];
    return ripples.some((ripple) =>
      ripple?.waves.some(({ changes }) =>
        changes.some(({ id, field }) => id === one.id && field === one.field),
      ),
    );
  });
  return found < 0 ? null : found;
}
