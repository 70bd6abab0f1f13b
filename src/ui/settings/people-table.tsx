import type { MemberView, RoleView } from '@/core/api';
import { Button, Popconfirm, Select } from 'antd';
import { useState } from 'react';
import { callApi, callServer } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { useSession } from '@/ui/api/session';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { PersonalDataPresses } from './personal-data';
import { AddressDialog } from './address-dialog';
import { clsx } from 'clsx';
import { roleChoices } from './role-choices';
import style from './settings.module.css';

interface PeopleTableProps {
  readonly people: readonly MemberView[];
  readonly roles: readonly RoleView[];
  /** Why whoever acts may change nothing of it. */
  readonly whyNot: string | null;
}

/** Everybody who takes part, with what they may do; those who are no longer here come last. */
export function PeopleTable({ people, roles, whyNot }: PeopleTableProps) {
  const { id: acting } = usePerson();
  const { isDemo, person: signedIn } = useSession();
  const invalidate = useInvalidate();
  const task = useTask();
  const named = (key: string) => roles.find((one) => one.key === key)?.name ?? key;
  const change = (person: MemberView, access: string | null) =>
    void task.run(
      () =>
        callApi<MemberView>(`/people/${person.id}`, { method: 'PATCH', body: { access }, person: acting }),
      () =>
        access === null
          ? `${person.name} may what their groups may now`
          : `${person.name} is ${named(access)} here now`,
      () => void invalidate.everything(),
    );
  const sorted = people
    .filter(({ isService }) => !isService)
    .sort(
      (a, b) => Number(a.rights.length === 0) - Number(b.rights.length === 0) || a.name.localeCompare(b.name),
    );
  return (
    <section className={clsx('sheet', style.sheet)} aria-labelledby="people">
      <div className="sheet-head">
        <h2 id="people">People</h2>
      </div>
      <ProblemNotice error={task.error} />
      {whyNot ? <p className={clsx('quiet', style.note)}>{whyNot}</p> : null}
      <table className={style.people}>
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">What they are</th>
            <th scope="col">What they may</th>
            <th scope="col">
              <span className="visually-hidden">Change</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {sorted.map((person) => (
            <tr key={person.id}>
              <td>
                {person.name}
                {person.isAwaited && !isDemo && person.rights.length > 0 ? (
                  <span className="quiet"> · hasn’t signed in yet</span>
                ) : null}
              </td>
              <td>{person.role}</td>
              <td>
                {person.rights.length === 0 ? (
                  <span className="quiet">nothing any more</span>
                ) : (
                  <Select
                    className={style.access}
                    aria-label={`What ${person.name} may`}
                    value={person.access ?? ''}
                    disabled={whyNot !== null || task.isBusy}
                    options={[
                      ...(person.groups.length > 0 ? [{ value: '', label: 'by groups alone' }] : []),
                      ...roleChoices(roles),
                    ]}
                    onChange={(access: string) => change(person, access === '' ? null : access)}
                  />
                )}
                {person.groups.map(({ group, access }) => (
                  <div key={group} className="quiet">
                    {named(access)} by {group}
                  </div>
                ))}
              </td>
              <td>
                {signedIn?.isOperator ? <PersonalDataPresses person={person} /> : null}
                {person.rights.length > 0 && whyNot === null ? <PersonPresses person={person} /> : null}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** What whoever administers does about somebody who takes part. */
function PersonPresses({ person }: { person: MemberView }) {
  const { id: acting } = usePerson();
  const { isDemo, person: signedIn } = useSession();
  const invalidate = useInvalidate();
  const task = useTask();
  const [secret, setSecret] = useState<string | null>(null);
  const end = () =>
    void task.run(
      () => callApi(`/people/${person.id}`, { method: 'DELETE', person: acting }),
      () => `${person.name} may do nothing here any more`,
      () => void invalidate.everything(),
    );
  const takeSecond = () =>
    void task.run(
      () => callServer(`/api/v1/people/${person.id}/second-factor`, { method: 'DELETE' }),
      () => `${person.name} signs in without a second step now`,
      () => void invalidate.everything(),
    );
  const ask = () =>
    void task.run(
      () =>
        callApi<{ secret: string }>(`/people/${person.id}/password-addresses`, {
          method: 'POST',
          person: acting,
        }),
      null,
      (made) => setSecret(made.secret),
    );
  return (
    <>
      <ProblemNotice error={task.error} />
      {isDemo ? null : (
        <Button size="small" type="text" onClick={ask}>
          Address for a password …
        </Button>
      )}
      {person.hasSecond && signedIn?.isOperator ? (
        <Popconfirm
          title={`Take ${person.name}’s second step away?`}
          description="For who has lost it. Make sure that it is them who asks: their password is enough then."
          okText="Take it away"
          cancelText="Leave it"
          onConfirm={takeSecond}
        >
          <Button size="small" type="text">
            Take the second step away …
          </Button>
        </Popconfirm>
      ) : null}
      <Popconfirm
        title={`${person.name} is no longer here?`}
        description="They may do nothing here from now on, at once. Where they are named they stay."
        okText="No longer here"
        cancelText="Stays"
        onConfirm={end}
      >
        <Button size="small" type="text" aria-label={`${person.name} is no longer here …`}>
          No longer here …
        </Button>
      </Popconfirm>
      {secret ? <AddressDialog name={person.name} secret={secret} onClose={() => setSecret(null)} /> : null}
    </>
  );
}
