'use client';

import type { ProofRunView } from '@/core/api';
import { Checkbox } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { NameInput } from '@/ui/kit/name-input';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';
import kitStyle from '@/ui/kit/kit.module.css';

/** Gives a proof another name, and leaves out some of what it expects. What it runs on never changes. */
export function ChangeProof({
  run: { proof, expects },
  onClose,
}: {
  run: ProofRunView;
  onClose: () => void;
}) {
  const person = usePerson();
  const forget = useInvalidate();
  const { run, isBusy, error } = useTask();
  const [name, setName] = useState(proof.name);
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const kept = proof.expectations.filter((_, at) => !left.has(at));
  const save = () =>
    run(
      async () => {
        const body = {
          version: proof.version,
          ...(name === proof.name ? {} : { name }),
          ...(left.size > 0 ? { expectations: kept } : {}),
        };
        await callApi(`/proofs/${proof.id}`, { method: 'PATCH', body, person: person.id });
        await forget.everything();
      },
      () => 'The proof is changed.',
      onClose,
    );
  const toggle = (at: number) =>
    setLeft(left.has(at) ? new Set([...left].filter((one) => one !== at)) : new Set([...left, at]));
  return (
    <Dialog
      open
      title="Change the proof"
      okText="Save"
      cancelText="Not now"
      okButtonProps={{
        disabled: name.trim() === '' || kept.length === 0 || (name === proof.name && left.size === 0),
        loading: isBusy,
      }}
      onOk={() => void save()}
      onCancel={onClose}
    >
      <div className={kitStyle.keepForm}>
        <NameInput value={name} onChange={setName} placeholder="Name: which case it is" />
        <fieldset className={kitStyle.keepExpected}>
          <legend>What must come of it</legend>
          {expects.map((words, at) => (
            <Checkbox key={`${at} ${words}`} checked={!left.has(at)} onChange={() => toggle(at)}>
              {words}
            </Checkbox>
          ))}
        </fieldset>
      </div>
      <ProblemNotice error={error} />
    </Dialog>
  );
}
