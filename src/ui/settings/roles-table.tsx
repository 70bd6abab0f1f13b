import { isRole, RIGHTS, SHOWS_ALL, type Right, type RoleView } from '@/core/api';
import { Button, Checkbox } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { seeAs } from '@/ui/api/see-as';
import { useWorkspaceKey } from '@/ui/kit/navigation';
import { useSession } from '@/ui/api/session';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { clsx } from 'clsx';
import { begun } from './begun';
import { RoleAccessDialog } from './role-access-dialog';
import { RoleDialog } from './role-dialog';
import style from './settings.module.css';

interface RolesTableProps {
  readonly roles: readonly RoleView[];
  /** Keys of the roles that want a second step of who signs in. */
  readonly wantSecond: readonly string[];
  /** Keys of the roles that see only a part. */
  readonly partial: readonly string[];
  /** Why whoever acts may change nothing of it. */
  readonly whyNot: string | null;
}

/** What each role may, one line for each right; those of the workspace's own can be changed. */
export function RolesTable({ roles, wantSecond, partial, whyNot }: RolesTableProps) {
  const { id: person } = usePerson();
  const { isDemo } = useSession();
  const invalidate = useInvalidate();
  const task = useTask();
  const demand = ({ key, name }: RoleView, isWanted: boolean) => {
    const others = wantSecond.filter((one) => one !== key);
    void task.run(
      () =>
        callApi('/second-step-roles', {
          ...{ method: 'POST', person },
          body: { roles: isWanted ? [...others, key] : others },
        }),
      () =>
        isWanted
          ? `Whoever is ${name} gives a second step from now on`
          : `Whoever is ${name} needs no second step any more`,
      () => void invalidate.everything(),
    );
  };
  const [seeing, setSeeing] = useState<RoleView | null>(null);
  const [opened, setOpened] = useState<RoleView | 'new' | null>(null);
  return (
    <section className={clsx('sheet', style.sheet)} aria-labelledby="roles">
      <div className="sheet-head">
        <h2 id="roles">What each role may</h2>
        {whyNot === null ? (
          <Button size="small" onClick={() => setOpened('new')}>
            Make a role …
          </Button>
        ) : null}
      </div>
      <table className={clsx(style.people, style.matrix)}>
        <thead>
          <tr>
            <th scope="col">
              <span className="visually-hidden">Right</span>
            </th>
            {roles.map((role) => (
              <th key={role.key} scope="col">
                {isRole(role.key) || whyNot !== null ? (
                  role.name
                ) : (
                  <Button size="small" type="text" onClick={() => setOpened(role)}>
                    {role.name} …
                  </Button>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {(Object.keys(RIGHTS) as Right[]).map((right) => (
            <tr key={right}>
              <th scope="row">{begun(RIGHTS[right])}</th>
              {roles.map(({ key, rights }) => (
                <td key={key}>
                  {rights.includes(right) ? (
                    'may'
                  ) : (
                    <span className="quiet" aria-label="may not">
                      –
                    </span>
                  )}
                </td>
              ))}
            </tr>
          ))}
          {whyNot === null ? <SeesRows {...{ roles, partial }} onSeeing={setSeeing} /> : null}
          {isDemo ? null : (
            <tr>
              <th scope="row">Gives a second step, or a passkey, at signing in</th>
              {roles.map((role) => (
                <td key={role.key}>
                  <Checkbox
                    aria-label={`${role.name} gives a second step`}
                    checked={wantSecond.includes(role.key)}
                    disabled={whyNot !== null || task.isBusy}
                    onChange={(event) => demand(role, event.target.checked)}
                  />
                </td>
              ))}
            </tr>
          )}
        </tbody>
      </table>
      <ProblemNotice error={task.error} />
      {seeing ? <RoleAccessDialog role={seeing} onClose={() => setSeeing(null)} /> : null}
      {opened ? <RoleDialog role={opened === 'new' ? null : opened} onClose={() => setOpened(null)} /> : null}
    </section>
  );
}

interface SeesRowsProps {
  readonly roles: readonly RoleView[];
  readonly partial: readonly string[];
  readonly onSeeing: (role: RoleView) => void;
}

/** What each role sees, opened to be said; and the press that shows it. */
function SeesRows({ roles, partial, onSeeing }: SeesRowsProps) {
  const workspace = useWorkspaceKey();
  return (
    <>
      <tr>
        <th scope="row">Sees</th>
        {roles.map((role) => (
          <td key={role.key}>
            {role.rights.some((right) => SHOWS_ALL.includes(right)) ? (
              'all'
            ) : (
              <Button
                size="small"
                type="text"
                aria-label={`What ${role.name} sees …`}
                onClick={() => onSeeing(role)}
              >
                {partial.includes(role.key) ? 'a part …' : 'all …'}
              </Button>
            )}
          </td>
        ))}
      </tr>
      <tr>
        <th scope="row">Look at it as they do</th>
        {roles.map((role) => (
          <td key={role.key}>
            <Button
              size="small"
              type="text"
              aria-label={`See it as ${role.name}`}
              onClick={() => seeAs(workspace, role.key)}
            >
              See it so
            </Button>
          </td>
        ))}
      </tr>
    </>
  );
}
