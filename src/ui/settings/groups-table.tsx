import type { RoleView, WorkspaceGroup } from '@/core/api';
import { useQuery } from '@tanstack/react-query';
import { Button, Select } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { useSession } from '@/ui/api/session';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { clsx } from 'clsx';
import { GroupDialog } from './group-dialog';
import { roleChoices } from './role-choices';
import style from './settings.module.css';

/** How many of a group are named before the rest is counted. */
const NAMED = 4;

function whoIn({ claim, members }: WorkspaceGroup): string {
  const named = members.slice(0, NAMED).map(({ name }) => name);
  const more = members.length - named.length;
  const who = named.length === 0 ? 'nobody yet' : `${named.join(', ')}${more > 0 ? ` and ${more} more` : ''}`;
  return claim === null ? who : `${who} · by sign-in, as ${claim}`;
}

/** Groups of the installation, and what each is here. Whoever sees to the installation makes them, and says who is in them. */
export function GroupsTable({ roles }: { roles: readonly RoleView[] }) {
  const { id: person } = usePerson();
  const { isDemo, person: signedIn } = useSession();
  const invalidate = useInvalidate();
  const task = useTask();
  const [opened, setOpened] = useState<WorkspaceGroup | 'new' | null>(null);
  const { data, error } = useQuery({
    queryKey: ['groups'],
    queryFn: () => callApi<{ groups: WorkspaceGroup[] }>('/groups'),
  });
  const mayMake = isDemo || signedIn?.isOperator === true;
  const change = ({ id, name }: WorkspaceGroup, access: string | null) =>
    void task.run(
      () => callApi<WorkspaceGroup>(`/groups/${id}`, { method: 'PATCH', body: { access }, person }),
      () =>
        access === null
          ? `${name} may nothing here as a group now`
          : `Everybody in ${name} is ${roles.find(({ key }) => key === access)?.name ?? access} here now`,
      () => void invalidate.everything(),
    );
  return (
    <section className={clsx('sheet', style.sheet)} aria-labelledby="groups">
      <div className="sheet-head">
        <h2 id="groups">Groups</h2>
        {mayMake ? (
          <Button size="small" onClick={() => setOpened('new')}>
            Make a group …
          </Button>
        ) : null}
      </div>
      <ProblemNotice error={error ?? task.error} />
      {data?.groups.length === 0 ? (
        <p className={clsx('quiet', style.note)}>
          There are no groups yet. What a group may, everybody in it may, besides what they may themselves
          {mayMake ? '.' : '; an operator of this installation makes them.'}
        </p>
      ) : null}
      {data && data.groups.length > 0 ? (
        <table className={style.people}>
          <thead>
            <tr>
              <th scope="col">Group</th>
              <th scope="col">Who is in it</th>
              <th scope="col">What they may here</th>
              <th scope="col">
                <span className="visually-hidden">Change</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {data.groups.map((group) => (
              <tr key={group.id}>
                <td>{group.name}</td>
                <td>{whoIn(group)}</td>
                <td>
                  <Select
                    className={style.access}
                    aria-label={`What ${group.name} may`}
                    value={group.access ?? ''}
                    disabled={task.isBusy}
                    options={[{ value: '', label: 'nothing' }, ...roleChoices(roles)]}
                    onChange={(access: string) => change(group, access === '' ? null : access)}
                  />
                </td>
                <td>
                  {mayMake ? (
                    <Button
                      size="small"
                      type="text"
                      aria-label={`Change ${group.name} …`}
                      onClick={() => setOpened(group)}
                    >
                      Change …
                    </Button>
                  ) : null}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {opened ? (
        <GroupDialog group={opened === 'new' ? null : opened} onClose={() => setOpened(null)} />
      ) : null}
    </section>
  );
}
