import { QueryTypes, type Transaction } from 'sequelize';
import { database } from '@/server/database/connection';

/**
 * Whoever is in a group takes part where it has a role: what is missing is made. Workspaces in which a group has a role are read anew everywhere, since
 * they know by name who is here: their keys are answered.
 */
export async function settleGroups(
  groups: readonly string[],
  transaction: Transaction,
): Promise<readonly string[]> {
  const bind = [groups];
  await database().query(
    `INSERT INTO public.membership (workspace_id, person_id, role)
      SELECT DISTINCT r.workspace_id, m.person_id, NULL FROM public.group_role r JOIN public.group_member m USING (group_id) WHERE r.group_id = ANY ($1)
      ORDER BY 1, 2 ON CONFLICT DO NOTHING`,
    { bind, transaction },
  );
  const touched = await database().query<{ key: string; schema: string }>(
    `SELECT w.key, w.schema FROM public.workspace w WHERE EXISTS (SELECT FROM public.group_role r WHERE r.workspace_id = w.id AND r.group_id = ANY ($1)) ORDER BY w.id`,
    { bind, type: QueryTypes.SELECT, transaction },
  );
  for (const { schema } of touched)
    await database().query(`UPDATE "${schema}"._state SET epoch = epoch + 1`, { transaction });
  return touched.map(({ key }) => key);
}

/** Puts somebody into the groups that the company's sign-in names, and out of all others that it says who is in. Answers the keys of the workspaces in which that may mean something else. */
export async function followClaims(
  person: string,
  claims: readonly string[],
  transaction: Transaction,
): Promise<readonly string[]> {
  const changed = await database().query<{ group: string }>(
    `WITH named AS (SELECT id FROM people_group WHERE claim = ANY ($2)),
      gone AS (DELETE FROM group_member m USING people_group g WHERE g.id = m.group_id AND m.person_id = $1 AND g.claim IS NOT NULL
        AND g.id NOT IN (SELECT id FROM named) RETURNING m.group_id),
      come AS (INSERT INTO group_member (group_id, person_id) SELECT id, $1 FROM named ON CONFLICT DO NOTHING RETURNING group_id)
      SELECT group_id::text AS "group" FROM gone UNION ALL SELECT group_id::text FROM come`,
    { bind: [person, claims], type: QueryTypes.SELECT, transaction },
  );
  if (changed.length === 0) return [];
  const groups = changed.map(({ group }) => group);
  return settleGroups(groups, transaction);
}
