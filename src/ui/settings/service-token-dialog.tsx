import { RIGHTS, type Right, type RoleView, type ServiceView } from '@/core/api';
import { Button, Checkbox, Input, Select } from 'antd';
import { useId, useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { ShownSecret } from '@/ui/account/shown-secret';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { begun } from './begun';
import style from './settings.module.css';

const DAYS = [30, 90, 365].map((value) => ({ value, label: `${value} days` }));

interface ServiceTokenDialogProps {
  readonly service: ServiceView;
  readonly roles: readonly RoleView[];
  readonly onClose: () => void;
}

/** A token of a program: with all that its role may, or less. It is shown once. */
export function ServiceTokenDialog({ service, roles, onClose }: ServiceTokenDialogProps) {
  const { id: person } = usePerson();
  const invalidate = useInvalidate();
  const may = roles.find(({ key }) => key === service.access)?.rights ?? [];
  const [name, setName] = useState('');
  const [rights, setRights] = useState<readonly Right[]>(may);
  const [days, setDays] = useState(90);
  const [token, setToken] = useState<string | null>(null);
  const task = useTask();
  const ids = useId();
  const make = () =>
    void task.run(
      () =>
        callApi<{ token: string }>(`/services/${service.id}/tokens`, {
          ...{ method: 'POST', body: { name, rights, days }, person },
        }),
      null,
      (made) => {
        setToken(made.token);
        void invalidate.everything();
      },
    );
  if (token)
    return (
      <Dialog
        open
        title={`A token for ${service.name}`}
        onCancel={onClose}
        footer={
          <>
            <Button onClick={() => void navigator.clipboard.writeText(token)}>Copy it</Button>
            <Button type="primary" onClick={onClose}>
              Done
            </Button>
          </>
        }
      >
        <p>Give it to the program now: it isn’t shown again. Whoever has it acts as {service.name}.</p>
        <ShownSecret text={token} />
      </Dialog>
    );
  return (
    <Dialog
      open
      title={`A token for ${service.name}`}
      okText="Make it"
      okButtonProps={{ disabled: name.trim() === '' || rights.length === 0, loading: task.isBusy }}
      onOk={make}
      onCancel={onClose}
    >
      <div className={style.field}>
        <label htmlFor={`${ids}name`}>Where it is used</label>
        <Input id={`${ids}name`} value={name} onChange={(event) => setName(event.target.value)} />
      </div>
      <span id={`${ids}rights`}>What it may</span>
      <Checkbox.Group
        className={style.rights}
        aria-labelledby={`${ids}rights`}
        options={may.map((value) => ({ value, label: begun(RIGHTS[value]) }))}
        value={[...rights]}
        onChange={setRights}
      />
      <div className={style.field}>
        <label htmlFor={`${ids}days`}>For how long</label>
        <Select id={`${ids}days`} value={days} onChange={setDays} options={DAYS} />
      </div>
      <ProblemNotice error={task.error} />
    </Dialog>
  );
}
