import type { ServiceView, TokenView } from '@/core/api';
import { certain } from '@/core/values';
import { QueryTypes } from 'sequelize';
import { v7 as newId } from 'uuid';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { noteSecurity } from '@/server/sign-in/security-events';
import { endToken, keepToken, tokensOf } from '@/server/sign-in/tokens';
import { inChange } from '@/server/store/session/transactions';
import { loadWorkspace } from '@/server/store/session/workspace';
import { run } from '@/server/store/sql/sql';
import { isUuid } from '@/server/uuid';
import { type ByAdministrator, checkNameFree, checkRole, noteRights } from './administering';

/** Programs of a workspace's own, with their tokens. */
export async function listServices(key: string): Promise<ServiceView[]> {
  const { id } = await loadWorkspace(key);
  const found = await database().query<Omit<ServiceView, 'tokens'>>(
    `SELECT p.id::text, p.name, m.role AS access FROM person p JOIN membership m ON m.person_id = p.id
      WHERE m.workspace_id = $1 AND p.is_service AND m.left_at IS NULL ORDER BY lower(p.name)`,
    { bind: [id], type: QueryTypes.SELECT },
  );
  return Promise.all(found.map(async (one) => ({ ...one, tokens: await tokensOf(one.id) })));
}

/** Makes a program of a workspace's own: it acts as itself, so what it does is nobody's, and goes on whoever leaves. */
export async function makeService(
  by: ByAdministrator,
  { name, access }: { readonly name: string; readonly access: string },
): Promise<ServiceView> {
  const id = newId();
  await inChange(by.workspace, async ({ workspace, transaction }) => {
    const called = await checkRole(transaction, workspace, access);
    await checkNameFree(transaction, 'a program', name, {
      text: `SELECT 1 FROM public.person p JOIN public.membership m ON m.person_id = p.id
        WHERE m.workspace_id = $1 AND p.is_service AND m.left_at IS NULL AND lower(p.name) = lower($2)`,
      bind: [workspace.id, name],
    });
    await run(
      transaction,
      `INSERT INTO public.person (id, name, email, role, is_service) VALUES ($1, $2, $3, 'Program', true)`,
      // Nothing is sent there (RFC 2606).
      [id, name, `${id}@program.invalid`],
    );
    await run(
      transaction,
      'INSERT INTO public.membership (workspace_id, person_id, role) VALUES ($1, $2, $3)',
      [workspace.id, id, access],
    );
    const about = { workspace: by.workspace, by: by.person };
    await noteSecurity({ kind: 'serviceMade', person: id, data: about }, transaction);
    await noteRights(transaction, by, { person: id }, called);
  });
  return { id, name, access, tokens: [] };
}

async function serviceBy(key: string, id: string): Promise<ServiceView> {
  const found = isUuid(id) ? (await listServices(key)).find((one) => one.id === id) : undefined;
  if (found) return found;
  throw new Refusal(404, 'service.unknown', 'There is no such program. It may have been ended.');
}

/** Makes a token of a program: with what its role may, or less; in its workspace only. */
export async function makeServiceToken(
  by: ByAdministrator,
  id: string,
  token: Pick<TokenView, 'name' | 'rights'> & { readonly days: number },
): Promise<string> {
  await serviceBy(by.workspace, id);
  return keepToken(id, { ...token, workspaces: [by.workspace] });
}

/** Ends a token of a program, at once. */
export async function endServiceToken(by: ByAdministrator, id: string, handle: string): Promise<void> {
  const service = await serviceBy(by.workspace, id);
  const isThere = service.tokens.some((one) => one.handle === handle);
  if (!isThere || !(await endToken(certain(service.id), handle)))
    throw new Refusal(404, 'token.unknown', 'There is no such token. It may have ended already.');
}
