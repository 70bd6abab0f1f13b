import type { GroupView, WorkspaceGroup } from '@/core/api';
import { certain } from '@/core/values';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { database } from '@/server/database/connection';
import type { GroupInput } from '@/server/forms/types';
import { Refusal } from '@/server/refusal';
import { settleGroups } from '@/server/sign-in/groups';
import { noteSecurity } from '@/server/sign-in/security-events';
import { inChange, inInstallation } from '@/server/store/session/transactions';
import { forgetWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { run } from '@/server/store/sql/sql';
import {
  type ByAdministrator,
  checkAdministered,
  checkNameFree,
  checkRole,
  noteRights,
} from './administering';

const READ = `SELECT g.id::text, g.name, g.claim,
  COALESCE((SELECT jsonb_agg(jsonb_build_object('id', p.id, 'name', p.name) ORDER BY lower(p.name))
    FROM public.group_member m JOIN public.person p ON p.id = m.person_id WHERE m.group_id = g.id), '[]') AS members`;

/** All groups of the installation. */
export const listGroups = (): Promise<GroupView[]> =>
  database().transaction((transaction) =>
    run<GroupView>(transaction, `${READ} FROM public.people_group g ORDER BY lower(g.name)`),
  );

async function groupBy(transaction: Transaction, id: string): Promise<GroupView> {
  const [found] = await run<GroupView>(
    transaction,
    `${READ} FROM public.people_group g WHERE g.id::text = $1`,
    [id],
  );
  if (found) return found;
  throw new Refusal(404, 'group.unknown', 'There is no such group. It may have been removed.');
}

/** A change of a group; who is here by it is read anew. */
async function inGroups<T>(
  work: (transaction: Transaction, touched: (keys: readonly string[]) => void) => Promise<T>,
): Promise<T> {
  const keys: string[] = [];
  const given = await inInstallation((transaction) => work(transaction, (more) => keys.push(...more)));
  keys.forEach(forgetWorkspace);
  return given;
}

/** Makes a group. */
export async function makeGroup(
  { name, claim = null, members = [] }: GroupInput & { readonly name: string },
  person: string,
): Promise<GroupView> {
  const id = newId();
  return inGroups(async (transaction, touched) => {
    await checkFree(transaction, id, name, claim);
    await run(transaction, 'INSERT INTO public.people_group (id, name, claim) VALUES ($1, $2, $3)', [
      ...[id, name, claim],
    ]);
    touched(await putIn(transaction, { id, claim, members }));
    await noteSecurity({ kind: 'groupMade', data: { by: person, group: name } }, transaction);
    return groupBy(transaction, id);
  });
}

/** Changes a group: its name, what the company's sign-in calls it, who is in it. */
export async function changeGroup(id: string, patch: GroupInput, person: string): Promise<GroupView> {
  return inGroups(async (transaction, touched) => {
    const before = await groupBy(transaction, id);
    const { name = before.name, claim = before.claim, members } = patch;
    await checkFree(transaction, id, name, claim);
    await run(transaction, 'UPDATE public.people_group SET name = $2, claim = $3 WHERE id::text = $1', [
      ...[id, name, claim],
    ]);
    if (members) touched(await putIn(transaction, { id, claim, members }));
    await checkAllAdministered(transaction, id);
    await noteSecurity({ kind: 'groupChanged', data: { by: person, group: name } }, transaction);
    return groupBy(transaction, id);
  });
}

/** Removes a group: nobody may anything by it any more. */
export async function removeGroup(id: string, person: string): Promise<void> {
  await inGroups(async (transaction, touched) => {
    const { name } = await groupBy(transaction, id);
    const where = await workspacesWith(transaction, id);
    // While it still has roles, so that its workspaces are known.
    await run(transaction, 'DELETE FROM public.group_member WHERE group_id::text = $1', [id]);
    touched(await settleGroups([id], transaction));
    await run(transaction, 'DELETE FROM public.people_group WHERE id::text = $1', [id]);
    for (const workspace of where) await checkAdministered(transaction, workspace);
    await noteSecurity({ kind: 'groupRemoved', data: { by: person, group: name } }, transaction);
  });
}

interface Kept {
  readonly id: string;
  readonly claim: string | null;
  readonly members: readonly string[];
}

async function putIn(transaction: Transaction, { id, claim, members }: Kept): Promise<readonly string[]> {
  if (claim !== null && members.length > 0)
    throw new Refusal(
      422,
      'group.claimed',
      'Who is in this group is said by the company’s sign-in. Change it there, or take the name away that it has there.',
    );
  const known = await run<{ id: string }>(
    transaction,
    'SELECT id::text FROM public.person WHERE id = ANY ($1::uuid[])',
    [members],
  );
  if (known.length < members.length)
    throw new Refusal(422, 'person.unknown', 'Somebody among these people isn’t of this installation.');
  await run(transaction, 'DELETE FROM public.group_member WHERE group_id = $1', [id]);
  await run(
    transaction,
    'INSERT INTO public.group_member (group_id, person_id) SELECT $1, unnest($2::uuid[])',
    [id, members],
  );
  return settleGroups([id], transaction);
}

const workspacesWith = (transaction: Transaction, id: string): Promise<{ id: number; name: string }[]> =>
  run(
    transaction,
    'SELECT w.id, w.name FROM public.group_role r JOIN public.workspace w ON w.id = r.workspace_id WHERE r.group_id = $1 ORDER BY w.id',
    [id],
  );

async function checkAllAdministered(transaction: Transaction, id: string): Promise<void> {
  for (const workspace of await workspacesWith(transaction, id))
    await checkAdministered(transaction, workspace);
}

async function checkFree(
  transaction: Transaction,
  id: string,
  name: string,
  claim: string | null,
): Promise<void> {
  await checkNameFree(transaction, 'a group', name, {
    text: 'SELECT 1 FROM public.people_group WHERE lower(name) = lower($1) AND id::text <> $2',
    bind: [name, id],
  });
  if (claim !== null)
    await checkNameFree(transaction, 'a group that the company’s sign-in calls', claim, {
      text: 'SELECT 1 FROM public.people_group WHERE claim = $1 AND id::text <> $2',
      bind: [claim, id],
    });
}

/** All groups of the installation, with what each is in a workspace. */
export async function groupsIn(key: string): Promise<WorkspaceGroup[]> {
  const { id } = await loadWorkspace(key);
  return database().transaction((transaction) =>
    run<WorkspaceGroup>(
      transaction,
      `${READ}, r.role AS access FROM public.people_group g LEFT JOIN public.group_role r ON r.group_id = g.id AND r.workspace_id = $1 ORDER BY lower(g.name)`,
      [id],
    ),
  );
}

/** Says what all of a group are in a workspace; `null`: nothing any more. */
export async function changeGroupAccess(
  by: ByAdministrator,
  id: string,
  access: string | null,
): Promise<WorkspaceGroup> {
  await inChange(by.workspace, async ({ workspace, transaction }) => {
    const { name } = await groupBy(transaction, id);
    let called: string | null = null;
    if (access === null)
      await run(transaction, 'DELETE FROM public.group_role WHERE workspace_id = $1 AND group_id = $2', [
        ...[workspace.id, id],
      ]);
    else {
      called = await checkRole(transaction, workspace, access);
      await run(
        transaction,
        `INSERT INTO public.group_role (workspace_id, group_id, role) VALUES ($1, $2, $3)
          ON CONFLICT (workspace_id, group_id) DO UPDATE SET role = EXCLUDED.role`,
        [workspace.id, id, access],
      );
      await settleGroups([id], transaction);
    }
    await checkAdministered(transaction, workspace);
    await noteRights(transaction, by, { group: name }, called);
  });
  return certain((await groupsIn(by.workspace)).find((one) => one.id === id));
}
