import { type OwnRole, RIGHTS, type Right, type RoleView } from '@/core/api';
import { Button, Checkbox, Input } from 'antd';
import { useId, useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { begun } from './begun';
import style from './settings.module.css';

const CHOICES = (Object.keys(RIGHTS) as Right[]).map((value) => ({
  ...{ value, label: begun(RIGHTS[value]) },
  // Whoever may anything may look.
  disabled: value === 'see',
}));

/** A role of the workspace's own: made, changed for everybody who has it, or removed. */
export function RoleDialog({ role, onClose }: { role: RoleView | null; onClose: () => void }) {
  const { id: person } = usePerson();
  const invalidate = useInvalidate();
  const [name, setName] = useState(role?.name ?? '');
  const [rights, setRights] = useState<readonly Right[]>(role?.rights ?? ['see']);
  const task = useTask();
  const ids = useId();
  const done = () => {
    void invalidate.everything();
    onClose();
  };
  const body: OwnRole = { name, rights };
  const keep = () =>
    void task.run(
      () =>
        role
          ? callApi<RoleView>(`/roles/${role.key}`, { method: 'PATCH', body, person })
          : callApi<RoleView>('/roles', { method: 'POST', body, person }),
      () => (role ? `Whoever is ${name} may this from now on` : `One can be ${name} here now`),
      done,
    );
  const remove = ({ key }: RoleView) =>
    void task.run(
      () => callApi(`/roles/${key}`, { method: 'DELETE', person }),
      () => `“${name}” is no role any more`,
      done,
    );
  return (
    <Dialog
      open
      title={role ? `What ${role.name} may` : 'Make a role'}
      onCancel={onClose}
      footer={
        <>
          {role ? (
            <Button className={style.first} danger disabled={task.isBusy} onClick={() => remove(role)}>
              Remove it
            </Button>
          ) : null}
          <Button onClick={onClose}>Cancel</Button>
          <Button type="primary" disabled={name.trim() === ''} loading={task.isBusy} onClick={keep}>
            {role ? 'Save it' : 'Make it'}
          </Button>
        </>
      }
      onOk={keep}
    >
      <div className={style.field}>
        <label htmlFor={`${ids}name`}>What one is, such as Registrar’s assistant</label>
        <Input id={`${ids}name`} value={name} onChange={(event) => setName(event.target.value)} />
      </div>
      <span id={`${ids}rights`}>What one may</span>
      <Checkbox.Group
        className={style.rights}
        aria-labelledby={`${ids}rights`}
        options={CHOICES}
        value={[...rights]}
        onChange={setRights}
      />
      <ProblemNotice error={task.error} />
    </Dialog>
  );
}
