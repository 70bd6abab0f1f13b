import type { LetIn, RoleView } from '@/core/api';
import { Input, Select } from 'antd';
import { useId, useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { AddressDialog } from './address-dialog';
import { roleChoices } from './role-choices';
import style from './settings.module.css';

/** Lets somebody in: a colleague who has an account, or a new one. */
export function LetInDialog({ roles, onClose }: { roles: readonly RoleView[]; onClose: () => void }) {
  const { id: acting } = usePerson();
  const [name, setName] = useState('');
  const [email, setEmail] = useState('');
  const [role, setRole] = useState('');
  const [access, setAccess] = useState('reader');
  const [made, setMade] = useState<LetIn | null>(null);
  const invalidate = useInvalidate();
  const task = useTask();
  const ids = useId();
  if (made?.secret) return <AddressDialog name={made.person.name} secret={made.secret} onClose={onClose} />;
  const letIn = () =>
    void task.run(
      () =>
        callApi<LetIn>('/people', { method: 'POST', body: { name, email, role, access }, person: acting }),
      ({ person }) => `${person.name} takes part now`,
      (answer) => {
        void invalidate.everything();
        if (answer.secret === null) onClose();
        else setMade(answer);
      },
    );
  const text = (label: string, value: string, onChange: (to: string) => void) => (
    <div className={style.field}>
      <label htmlFor={`${ids}${label}`}>{label}</label>
      <Input id={`${ids}${label}`} value={value} onChange={(event) => onChange(event.target.value)} />
    </div>
  );
  return (
    <Dialog
      open
      title="Let somebody in"
      okText="Let them in"
      okButtonProps={{ disabled: name.trim() === '' || email.trim() === '', loading: task.isBusy }}
      onOk={letIn}
      onCancel={onClose}
    >
      {text('Name', name, setName)}
      {text('E-mail', email, setEmail)}
      {text('What they are, such as Registrar', role, setRole)}
      <div className={style.field}>
        <label htmlFor={`${ids}access`}>What they may</label>
        <Select id={`${ids}access`} value={access} options={roleChoices(roles)} onChange={setAccess} />
      </div>
      <ProblemNotice error={task.error} />
    </Dialog>
  );
}
