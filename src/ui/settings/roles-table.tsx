import { isRole, RIGHTS, type Right, type RoleView } from '@/core/api';
import { Button } from 'antd';
import { useState } from 'react';
import { clsx } from 'clsx';
import { begun } from './begun';
import { RoleDialog } from './role-dialog';
import style from './settings.module.css';

interface RolesTableProps {
  readonly roles: readonly RoleView[];
  /** Why whoever acts may change nothing of it. */
  readonly whyNot: string | null;
}

/** What each role may, one line for each right; those of the workspace's own can be changed. */
export function RolesTable({ roles, whyNot }: RolesTableProps) {
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
        </tbody>
      </table>
      {opened ? <RoleDialog role={opened === 'new' ? null : opened} onClose={() => setOpened(null)} /> : null}
    </section>
  );
}
