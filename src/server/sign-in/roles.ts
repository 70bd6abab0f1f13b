import { isRole, type Right, RIGHTS, ROLES, type RoleView, rolesWith } from '@/core/api';
import { QueryTypes, type Transaction } from 'sequelize';
import { database } from '@/server/database/connection';

/** What somebody is in a workspace, and so may do there. */
export interface Standing {
  /** Names of their roles. */
  readonly names: readonly string[];
  readonly rights: ReadonlySet<Right>;
}

interface Had {
  readonly role: string;
  /** Of a role of the workspace's own. */
  readonly name: string | null;
  readonly rights: readonly Right[] | null;
}

const roleOf = ({ role: key, name, rights }: Had): RoleView =>
  isRole(key) ? { key, ...ROLES[key] } : { key, name: name ?? key, rights: rights ?? [] };

/** What roles come to together, in the order in which rights are told. */
export const rightsOf = (roles: readonly RoleView[]): readonly Right[] =>
  (Object.keys(RIGHTS) as Right[]).filter((right) => roles.some(({ rights }) => rights.includes(right)));

/**
 * What somebody may do in a workspace, by their own role and by those of their groups; `null` where they don't take part in it, or no longer. Asked of
 * the database: a change counts at once.
 */
export async function standingIn(key: string, person: string): Promise<Standing | null> {
  const found = await database().query<Had>(
    `SELECT r.role, o.name, o.rights FROM member_role r JOIN workspace w ON w.id = r.workspace_id LEFT JOIN own_role o ON o.id::text = r.role
      WHERE w.key = $1 AND r.person_id::text = $2`,
    { bind: [key, person], type: QueryTypes.SELECT },
  );
  if (found.length === 0) return null;
  const roles = found.map(roleOf);
  return { names: [...new Set(roles.map(({ name }) => name))], rights: new Set(rightsOf(roles)) };
}

/** All roles of a workspace: those that every one has, and its own by their names. */
export async function rolesOf(
  workspace: number | string,
  transaction: Transaction | null = null,
): Promise<readonly RoleView[]> {
  const own = await database().query<RoleView>(
    `SELECT o.id::text AS key, o.name, o.rights FROM own_role o JOIN workspace w ON w.id = o.workspace_id
      WHERE ${typeof workspace === 'number' ? 'w.id' : 'w.key'} = $1 ORDER BY lower(o.name)`,
    { bind: [workspace], type: QueryTypes.SELECT, transaction },
  );
  return rolesWith(own);
}
