import { type RoleView, SHOWS_ALL } from '@/core/api';
import { typeCondition } from '@/core/expression';
import { checkAccess, type Model, type RoleAccess } from '@/core/model';
import { foundIn, type Problem } from '@/core/values';
import { QueryTypes } from 'sequelize';
import { database } from '@/server/database/connection';
import { refuse, Refusal } from '@/server/refusal';
import { rolesOf } from '@/server/sign-in/roles';
import { noteSecurity } from '@/server/sign-in/security-events';
import { inChange } from '@/server/store/session/transactions';
import { loadWorkspace } from '@/server/store/session/workspace';
import { run } from '@/server/store/sql/sql';
import { type ByAdministrator, checkRole } from './administering';

/** What a role sees and may less than all; types that aren't named it sees all of. */
export async function roleAccess(key: string, role: string): Promise<RoleAccess> {
  const { id } = await loadWorkspace(key);
  const [found] = await database().query<{ access: RoleAccess }>(
    'SELECT access FROM role_access WHERE workspace_id = $1 AND role = $2',
    { bind: [id, role], type: QueryTypes.SELECT },
  );
  return found?.access ?? {};
}

/** Says what a role sees and may less than all, at once for everybody who has it. Refused for roles whose rights show everything. */
export async function changeRoleAccess(
  by: ByAdministrator,
  key: string,
  access: RoleAccess,
): Promise<RoleAccess> {
  await inChange(by.workspace, async ({ workspace, transaction }) => {
    const name = await checkRole(transaction, workspace, key);
    const roles = await rolesOf(workspace.id, transaction);
    if (Object.keys(access).length > 0) checkPartial(foundIn(roles, (one) => one.key === key));
    const problems = [...checkAccess(workspace.model, access), ...wrongWheres(workspace.model, access)];
    if (problems.length > 0) throw refuse(422, problems);
    await run(transaction, 'DELETE FROM public.role_access WHERE workspace_id = $1 AND role = $2', [
      ...[workspace.id, key],
    ]);
    if (Object.keys(access).length > 0)
      await run(
        transaction,
        'INSERT INTO public.role_access (workspace_id, role, access) VALUES ($1, $2, $3)',
        [workspace.id, key, JSON.stringify(access)],
      );
    const data = { workspace: by.workspace, by: by.person, role: name };
    await noteSecurity({ kind: 'roleChanged', data }, transaction);
  });
  return access;
}

/** What is wrong with the conditions by which a role sees records. */
const wrongWheres = (model: Model, access: RoleAccess): readonly Problem[] =>
  Object.entries(access).flatMap(([type, { where = null }]) => {
    if (where === null || !model.type(type)) return [];
    const typed = typeCondition(model, type, where, { usesRunContext: 'me' });
    const place = `${type}.where`;
    return typed.ok ? [] : [{ ...typed.problem, code: 'role.access', place } as const];
  });

/** Refuses that a role sees a part and has a right that shows all. */
export function checkPartial({ name, rights }: Pick<RoleView, 'name' | 'rights'>): void {
  const found = rights.find((right) => SHOWS_ALL.includes(right));
  if (!found) return;
  throw new Refusal(
    409,
    'role.access',
    `Whoever is ${name} may do what shows all of the workspace: rules, the model and whole files read everything. Make a role that may look at it, take it out and edit it only.`,
  );
}
