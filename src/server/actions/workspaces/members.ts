import type { LetIn, MemberView } from '@/core/api';
import { certain } from '@/core/values';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { models } from '@/server/database/models';
import { listPeople } from '@/server/queries/workspaces/people';
import { Refusal } from '@/server/refusal';
import { settings } from '@/server/settings';
import { makeOneTime } from '@/server/sign-in/one-time';
import { noteSecurity } from '@/server/sign-in/security-events';
import { run } from '@/server/store/sql/sql';
import { inChange } from '@/server/store/session/transactions';
import { type ByAdministrator, checkAdministered, checkRole, noteRights } from './administering';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';

export interface NewMember {
  readonly name: string;
  readonly email: string;
  /** What they are to the company. */
  readonly role: string;
  /** The key of a role. */
  readonly access: string;
}

/** Minutes for which an address is good by which somebody chooses their password. */
const DAY = 24 * 60;

/** Lets somebody in: who is known by their e-mail, or a new account, for which the answer has what makes an address to choose a password. */
export async function letIn(by: ByAdministrator, input: NewMember): Promise<LetIn> {
  const { workspace: key } = by;
  const { id, secret } = await inChange(key, async ({ workspace, transaction }) => {
    const [known] = await run<{ id: string; isOpen: boolean; role: string | null }>(
      transaction,
      `SELECT p.id::text, p.password IS NULL AS "isOpen", CASE WHEN m.left_at IS NULL THEN m.role END AS role FROM public.person p
        LEFT JOIN public.membership m ON m.person_id = p.id AND m.workspace_id = $2 WHERE lower(p.email) = lower($1) ORDER BY p.id LIMIT 1`,
      [input.email, workspace.id],
    );
    if (known?.role)
      throw new Refusal(
        409,
        'member.there',
        'Somebody with this e-mail takes part already. Change what they may do instead.',
      );
    const called = await checkRole(transaction, workspace, input.access);
    const found = known ?? (await makePerson(transaction, input));
    await run(
      transaction,
      `INSERT INTO public.membership (workspace_id, person_id, role) VALUES ($1, $2, $3)
        ON CONFLICT (workspace_id, person_id) DO UPDATE SET role = EXCLUDED.role, left_at = NULL`,
      [workspace.id, found.id, input.access],
    );
    await noteRights(transaction, by, { person: found.id }, called);
    const isAwaited = found.isOpen && !settings().isDemo;
    const one = { kind: 'password', person: found.id } as const;
    return { id: found.id, secret: isAwaited ? await makeOneTime(one, DAY, transaction) : null };
  });
  return { person: await memberBy(key, id), secret };
}

async function makePerson(
  transaction: Transaction,
  { name, email, role }: NewMember,
): Promise<{ id: string; isOpen: boolean }> {
  const id = newId();
  await models().Person.create({ id, name, email, role }, { transaction });
  await noteSecurity({ kind: 'personAdded', person: id }, transaction);
  return { id, isOpen: true };
}

async function memberBy(key: string, id: string): Promise<MemberView> {
  const { people } = await listPeople(await loadWorkspace(key));
  return certain(people.find((one) => one.id === id));
}

/** Says what somebody is from now on, `null`: by their groups alone. Refuses to leave a workspace without an administrator. */
export async function changeAccess(
  by: ByAdministrator,
  id: string,
  access: string | null,
): Promise<MemberView> {
  await inChange(by.workspace, async ({ workspace, transaction }) => {
    await checkHere(transaction, workspace, id);
    const called = access === null ? null : await checkRole(transaction, workspace, access);
    await run(
      transaction,
      'UPDATE public.membership SET role = $3 WHERE workspace_id = $1 AND person_id = $2',
      [workspace.id, id, access],
    );
    await checkAdministered(transaction, workspace);
    await noteRights(transaction, by, { person: id }, called);
  });
  return memberBy(by.workspace, id);
}

/** Somebody is no longer here: they may do nothing from now on, and stay named where they are. */
export async function endMembership(by: ByAdministrator, id: string): Promise<void> {
  await inChange(by.workspace, async ({ workspace, transaction }) => {
    await checkHere(transaction, workspace, id);
    await run(
      transaction,
      'UPDATE public.membership SET left_at = clock_timestamp() WHERE workspace_id = $1 AND person_id = $2',
      [workspace.id, id],
    );
    await checkAdministered(transaction, workspace);
    await noteRights(transaction, by, { person: id }, null);
  });
}

/** Refuses who isn't here. */
async function checkHere(transaction: Transaction, { id }: LoadedWorkspace, person: string): Promise<void> {
  const [found] = await run(
    transaction,
    'SELECT 1 FROM public.membership WHERE workspace_id = $1 AND person_id::text = $2 AND left_at IS NULL FOR UPDATE',
    [id, person],
  );
  if (!found) throw unknownMember();
}

const unknownMember = (): Refusal =>
  new Refusal(404, 'member.unknown', 'Nobody with this id takes part in the workspace. They may have left.');

/**
 * What makes an address by which somebody chooses a password. Whoever administers a workspace makes one for who hasn't signed in yet; for others an
 * operator does, since it lets one act as them.
 */
export async function addressFor(by: ByAdministrator, id: string): Promise<string> {
  const { people } = await loadWorkspace(by.workspace);
  const person = people.has(id) ? await models().Person.findByPk(id) : null;
  if (!person || person.isService) throw unknownMember();
  if ((person.password !== null || person.isOperator) && !by.isOperator)
    throw new Refusal(
      403,
      'right.missing',
      'They have a password already: only an operator of this installation makes an address by which it is changed.',
    );
  const secret = await makeOneTime({ kind: 'password', person: id }, DAY);
  await noteSecurity({ kind: 'addressMade', person: id, data: { by: by.person } });
  return secret;
}
