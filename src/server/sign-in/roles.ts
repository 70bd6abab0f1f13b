import { isRole, type Right, RIGHTS, ROLES, type RoleView, rolesWith } from '@/core/api';
import type { RoleAccess } from '@/core/model';
import { QueryTypes, type Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { isUuid } from '@/server/uuid';

/** What somebody is in a workspace, and so may do there. */
export interface Standing {
  /** Names of their roles. */
  readonly names: readonly string[];
  readonly rights: ReadonlySet<Right>;
  /** Whether one of them wants a second factor of who signs in. */
  readonly wantsSecond: boolean;
  /** What each of their roles sees less than all; `null`: all. */
  readonly accesses: readonly (RoleAccess | null)[];
}

/** A role that somebody has, as the database tells it. */
export interface Had {
  readonly role: string;
  /** Of a role of the workspace's own. */
  readonly name: string | null;
  readonly rights: readonly Right[] | null;
  readonly wantsSecond: boolean;
  readonly access: RoleAccess | null;
}

/** In SQL: the roles that a person has in the workspace of a key, their own and by groups; NULL where they don't take part in it, or no longer. */
export const had = (person: string, key: string): string =>
  `(SELECT jsonb_agg(jsonb_build_object('role', r.role, 'name', o.name, 'rights', o.rights, 'wantsSecond', r.role = ANY (w.second_factor), 'access', a.access))
    FROM public.workspace w JOIN public.member_role r ON r.workspace_id = w.id LEFT JOIN public.own_role o ON o.id::text = r.role
    LEFT JOIN public.role_access a ON a.workspace_id = w.id AND a.role = r.role
    WHERE w.key = ${key} AND r.person_id = ${person})`;

const roleOf = ({ role: key, name, rights }: Had): RoleView =>
  isRole(key) ? { key, ...ROLES[key] } : { key, name: name ?? key, rights: rights ?? [] };

/** What roles come to together, in the order in which rights are told. */
export const rightsOf = (roles: readonly RoleView[]): readonly Right[] =>
  (Object.keys(RIGHTS) as Right[]).filter((right) => roles.some(({ rights }) => rights.includes(right)));

/** What somebody may by the roles that they have; `null` where they have none. */
export function standingOf(found: readonly Had[] | null): Standing | null {
  if (!found) return null;
  const roles = found.map(roleOf);
  return {
    names: [...new Set(roles.map(({ name }) => name))],
    rights: new Set(rightsOf(roles)),
    wantsSecond: found.some(({ wantsSecond }) => wantsSecond),
    accesses: found.map(({ access }) => access),
  };
}

/** What somebody may do in a workspace. Asked of the database: a change counts at once. */
export async function standingIn(key: string, person: string): Promise<Standing | null> {
  if (!isUuid(person)) return null;
  const [found] = await database().query<{ had: Had[] | null }>(`SELECT ${had('$2::uuid', '$1')} AS had`, {
    bind: [key, person],
    type: QueryTypes.SELECT,
  });
  return standingOf(found?.had ?? null);
}

/** What somebody may who has one role of a workspace; `null` where there is no such role. */
export async function standingAs(key: string, role: string): Promise<Standing | null> {
  const [found] = await database().query<Had>(
    `SELECT $2 AS role, o.name, o.rights, false AS "wantsSecond", a.access FROM workspace w
      LEFT JOIN own_role o ON o.workspace_id = w.id AND o.id::text = $2 LEFT JOIN role_access a ON a.workspace_id = w.id AND a.role = $2 WHERE w.key = $1`,
    { bind: [key, role], type: QueryTypes.SELECT },
  );
  return found && (isRole(role) || found.name !== null) ? standingOf([found]) : null;
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
