import { QueryTypes, type Transaction } from 'sequelize';
import { database } from '@/server/database/connection';

/** What is noted in the security ledger. */
export type SecurityKind =
  | 'signedIn'
  | 'signInFailed'
  | 'signInHeldBack'
  | 'signedOut'
  | 'sessionEnded'
  | 'passwordChosen'
  | 'addressMade'
  | 'administratorMade'
  | 'personAdded'
  | 'rightsChanged';

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
