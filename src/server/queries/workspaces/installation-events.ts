import { lastIn } from '@/core/values';
import type { InstallationEventView } from '@/core/api';
import type { Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { run } from '@/server/store/sql/sql';
import { instantSql } from '@/server/queries/run-head';

const COLUMNS = `e.id::text, ${instantSql('e.at')} AS at, p.name AS person, e.kind, e.workspace, e.name, e.data`;

/** What was done to the installation itself, the latest first; `next` gives those before. */
export async function installationEvents(
  before: string | null,
  limit: number,
): Promise<{ events: InstallationEventView[]; next: string | null }> {
  const events = await database().transaction((transaction: Transaction) =>
    run<InstallationEventView>(
      transaction,
      `SELECT ${COLUMNS} FROM public.installation_event e LEFT JOIN public.person p ON p.id = e.person
        WHERE $1::bigint IS NULL OR e.id < $1 ORDER BY e.id DESC LIMIT $2`,
      [before, limit + 1],
    ),
  );
  const page = events.slice(0, limit);
  return { events: page, next: events.length > limit ? lastIn(page).id : null };
}
