import type { SessionAnswer } from '@/core/api';
import { Input } from 'antd';
import { useId, useState } from 'react';
import { callServer } from '@/ui/api/client';
import { Dialog } from '@/ui/kit/dialog';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import style from './account.module.css';

/** Another password for oneself; wherever else one is signed in, that ends. */
export function PasswordDialog({ onClose }: { onClose: () => void }) {
  const [password, setPassword] = useState('');
  const [next, setNext] = useState('');
  const task = useTask();
  const id = useId();
  const change = () =>
    void task.run(
      () =>
        callServer<SessionAnswer>('/api/v1/session/password', { method: 'POST', body: { password, next } }),
      () => 'Your password is another now. Wherever else you were signed in, that has ended.',
      onClose,
    );
  return (
    <Dialog
      open
      title="Change your password"
      okText="Change it"
      okButtonProps={{ disabled: password === '' || next === '', loading: task.isBusy }}
      onOk={change}
      onCancel={onClose}
    >
      <div className={style.field}>
        <label htmlFor={`${id}now`}>The password that you have</label>
        <Input.Password
          id={`${id}now`}
          value={password}
          autoComplete="current-password"
          onChange={(event) => setPassword(event.target.value)}
        />
      </div>
      <div className={style.field}>
        <label htmlFor={`${id}next`}>The new one</label>
        <Input.Password
          id={`${id}next`}
          value={next}
          autoComplete="new-password"
          aria-describedby={`${id}hint`}
          onChange={(event) => setNext(event.target.value)}
        />
        <span id={`${id}hint`} className="quiet">
          At least 12 characters. A few words that only you would put together are good.
        </span>
      </div>
      <ProblemNotice error={task.error} />
    </Dialog>
  );
}
