import type { Role } from '@/core/api';
import { QueryTypes } from 'sequelize';
import { database } from '@/server/database/connection';

/** What somebody may do in a workspace; `null` where they don't take part in it, or no longer. Asked of the database: a change counts at once. */
export async function roleIn(key: string, person: string): Promise<Role | null> {
  const [found] = await database().query<{ role: Role }>(
    'SELECT m.role FROM membership m JOIN workspace w ON w.id = m.workspace_id WHERE w.key = $1 AND m.person_id::text = $2 AND m.left_at IS NULL',
    { bind: [key, person], type: QueryTypes.SELECT },
  );
  return found?.role ?? null;
}
