import type { SecurityEventView, SecurityKind } from '@/core/api';
import { QueryTypes, type Transaction } from 'sequelize';
import { database } from '@/server/database/connection';

export interface SecurityEvent {
  readonly kind: SecurityKind;
  readonly person?: string | null;
  /** Of the client, as far as it is known. */
  readonly address?: string | null;
  readonly data?: Readonly<Record<string, unknown>>;
}

/** Notes something in the security ledger, which only grows. */
export async function noteSecurity(
  { kind, person = null, address = null, data = {} }: SecurityEvent,
  transaction: Transaction | null = null,
): Promise<void> {
  await database().query('INSERT INTO security_event (kind, person, address, data) VALUES ($1, $2, $3, $4)', {
    bind: [kind, person, address, JSON.stringify(data)],
    transaction,
  });
}

/** Whether a person signed in from an address in the last 90 days. */
export async function isKnownFrom(person: string, address: string): Promise<boolean> {
  const found = await database().query(
    `SELECT 1 FROM security_event WHERE person = $1 AND kind = 'signedIn' AND address = $2 AND at > now() - interval '90 days' LIMIT 1`,
    { bind: [person, address], type: QueryTypes.SELECT },
  );
  return found.length > 0;
}

const READ = `SELECT e.id::text, e.at, e.kind, p.name AS person, e.address, b.name AS by, e.data ->> 'workspace' AS workspace, e.data ->> 'access' AS access,
    COALESCE(e.data ->> 'group', e.data ->> 'role', e.data ->> 'name') AS about
  FROM security_event e LEFT JOIN person p ON p.id = e.person LEFT JOIN person b ON b.id::text = e.data ->> 'by'`;

type Row = SecurityEventView & { readonly at: Date };

const viewOf = (row: Row): SecurityEventView => ({ ...row, at: row.at.toISOString() });

/** The security ledger, the latest first; `next` gives those before. */
export async function securityEvents(
  before: string | null,
  limit: number,
): Promise<{ readonly events: SecurityEventView[]; readonly next: string | null }> {
  const found = await database().query<Row>(
    `${READ} WHERE $1::bigint IS NULL OR e.id < $1::bigint ORDER BY e.id DESC LIMIT $2`,
    { bind: [before, limit + 1], type: QueryTypes.SELECT },
  );
  const events = found.slice(0, limit).map(viewOf);
  return { events, next: found.length > limit ? (events.at(-1)?.id ?? null) : null };
}

const PAGE = 2_000;

/** The whole security ledger as it stands, the earliest first: a line of JSON for each entry. */
export async function* securityLines(): AsyncGenerator<string> {
  const [end] = await database().query<{ id: string | null }>(
    'SELECT max(id)::text AS id FROM security_event',
    {
      type: QueryTypes.SELECT,
    },
  );
  for (let after = '0'; ;) {
    const found = await database().query<Row>(
      `${READ} WHERE e.id > $1::bigint AND e.id <= $2::bigint ORDER BY e.id LIMIT ${PAGE}`,
      { bind: [after, end?.id ?? '0'], type: QueryTypes.SELECT },
    );
    const last = found.at(-1);
    if (!last) return;
    yield found.map((row) => `${JSON.stringify(viewOf(row))}\n`).join('');
    after = last.id;
  }
}
