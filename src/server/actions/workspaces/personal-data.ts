import type { PersonalData } from '@/core/api';
import { certain } from '@/core/values';
import { QueryTypes, type Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { noteSecurity } from '@/server/sign-in/security-events';
import { inInstallation } from '@/server/store/session/transactions';
import { forgetWorkspace } from '@/server/store/session/workspace';
import { quote, run } from '@/server/store/sql/sql';
import { isUuid } from '@/server/uuid';
import { checkAdministered } from './administering';

interface Account {
  readonly id: string;
  readonly name: string;
  readonly email: string;
}

async function accountBy(id: string, transaction: Transaction | null = null): Promise<Account> {
  const [found] = isUuid(id)
    ? await database().query<Account>(
        'SELECT id::text, name, email FROM person WHERE id = $1 AND NOT is_service',
        { bind: [id], type: QueryTypes.SELECT, transaction },
      )
    : [];
  if (found) return found;
  throw new Refusal(404, 'person.unknown', 'There is nobody with this id in the installation.');
}

/** All that Oikon itself keeps of a person, to be given to them: their account, where they take part, how they signed in. What records say is the workspaces' own. */
export async function personalData(id: string): Promise<PersonalData> {
  await accountBy(id);
  const [data] = await database().query<{ data: PersonalData }>(
    `SELECT jsonb_build_object(
        'account', (SELECT jsonb_build_object('name', p.name, 'email', p.email, 'role', p.role, 'form', p.form, 'isOperator', p.is_operator) FROM person p WHERE p.id = $1),
        'workspaces', (SELECT COALESCE(jsonb_agg(jsonb_build_object('workspace', w.name, 'role', m.role, 'left', m.left_at) ORDER BY w.name), '[]') FROM membership m JOIN workspace w ON w.id = m.workspace_id WHERE m.person_id = $1),
        'groups', (SELECT COALESCE(jsonb_agg(g.name ORDER BY g.name), '[]') FROM group_member i JOIN people_group g ON g.id = i.group_id WHERE i.person_id = $1),
        'sessions', (SELECT COALESCE(jsonb_agg(jsonb_build_object('began', s.began, 'used', s.used, 'address', s.address, 'program', s.agent) ORDER BY s.began), '[]') FROM session s WHERE s.person = $1),
        'tokens', (SELECT COALESCE(jsonb_agg(jsonb_build_object('name', t.name, 'made', t.made, 'ends', t.ends, 'used', t.used) ORDER BY t.made), '[]') FROM token t WHERE t.person = $1),
        'passkeys', (SELECT COALESCE(jsonb_agg(jsonb_build_object('name', k.name, 'made', k.made, 'used', k.used) ORDER BY k.made), '[]') FROM passkey k WHERE k.person = $1),
        'security', (SELECT COALESCE(jsonb_agg(jsonb_build_object('at', e.at, 'kind', e.kind, 'address', e.address) ORDER BY e.id), '[]') FROM security_event e WHERE e.person = $1)
      ) AS data`,
    { bind: [id], type: QueryTypes.SELECT },
  );
  return certain(data).data;
}

/** Tables of a workspace's own with texts that Oikon wrote, in which a name or an e-mail may stand. */
const TEXTS: readonly (readonly [table: string, column: string])[] = [
  ['_run', 'note'],
  ['_message', 'subject'],
  ['_message', 'body'],
  ['_approval', 'note'],
  ['_approval', 'reason'],
];

/**
 * Takes a person's name and e-mail out, everywhere that Oikon itself wrote them: they are “A person” from then on, in ledgers and in values, take part nowhere, and can't sign in. What
 * people wrote into records stays theirs to change. It is noted in the security ledger, which knew them by an id alone. Typed to confirm it: their name.
 */
export async function forgetPerson(id: string, confirmation: string, by: string): Promise<void> {
  const { name, email } = await accountBy(id);
  if (id === by)
    throw new Refusal(409, 'person.own', 'Nobody takes themselves out. Another operator does that for you.');
  if (confirmation !== name)
    throw new Refusal(
      409,
      'person.confirm',
      `To take this person’s name and e-mail out for good, type their name: expected “${name}”, found “${confirmation}”.`,
    );
  const keys = await inInstallation(async (transaction) => {
    const where = await run<{ id: number; key: string; name: string; schema: string }>(
      transaction,
      'SELECT w.id, w.key, w.name, w.schema FROM public.workspace w JOIN public.membership m ON m.workspace_id = w.id WHERE m.person_id = $1 ORDER BY w.id',
      [id],
    );
    for (const table of [
      'session',
      'token',
      'passkey',
      'second_factor',
      'provider_account',
      'one_time',
      'challenge',
    ])
      await run(transaction, `DELETE FROM public.${table} WHERE person = $1`, [id]);
    await run(transaction, 'DELETE FROM public.group_member WHERE person_id = $1', [id]);
    await run(
      transaction,
      'UPDATE public.membership SET left_at = COALESCE(left_at, clock_timestamp()) WHERE person_id = $1',
      [id],
    );
    await run(
      transaction,
      `UPDATE public.person SET name = 'A person', email = id::text || '@person.invalid', role = '', form = NULL, password = NULL, is_operator = false WHERE id = $1`,
      [id],
    );
    for (const workspace of where) {
      await checkAdministered(transaction, workspace);
      const s = quote(workspace.schema);
      for (const [table, column] of TEXTS)
        await run(
          transaction,
          `UPDATE ${s}.${table} SET ${column} = replace(replace(${column}, $1, 'a person'), $2, 'a person') WHERE strpos(${column}, $1) > 0 OR strpos(${column}, $2) > 0`,
          [name, email],
        );
      await run(transaction, `UPDATE ${s}._state SET epoch = epoch + 1`);
    }
    await noteSecurity({ kind: 'personForgotten', person: id, data: { by } }, transaction);
    return where.map(({ key }) => key);
  });
  keys.forEach(forgetWorkspace);
}
