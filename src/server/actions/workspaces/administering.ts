import { firstIn } from '@/core/values';
import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { rolesOf } from '@/server/sign-in/roles';
import { noteSecurity } from '@/server/sign-in/security-events';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { run } from '@/server/store/sql/sql';

/** Who changes who may what, and in which workspace. */
export interface ByAdministrator {
  readonly workspace: string;
  readonly person: string;
  readonly isOperator: boolean;
}

/** Refuses the key of a role that there isn't. Answers what it is called. */
export async function checkRole(
  transaction: Transaction,
  { id, name }: Pick<LoadedWorkspace, 'id' | 'name'>,
  key: string,
): Promise<string> {
  const roles = await rolesOf(id, transaction);
  const found = roles.find((one) => one.key === key);
  if (found) return found.name;
  throw new Refusal(
    422,
    'role.unknown',
    `There is no such role in ${name}: found “${key}”. Choose one of ${roles.map((one) => one.name).join(', ')}.`,
  );
}

/** Refuses what has left a workspace without anybody who administers it. */
export async function checkAdministered(
  transaction: Transaction,
  { id, name }: { readonly id: number; readonly name: string },
): Promise<void> {
  const [found] = await run(
    transaction,
    `SELECT 1 FROM public.member_role r LEFT JOIN public.own_role o ON o.id::text = r.role
      WHERE r.workspace_id = $1 AND (r.role = 'administrator' OR 'administer' = ANY (o.rights)) LIMIT 1`,
    [id],
  );
  if (!found)
    throw new Refusal(
      409,
      'member.last',
      `Nobody else administers ${name}. Make another person administrator first.`,
    );
}

/** Notes in the security ledger what somebody is from now on, or all in a group: the role by its name. */
export const noteRights = (
  transaction: Transaction,
  { person, workspace }: ByAdministrator,
  whose: { readonly person: string } | { readonly group: string },
  access: string | null,
): Promise<void> =>
  noteSecurity(
    {
      ...{ kind: 'rightsChanged', person: 'person' in whose ? whose.person : null },
      data: { workspace, access, by: person, ...('person' in whose ? {} : whose) },
    },
    transaction,
  );

/** Refuses a name that another has already, whatever its capitals. */
export async function checkNameFree(
  transaction: Transaction,
  what: string,
  name: string,
  taken: { readonly text: string; readonly bind: readonly unknown[] },
): Promise<void> {
  const { isTaken } = firstIn(
    await run<{ isTaken: boolean }>(transaction, `SELECT EXISTS (${taken.text}) AS "isTaken"`, [
      ...taken.bind,
    ]),
  );
  if (isTaken)
    throw new Refusal(409, 'name.taken', `There is ${what} “${name}” already. Choose another name.`);
}
