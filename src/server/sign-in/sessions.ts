import { firstIn } from '@/core/values';
import { QueryTypes, type Transaction } from 'sequelize';
import { v4 as newHandle } from 'uuid';
import { database } from '@/server/database/connection';
import { numberSetting } from '@/server/setting';
import { hashOf, newSecret } from './secrets';

/** Who asks, as far as it is known: an address of the network, and what their program calls itself. */
export interface Client {
  readonly address: string;
  readonly agent: string;
}

/** Somebody who is signed in. */
export interface SignedIn {
  readonly person: string;
  readonly name: string;
  readonly isOperator: boolean;
  /** By which others name the session. */
  readonly handle: string;
}

/** Minutes without a request after which a session has ended, and hours after which any has (ASVS 3.3.2). */
const idleMinutes = (): number => numberSetting('OIKON_SESSION_MINUTES', 30);
const wholeHours = (): number => numberSetting('OIKON_SESSION_HOURS', 12);

/** A session has ended where this isn't so. */
const isOn = (): string =>
  `s.used > now() - interval '${idleMinutes()} minutes' AND s.began > now() - interval '${wholeHours()} hours'`;

/** Begins a session; answers what the browser keeps, which is stored nowhere. */
export async function beginSession(
  person: string,
  { address, agent }: Client,
  transaction: Transaction | null = null,
): Promise<string> {
  const secret = newSecret();
  await database().query(
    'INSERT INTO session (id, handle, person, address, agent) VALUES ($1, $2, $3, $4, $5)',
    { bind: [hashOf(secret), newHandle(), person, address, agent.slice(0, 300)], transaction },
  );
  return secret;
}

/** Who is signed in by what a browser keeps; `null` where nobody is, or no more. It counts as used, noted once in a minute. */
export async function signedInBy(secret: string): Promise<SignedIn | null> {
  const id = hashOf(secret);
  const [found] = await database().query<SignedIn & { isStale: boolean }>(
    `SELECT s.person::text, p.name, p.is_operator AS "isOperator", s.handle::text, s.used < now() - interval '1 minute' AS "isStale"
      FROM session s JOIN person p ON p.id = s.person WHERE s.id = $1 AND ${isOn()}`,
    { bind: [id], type: QueryTypes.SELECT },
  );
  if (!found) return null;
  const { isStale, ...signedIn } = found;
  if (isStale)
    await database().query('UPDATE session SET used = clock_timestamp() WHERE id = $1', { bind: [id] });
  return signedIn;
}

export interface SessionView {
  readonly handle: string;
  /** Instants. */
  readonly began: string;
  readonly used: string;
  readonly address: string;
  readonly agent: string;
}

/** A person's sessions that are still on, the one used last first. */
export async function sessionsOf(person: string): Promise<SessionView[]> {
  const found = await database().query<SessionView & { began: Date; used: Date }>(
    `SELECT s.handle::text, s.began, s.used, s.address, s.agent FROM session s WHERE s.person = $1 AND ${isOn()} ORDER BY s.used DESC, s.handle`,
    { bind: [person], type: QueryTypes.SELECT },
  );
  return found.map((one) => ({ ...one, began: one.began.toISOString(), used: one.used.toISOString() }));
}

/** Ends one session of a person, by its handle. Answers whether there was one. */
export async function endSession(person: string, handle: string): Promise<boolean> {
  const ended = await database().query('DELETE FROM session WHERE person = $1 AND handle = $2 RETURNING 1', {
    bind: [person, handle],
    type: QueryTypes.SELECT,
  });
  return ended.length > 0;
}

/** Ends all sessions of a person, at once and for every process; answers how many there were. */
export async function endSessions(person: string, transaction: Transaction | null = null): Promise<number> {
  const found = await database().query<{ ended: number }>(
    'WITH gone AS (DELETE FROM session WHERE person = $1 RETURNING 1) SELECT count(*)::int AS ended FROM gone',
    { bind: [person], type: QueryTypes.SELECT, transaction },
  );
  return firstIn(found).ended;
}

/** What has ended takes no room for long: sessions, tokens, addresses that are good once, and who waited. */
export async function sweepSessions(): Promise<void> {
  await database().query(`DELETE FROM session s WHERE NOT (${isOn()})`);
  await database().query('DELETE FROM token WHERE ends < now()');
  await database().query('DELETE FROM one_time WHERE ends < now()');
  await database().query('DELETE FROM rate_limit WHERE expire < extract(epoch FROM now()) * 1000');
}
