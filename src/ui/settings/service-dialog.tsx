import type { RoleView, ServiceView } from '@/core/api';
import { Input, Select } from 'antd';
import { useId, useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { roleChoices } from './role-choices';
import style from './settings.module.css';

interface ServiceDialogProps {
  readonly roles: readonly RoleView[];
  readonly onClose: () => void;
}

/** A program that acts as itself is added. */
export function ServiceDialog({ roles, onClose }: ServiceDialogProps) {
  const { id: person } = usePerson();
  const invalidate = useInvalidate();
  const [name, setName] = useState('');
  const [access, setAccess] = useState('editor');
  const task = useTask();
  const ids = useId();
  const add = () =>
    void task.run(
      () => callApi<ServiceView>('/services', { method: 'POST', body: { name, access }, person }),
      () => `${name} is a program here now`,
      () => {
        void invalidate.everything();
        onClose();
      },
    );
  return (
    <Dialog
      open
      title="Add a program"
      okText="Add it"
      okButtonProps={{ disabled: name.trim() === '', loading: task.isBusy }}
      onOk={add}
      onCancel={onClose}
    >
      <div className={style.field}>
        <label htmlFor={`${ids}name`}>Name, such as Nightly import</label>
        <Input id={`${ids}name`} value={name} onChange={(event) => setName(event.target.value)} />
      </div>
      <div className={style.field}>
        <label htmlFor={`${ids}access`}>What it may</label>
        <Select id={`${ids}access`} value={access} options={roleChoices(roles)} onChange={setAccess} />
      </div>
      <ProblemNotice error={task.error} />
    </Dialog>
  );
}
