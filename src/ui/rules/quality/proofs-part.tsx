'use client';

import type { ProofRunView, RuleView } from '@/core/api';
import { Button, Popconfirm } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { Term } from '@/ui/help/term';
import { useInvalidate, useProofs } from '@/ui/api/queries';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';
import { benchPath, provenPath } from '@/ui/kit/paths';
import { ChangeProof } from './change-proof';
import { StrengthPart } from './strength-part';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import qualityStyle from './quality.module.css';
import rulesStyle from '@/ui/rules/rules.module.css';
import style from './proofs-part.module.css';

/** A rule's proofs: which hold with its latest version, and what came instead where one doesn't. */
export function ProofsPart({ rule }: { rule: RuleView }) {
  const { data, error } = useProofs(rule.id);
  const proofs = data?.proofs ?? [];
  const held = proofs.filter(({ result }) => result.kind === 'held').length;
  return (
    <section className={clsx('sheet', qualityStyle.ruleProofs)} aria-label="Proofs">
      <div className="sheet-head">
        <h2>
          <Term of="proof">Proofs</Term>
        </h2>
        {proofs.length > 0 ? (
          <span className={held === proofs.length ? 'quiet' : kitStyle.proofFails}>
            {held === proofs.length
              ? proofs.length === 1
                ? 'It holds'
                : `All ${held} hold`
              : `${held} of ${proofs.length} hold`}
          </span>
        ) : null}
        <Link href={benchPath(rule)}>Add one on the bench</Link>
      </div>
      <ProblemNotice error={error} />
      {data && proofs.length === 0 ? (
        <p className="quiet">
          No proof covers this rule. Try a case on the bench and keep it as a proof; then every change of the
          rule shows whether that case still comes out as it should.
        </p>
      ) : null}
      <ul>
        {proofs.map((one) => (
          <ProofLine key={one.proof.id} rule={rule} run={one} />
        ))}
      </ul>
      <Sorts proofs={proofs} />
      <StrengthPart rule={rule} proofs={data && held === proofs.length ? proofs : null} />
    </section>
  );
}

/** Both are asked for: cases in which the rule acts, and cases in which it must not. */
function Sorts({ proofs }: { proofs: readonly ProofRunView[] }) {
  const leaving = proofs.filter(({ sort }) => sort === 'leaves').length;
  if (proofs.length === 0 || (leaving > 0 && leaving < proofs.length)) return null;
  return (
    <p className={clsx('quiet', style.proofSorts)}>
      {leaving === 0
        ? 'All of them show where the rule acts. Keep a case in which it must not, too.'
        : 'All of them show where the rule must not act. Keep a case in which it does, too.'}
    </p>
  );
}

function ProofLine({ rule, run: one }: { rule: RuleView; run: ProofRunView }) {
  const { proof, result, says, sort } = one;
  const [isChanging, setChanging] = useState(false);
  const person = usePerson();
  const forget = useInvalidate();
  const { run, isBusy, error } = useTask();
  const remove = () =>
    run(
      async () => {
        await callApi(`/proofs/${proof.id}`, { method: 'DELETE', person: person.id });
        await forget.everything();
      },
      () => `“${proof.name}” is removed.`,
    );
  return (
    <li>
      <div>
        <Link href={provenPath(rule, proof.id)} title="Open it on the bench">
          {proof.name}
        </Link>{' '}
        <span className={result.kind === 'held' ? 'quiet' : kitStyle.proofFails}>
          {result.kind === 'held' ? 'holds' : result.kind === 'missed' ? 'doesn’t hold' : 'can’t be run'}
        </span>
        {sort === 'leaves' ? <span className={style.proofSort}>must not act</span> : null}
        {says.map((line) => (
          <p key={line}>{line}</p>
        ))}
        <ProblemNotice error={error} />
      </div>
      <span className={rulesStyle.proofButtons}>
        <Button size="small" onClick={() => setChanging(true)} aria-label={`Change the proof ${proof.name}`}>
          Change
        </Button>
        {isChanging ? <ChangeProof run={one} onClose={() => setChanging(false)} /> : null}
        <Popconfirm
          title={`Remove the proof “${proof.name}”?`}
          okText="Remove it"
          cancelText="Not now"
          onConfirm={() => void remove()}
        >
          <Button size="small" loading={isBusy} aria-label={`Remove the proof ${proof.name}`}>
            Remove
          </Button>
        </Popconfirm>
      </span>
    </li>
  );
}
