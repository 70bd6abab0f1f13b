'use client';

import type { RuleView } from '@/core/api';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate, useJointPreview } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { counted } from '@/ui/kit/values/counted';
import { Effect } from '@/ui/rules/preview/live-effect';
import { ProofsSay } from '@/ui/rules/preview/proofs-say';

/** Fields that are told where nothing would change. */
const MOST_TOLD = 12;

/** What taking several rules live in one run would change together, before it is confirmed. */
export function TakeLiveDialog({ rules, onClose }: { rules: readonly RuleView[]; onClose: () => void }) {
  const person = usePerson();
  const forget = useInvalidate();
  const ids = rules.map(({ id }) => id);
  const preview = useJointPreview(ids);
  const { isBusy, error, run } = useTask();
  const [reason, setReason] = useState('');
  const { proofs, fromNowOn = [], effects = [] } = preview.data ?? {};
  const needsReason = proofs !== undefined && proofs.missed.length > 0;
  const own = effects.filter(({ rule }) => ids.includes(rule.id));
  const right = effects
    .filter((effect) => effect.changed === 0)
    .map(({ fieldName, plural }) => `${fieldName} of ${plural}`);
  const changed = effects.reduce((sum, effect) => sum + effect.changed, 0);
  const takeLive = () =>
    run(
      async () => {
        const body = { rules: ids, ...(needsReason ? { reason } : {}) };
        await callApi('/live-rules', { method: 'POST', person: person.id, body });
        await forget.everything();
      },
      () =>
        `${counted(rules.length, 'rule is', 'rules are')} live. ${counted(changed, 'value', 'values')} changed.`,
      onClose,
    );
  return (
    <Dialog
      open
      width={720}
      title={`Take ${counted(rules.length, 'rule', 'rules')} live in one run`}
      okText={
        changed > 0
          ? `Take ${rules.length === 1 ? 'it' : 'them'} live and change ${counted(changed, 'value', 'values')}`
          : `Take ${rules.length === 1 ? 'it' : 'them'} live`
      }
      okButtonProps={{
        disabled: !preview.data || (needsReason && reason.trim() === ''),
        loading: isBusy,
      }}
      cancelText="Not now"
      onOk={() => void takeLive()}
      onCancel={onClose}
    >
      <ProblemNotice error={preview.error ?? error} />
      {proofs ? <ProofsSay {...{ proofs, reason }} rules={rules.length} onReason={setReason} /> : null}
      {fromNowOn.length > 0 ? (
        <p>
          {fromNowOn.map(({ name }) => `“${name}”`).join(', ')} {fromNowOn.length === 1 ? 'acts' : 'act'} on
          what comes from then on; records that are there stay as they are.
        </p>
      ) : null}
      {effects
        .filter((effect) => effect.changed > 0)
        .sort((a, b) => Number(own.includes(b)) - Number(own.includes(a)) || b.changed - a.changed)
        .map((effect) => (
          <Effect
            key={`${effect.rule.id} ${effect.type} ${effect.fieldName}`}
            effect={effect}
            isFollowing={!own.includes(effect)}
            isIfMatching={false}
          />
        ))}
      {right.length > 0 ? (
        <p className="quiet">
          Right already: {right.slice(0, MOST_TOLD).join(' · ')}
          {right.length > MOST_TOLD
            ? ` · and ${counted(right.length - MOST_TOLD, 'field', 'fields')} more`
            : ''}
        </p>
      ) : null}
      {preview.data || preview.error ? null : <Loading what="what would change" />}
    </Dialog>
  );
}
