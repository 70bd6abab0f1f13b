import type { MemberView } from '@/core/api';
import { Button, Input } from 'antd';
import { useId, useState } from 'react';
import { callServer } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { useSession } from '@/ui/api/session';
import { Dialog } from '@/ui/kit/dialog';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import style from './settings.module.css';

/** What an operator does with what is kept of a person: gives it out, or takes it out for good. */
export function PersonalDataPresses({ person }: { person: MemberView }) {
  const { person: signedIn } = useSession();
  const [isForgetting, setForgetting] = useState(false);
  const path = `/api/v1/people/${person.id}/data`;
  return (
    <>
      <Button
        size="small"
        type="text"
        href={path}
        download={`${person.name}.json`}
        aria-label={`What is kept of ${person.name}, as a file`}
      >
        What is kept
      </Button>
      {person.id === signedIn?.id ? null : (
        <Button
          size="small"
          type="text"
          aria-label={`Take ${person.name} out for good …`}
          onClick={() => setForgetting(true)}
        >
          Take out for good …
        </Button>
      )}
      {isForgetting ? <ForgetDialog person={person} onClose={() => setForgetting(false)} /> : null}
    </>
  );
}

function ForgetDialog({ person, onClose }: { person: MemberView; onClose: () => void }) {
  const invalidate = useInvalidate();
  const task = useTask();
  const [typed, setTyped] = useState('');
  const id = useId();
  const name = person.name.replace(/ \(no longer here\)$/, '');
  const forget = () =>
    void task.run(
      () =>
        callServer(`/api/v1/people/${person.id}/data`, { method: 'DELETE', body: { confirmation: typed } }),
      () => 'Their name and their e-mail are gone',
      () => {
        void invalidate.everything();
        onClose();
      },
    );
  return (
    <Dialog
      open
      title={`Take ${name} out for good`}
      okText="Take them out"
      okButtonProps={{ danger: true, disabled: typed !== name, loading: task.isBusy }}
      onOk={forget}
      onCancel={onClose}
    >
      <p>
        Their name and e-mail become “a person” wherever Oikon wrote them, in ledgers and messages too. They
        take part nowhere and can’t sign in. What people wrote into records stays theirs to change. This can’t
        be undone.
      </p>
      <div className={style.field}>
        <label htmlFor={id}>Type their name, {name}, to confirm it</label>
        <Input id={id} value={typed} onChange={(event) => setTyped(event.target.value)} />
      </div>
      <ProblemNotice error={task.error} />
    </Dialog>
  );
}
