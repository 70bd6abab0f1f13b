'use client';

import { certain } from '@/core/values';
import type { ProposalView } from '@/core/api';
import { Input } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useDeciding } from './use-deciding';
import { whatWords } from './words';
import style from './refuse-dialog.module.css';

export interface RefuseDialogProps {
  readonly proposals: readonly ProposalView[];
  readonly onClose: () => void;
  readonly onDone?: () => void;
}

const MOST_NAMED = 6;

/** Refusing asks why: the reason is kept with what was proposed. */
export function RefuseDialog({ proposals, onClose, onDone }: RefuseDialogProps) {
  const [reason, setReason] = useState('');
  const deciding = useDeciding();
  const many = proposals.length > 1;
  const refuse = () =>
    deciding.decide(
      proposals.map(({ id }) => ({ id, decision: 'refuse', reason: reason.trim() })),
      () => {
        onDone?.();
        onClose();
      },
    );
  return (
    <Dialog
      open
      title={many ? `Refuse ${proposals.length} proposals` : 'Refuse the proposal'}
      okText={many ? 'Refuse them' : 'Refuse it'}
      okButtonProps={{ danger: true, disabled: reason.trim() === '', loading: deciding.isBusy }}
      cancelText="Not now"
      onOk={() => void refuse()}
      onCancel={onClose}
    >
      <ul className={style.todayRefused}>
        {proposals.slice(0, MOST_NAMED).map((proposal) => (
          <li key={proposal.id}>{whatWords(proposal)}</li>
        ))}
        {proposals.length > MOST_NAMED ? <li>and {proposals.length - MOST_NAMED} more</li> : null}
      </ul>
      <label>
        <span className="quiet">Why not? It is kept with the proposal.</span>
        <Input.TextArea
          aria-label="Why not"
          autoFocus
          value={reason}
          maxLength={1000}
          autoSize={{ minRows: 2, maxRows: 6 }}
          onChange={(event) => setReason(event.target.value)}
        />
      </label>
      <ProblemNotice error={deciding.error} />
      {deciding.problems.map(({ id, problem }) => (
        <p key={id} className="finding">
          {certain(problem).message}
        </p>
      ))}
    </Dialog>
  );
}
