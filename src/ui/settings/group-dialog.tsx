import type { GroupView } from '@/core/api';
import { Button, Input, Select } from 'antd';
import { useId, useState } from 'react';
import { callServer } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useEverybody, useInvalidate } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import style from './settings.module.css';

/** A group of the installation: what it is called here and at the company's sign-in, and who is in it. */
export function GroupDialog({ group, onClose }: { group: GroupView | null; onClose: () => void }) {
  const { id: person } = usePerson();
  const { data: everybody } = useEverybody();
  const invalidate = useInvalidate();
  const [name, setName] = useState(group?.name ?? '');
  const [claim, setClaim] = useState(group?.claim ?? '');
  const [members, setMembers] = useState<readonly string[]>(group?.members.map(({ id }) => id) ?? []);
  const task = useTask();
  const ids = useId();
  const isClaimed = claim.trim() !== '';
  const done = () => {
    void invalidate.everything();
    onClose();
  };
  const keep = () => {
    const body = { name, claim: isClaimed ? claim : null, ...(isClaimed ? {} : { members }) };
    void task.run(
      () =>
        group
          ? callServer(`/api/v1/groups/${group.id}`, { method: 'PATCH', body, person })
          : callServer('/api/v1/groups', { method: 'POST', body, person }),
      () => (group ? `“${name}” is changed` : `“${name}” is a group now`),
      done,
    );
  };
  const remove = ({ id }: GroupView) =>
    void task.run(
      () => callServer(`/api/v1/groups/${id}`, { method: 'DELETE', person }),
      () => `“${name}” is no group any more`,
      done,
    );
  return (
    <Dialog
      open
      title={group ? `The group ${group.name}` : 'Make a group'}
      onCancel={onClose}
      footer={
        <>
          {group ? (
            <Button className={style.first} danger disabled={task.isBusy} onClick={() => remove(group)}>
              Remove it
            </Button>
          ) : null}
          <Button onClick={onClose}>Cancel</Button>
          <Button type="primary" disabled={name.trim() === ''} loading={task.isBusy} onClick={keep}>
            {group ? 'Save it' : 'Make it'}
          </Button>
        </>
      }
      onOk={keep}
    >
      <div className={style.field}>
        <label htmlFor={`${ids}name`}>Name</label>
        <Input id={`${ids}name`} value={name} onChange={(event) => setName(event.target.value)} />
      </div>
      <div className={style.field}>
        <label htmlFor={`${ids}who`}>Who is in it</label>
        <Select
          id={`${ids}who`}
          mode="multiple"
          disabled={isClaimed}
          value={[...members]}
          optionFilterProp="label"
          options={(everybody?.people ?? []).map((one) => ({ value: one.id, label: one.name }))}
          onChange={setMembers}
        />
      </div>
      <div className={style.field}>
        <label htmlFor={`${ids}claim`}>What the company’s sign-in calls it, if that says who is in it</label>
        <Input id={`${ids}claim`} value={claim} onChange={(event) => setClaim(event.target.value)} />
      </div>
      <ProblemNotice error={task.error} />
    </Dialog>
  );
}
