import { isRole, type OwnRole, RIGHTS, type Right, ROLES, type RoleView } from '@/core/api';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { Refusal } from '@/server/refusal';
import { noteSecurity } from '@/server/sign-in/security-events';
import { inChange } from '@/server/store/session/transactions';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { run } from '@/server/store/sql/sql';
import { type ByAdministrator, checkAdministered, checkNameFree, checkRole } from './administering';
import { checkPartial } from './role-access';

/** Makes a role of a workspace's own. Whoever may anything may look. */
export async function makeRole(by: ByAdministrator, input: OwnRole): Promise<RoleView> {
  const key = newId();
  const role = { ...input, rights: ordered(input.rights) };
  await inChange(by.workspace, async ({ workspace, transaction }) => {
    await checkName(transaction, workspace, role.name, key);
    await run(
      transaction,
      'INSERT INTO public.own_role (id, workspace_id, name, rights) VALUES ($1, $2, $3, $4)',
      [key, workspace.id, role.name, role.rights],
    );
    await noteRole(transaction, by, 'roleMade', role);
  });
  return { key, ...role };
}

/** Changes what a role of a workspace's own is called and may: for everybody who has it, at once. */
export async function changeRole(by: ByAdministrator, key: string, input: OwnRole): Promise<RoleView> {
  const role = { ...input, rights: ordered(input.rights) };
  await inChange(by.workspace, async ({ workspace, transaction }) => {
    await checkOwn(transaction, workspace, key);
    const [partial] = await run(
      transaction,
      'SELECT 1 FROM public.role_access WHERE workspace_id = $1 AND role = $2',
      [workspace.id, key],
    );
    if (partial) checkPartial(role);
    await checkName(transaction, workspace, role.name, key);
    await run(transaction, 'UPDATE public.own_role SET name = $2, rights = $3 WHERE id::text = $1', [
      ...[key, role.name, role.rights],
    ]);
    await checkAdministered(transaction, workspace);
    await noteRole(transaction, by, 'roleChanged', role);
  });
  return { key, ...role };
}

/** Says which roles want a second step of who signs in, by their keys. Whoever says so has given one, so that nobody shuts themselves out. */
export async function demandSecond(
  by: ByAdministrator,
  roles: readonly string[],
  factors: number,
): Promise<void> {
  await inChange(by.workspace, async ({ workspace, transaction }) => {
    for (const key of roles) await checkRole(transaction, workspace, key);
    if (roles.length > 0 && factors < 2)
      throw new Refusal(
        409,
        'session.second',
        'Sign in with a second step yourself first, so that you don’t shut yourself out: set one up under your account.',
      );
    await run(transaction, 'UPDATE public.workspace SET second_factor = $2 WHERE id = $1', [
      ...[workspace.id, roles],
    ]);
    const data = { workspace: by.workspace, by: by.person, roles };
    await noteSecurity({ kind: 'demandsChanged', data }, transaction);
  });
}

/** Removes a role of a workspace's own that nobody has. */
export async function removeRole(by: ByAdministrator, key: string): Promise<void> {
  await inChange(by.workspace, async ({ workspace, transaction }) => {
    const name = await checkOwn(transaction, workspace, key);
    const having = await run<{ name: string }>(
      transaction,
      `SELECT p.name FROM public.membership m JOIN public.person p ON p.id = m.person_id WHERE m.workspace_id = $1 AND m.role = $2 AND m.left_at IS NULL
        UNION ALL SELECT g.name FROM public.group_role r JOIN public.people_group g ON g.id = r.group_id WHERE r.workspace_id = $1 AND r.role = $2`,
      [workspace.id, key],
    );
    const [first] = having;
    if (first) {
      const others = having.length > 1 ? ` and ${having.length - 1} more` : '';
      throw new Refusal(
        409,
        'role.used',
        `${first.name}${others} still ${having.length > 1 ? 'have' : 'has'} the role “${name}”. Give them another first.`,
      );
    }
    // Who left with it has none to come back to.
    await run(transaction, 'UPDATE public.membership SET role = NULL WHERE workspace_id = $1 AND role = $2', [
      ...[workspace.id, key],
    ]);
    await run(transaction, 'DELETE FROM public.role_access WHERE workspace_id = $1 AND role = $2', [
      ...[workspace.id, key],
    ]);
    await run(transaction, 'DELETE FROM public.own_role WHERE id::text = $1', [key]);
    await noteRole(transaction, by, 'roleRemoved', { name, rights: [] });
  });
}

const noteRole = (
  transaction: Transaction,
  { person, workspace }: ByAdministrator,
  kind: 'roleMade' | 'roleChanged' | 'roleRemoved',
  { name, rights }: OwnRole,
): Promise<void> => noteSecurity({ kind, data: { workspace, by: person, role: name, rights } }, transaction);

const ordered = (rights: readonly Right[]): readonly Right[] =>
  (Object.keys(RIGHTS) as Right[]).filter((right) => right === 'see' || rights.includes(right));

async function checkOwn(
  transaction: Transaction,
  { id, name }: LoadedWorkspace,
  key: string,
): Promise<string> {
  if (isRole(key))
    throw new Refusal(
      409,
      'role.shipped',
      `“${ROLES[key].name}” is a role that every workspace has. Make one of your own instead.`,
    );
  const [found] = await run<{ name: string }>(
    transaction,
    'SELECT name FROM public.own_role WHERE workspace_id = $1 AND id::text = $2',
    [id, key],
  );
  if (found) return found.name;
  throw new Refusal(404, 'role.unknown', `There is no such role in ${name}. It may have been removed.`);
}

async function checkName(
  transaction: Transaction,
  { id }: LoadedWorkspace,
  name: string,
  key: string,
): Promise<void> {
  const isShipped = Object.values(ROLES).some((role) => role.name.toLowerCase() === name.toLowerCase());
  await checkNameFree(transaction, 'a role', name, {
    text: 'SELECT 1 FROM public.own_role WHERE workspace_id = $1 AND lower(name) = lower($2) AND id::text <> $3 UNION ALL SELECT 1 WHERE $4::boolean',
    bind: [id, name, key, isShipped],
  });
}
