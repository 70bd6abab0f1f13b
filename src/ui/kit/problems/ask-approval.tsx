import type { ApprovalView } from '@/core/api';
import { Button, Input } from 'antd';
import { useId, useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import type { Asked } from '@/ui/api/problem';
import { useInvalidate } from '@/ui/api/queries';
import { useTask } from '@/ui/kit/hooks/use-task';

/** Somebody else approves what was just refused: it is asked for, exactly so. */
export function AskApproval({ asked }: { asked: Asked }) {
  const { id: person } = usePerson();
  const invalidate = useInvalidate();
  const [note, setNote] = useState('');
  const [isAsked, setAsked] = useState(false);
  const task = useTask();
  const id = useId();
  if (isAsked)
    return (
      <p role="status">It is asked for, and stands in Today until somebody else approves or refuses it.</p>
    );
  const ask = () =>
    void task.run(
      () => callApi<ApprovalView>('/approvals', { method: 'POST', body: { ...asked, note }, person }),
      null,
      () => {
        void invalidate.everything();
        setAsked(true);
      },
    );
  return (
    <div style={{ marginBlock: '8px 16px' }}>
      {task.error ? <p className="finding">{task.error.message}</p> : null}
      <label htmlFor={id}>What whoever approves should know</label>
      <Input id={id} value={note} maxLength={500} onChange={(event) => setNote(event.target.value)} />
      <Button size="small" loading={task.isBusy} onClick={ask} style={{ marginTop: 8 }}>
        Ask somebody to approve it
      </Button>
    </div>
  );
}
