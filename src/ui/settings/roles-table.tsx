import { has, RIGHTS, type Right, ROLES, type Role } from '@/core/api';
import { clsx } from 'clsx';
import style from './settings.module.css';

const RIGHT_KEYS = Object.keys(RIGHTS) as Right[];
const ROLE_KEYS = Object.keys(ROLES) as Role[];

const begun = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);

/** What each role may, one line for each right. */
export const RolesTable = () => (
  <section className={clsx('sheet', style.sheet)} aria-labelledby="roles">
    <div className="sheet-head">
      <h2 id="roles">What each role may</h2>
    </div>
    <table className={clsx(style.people, style.matrix)}>
      <thead>
        <tr>
          <th scope="col">
            <span className="visually-hidden">Right</span>
          </th>
          {ROLE_KEYS.map((role) => (
            <th key={role} scope="col">
              {ROLES[role].name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {RIGHT_KEYS.map((right) => (
          <tr key={right}>
            <th scope="row">{begun(RIGHTS[right])}</th>
            {ROLE_KEYS.map((role) => (
              <td key={role}>
                {has(role, right) ? (
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
  </section>
);
