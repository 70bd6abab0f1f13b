'use client';

import type { ApprovalView } from '@/core/api';
import { Button, Input } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { useApprovals } from '@/ui/api/today-queries';
import { Dialog } from '@/ui/kit/dialog';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { clsx } from 'clsx';
import todayStyle from './today.module.css';

/** How many that were decided are told, of those that one asked for. */
const TOLD = 3;

/** What waits for somebody else to approve it; and of one's own, what came of it. Shown only while there is something. */
export function Approvals() {
  const { data } = useApprovals();
  const { id: person } = usePerson();
  const invalidate = useInvalidate();
  const task = useTask();
  const [refusing, setRefusing] = useState<ApprovalView | null>(null);
  const waiting = data?.approvals.filter(({ state }) => state === 'waiting') ?? [];
  const told = (data?.approvals ?? [])
    .filter(({ state, askedBy }) => (state === 'done' || state === 'refused') && askedBy.id === person)
    .slice(0, TOLD);
  if (waiting.length + told.length === 0) return null;
  const decide = (one: ApprovalView, decision: 'approve' | 'withdraw') =>
    void task.run(
      () =>
        callApi<ApprovalView>(`/approvals/${one.id}`, { method: 'POST', body: { decision }, person }).finally(
          () => void invalidate.everything(),
        ),
      () => (decision === 'approve' ? 'It is approved, and done' : 'It is taken back'),
    );
  return (
    <section className={clsx('sheet', todayStyle.queued)} aria-labelledby="approvals">
      <div className="sheet-head">
        <h2 id="approvals">Waits for approval</h2>
        <span className="quiet">Two people are wanted for it: nobody approves what they asked for.</span>
      </div>
      <ProblemNotice error={task.error} />
      <ul className={todayStyle.todayList}>
        {waiting.map((one) => (
          <li key={one.id}>
            <What approval={one} />
            {one.askedBy.id === person ? (
              <Button size="small" disabled={task.isBusy} onClick={() => decide(one, 'withdraw')}>
                Take it back
              </Button>
            ) : (
              <>
                <Button
                  size="small"
                  type="primary"
                  disabled={task.isBusy || one.isMoved}
                  onClick={() => decide(one, 'approve')}
                >
                  Approve
                </Button>
                <Button size="small" disabled={task.isBusy} onClick={() => setRefusing(one)}>
                  Refuse …
                </Button>
              </>
            )}
            <Looked approval={one} />
          </li>
        ))}
        {told.map((one) => (
          <li key={one.id}>
            <What approval={one} />
            <Looked approval={one} />
          </li>
        ))}
      </ul>
      {refusing ? <RefuseDialog approval={refusing} onClose={() => setRefusing(null)} /> : null}
    </section>
  );
}

function What({
  approval: { words, note, askedBy, askedAt, state, decidedBy, decidedAt, reason, isMoved },
}: {
  approval: ApprovalView;
}) {
  const [first, ...more] = words;
  return (
    <span className={todayStyle.queuedWhat}>
      <strong>{first}</strong>
      {more.map((line) => (
        <span key={line}>{line}</span>
      ))}
      {note ? <span>“{note}”</span> : null}
      <span className="quiet">
        asked for by {askedBy.name}, {when(askedAt)}
        {state === 'done' ? ` · approved by ${decidedBy}, ${when(decidedAt ?? '')}` : ''}
      </span>
      {state === 'refused' ? (
        <span className={todayStyle.queuedProblem}>
          Refused by {decidedBy}: {reason}
        </span>
      ) : null}
      {state === 'waiting' && isMoved ? (
        <span className={todayStyle.queuedProblem}>
          It was changed since, so it can’t be approved as it was. Take it back, or refuse it, and ask again.
        </span>
      ) : null}
    </span>
  );
}

/** Where what is asked for can be looked at. */
const Looked = ({ approval: { rules, kind } }: { approval: ApprovalView }) =>
  rules[0] ? (
    <Link href={rules.length > 1 ? '/rules' : `/rules/${rules[0]}`}>Look at it</Link>
  ) : kind === 'model' ? (
    <Link href="/model">Model</Link>
  ) : null;

function RefuseDialog({ approval, onClose }: { approval: ApprovalView; onClose: () => void }) {
  const { id: person } = usePerson();
  const invalidate = useInvalidate();
  const [reason, setReason] = useState('');
  const task = useTask();
  const refuse = () =>
    void task.run(
      () =>
        callApi<ApprovalView>(`/approvals/${approval.id}`, {
          ...{ method: 'POST', body: { decision: 'refuse', reason }, person },
        }),
      () => `${approval.askedBy.name} reads why in Today`,
      () => {
        void invalidate.everything();
        onClose();
      },
    );
  return (
    <Dialog
      open
      title="Refuse it"
      okText="Refuse it"
      okButtonProps={{ disabled: reason.trim() === '', loading: task.isBusy }}
      onOk={refuse}
      onCancel={onClose}
    >
      <label htmlFor="why-refused">Why</label>
      <Input.TextArea
        id="why-refused"
        value={reason}
        maxLength={500}
        autoSize={{ minRows: 2 }}
        onChange={(event) => setReason(event.target.value)}
      />
      <ProblemNotice error={task.error} />
    </Dialog>
  );
}
