import { firstIn } from '@/core/values';
import { QueryTypes, type Transaction } from 'sequelize';
import { v4 as newHandle } from 'uuid';
import { askPrepared, database } from '@/server/database/connection';
import { numberSetting } from '@/server/setting';
import { type Had, had, type Standing, standingOf } from './roles';
import { hashOf, newSecret } from './secrets';

/** Who asks, as far as it is known: an address of the network, and what their program calls itself. */
export interface Client {
  readonly address: string;
  readonly agent: string;
}

/** How somebody signed in, and by how many kinds of proof: a passkey is two, since it asks for a finger or a PIN itself. */
export interface Way {
  readonly way: 'password' | 'passkey' | 'provider' | 'token';
  readonly factors: 1 | 2;
}

/** Somebody who is signed in. */
export interface SignedIn extends Way {
  readonly person: string;
  readonly name: string;
  readonly isOperator: boolean;
  /** By which others name the session. */
  readonly handle: string;
  /** What they are in the workspace that was asked for; `null` where that is nothing. */
  readonly standing: Standing | null;
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
  { way, factors }: Way,
  transaction: Transaction | null = null,
): Promise<string> {
  const secret = newSecret();
  await database().query(
    `INSERT INTO session (id, handle, person, address, agent, way, factors, rights_seen)
      VALUES ($1, $2, $3, $4, $5, $6, $7, (SELECT rights_changed FROM person WHERE id = $3))`,
    {
      bind: [hashOf(secret), newHandle(), person, address, agent.slice(0, 300), way, factors],
      transaction,
    },
  );
  return secret;
}

/** Seconds for which the id that a session had before is good too: for what was under way with it. */
const LATE = 30;

/** What is told besides of who is signed in by a session or a token. */
export interface AsKept {
  /** What is stored of its secret. */
  readonly id: Buffer;
  /** When what they may changed last, as the database writes it. */
  readonly since: string;
  /** Milliseconds for which it is good yet, where nobody ends it. */
  readonly left: number;
}

interface Found extends Omit<SignedIn, 'standing'>, Omit<AsKept, 'id'> {
  readonly isStale: boolean;
  readonly isChanged: boolean;
  readonly isEarlier: boolean;
  readonly had: Had[] | null;
}

/** In SQL: milliseconds until an instant. */
export const leftUntil = (instant: string): string =>
  `(extract(epoch FROM ${instant} - clock_timestamp()) * 1000)::float8`;

/** Who is signed in by what a browser keeps, and what they are in the workspace of a key; `null` where nobody is, or no more. It counts as used, noted once in a minute. */
export const signedInBy = async (secret: string, workspace: string | null = null): Promise<SignedIn | null> =>
  (await sessionBy(secret, workspace))?.signedIn ?? null;

interface Session extends AsKept {
  readonly signedIn: SignedIn;
  /** Whether what they may has changed since, so that the session is to get another id (`renewSession`). */
  readonly isChanged: boolean;
  /** Whether it has another id by now, and this one is good for a moment more. */
  readonly isEarlier: boolean;
}

/** The same, with how the session stands. */
export async function sessionBy(secret: string, workspace: string | null): Promise<Session | null> {
  const id = hashOf(secret);
  const [idle, whole] = [idleMinutes(), wholeHours()];
  const [found] = await askPrepared<Found>(
    `session ${idle} ${whole}`,
    `SELECT s.person::text, p.name, p.is_operator AS "isOperator", s.handle::text, s.way, s.factors, ${had('p.id', '$2')} AS had,
        s.used < now() - interval '1 minute' AS "isStale", s.id = $1 AND s.rights_seen <> p.rights_changed AS "isChanged", s.id <> $1 AS "isEarlier", p.rights_changed::text AS since,
        ${leftUntil(`least(s.used + interval '${idle} minutes', s.began + interval '${whole} hours')`)} AS left
      FROM session s JOIN person p ON p.id = s.person
      WHERE (s.id = $1 OR s.before = $1 AND s.renewed > now() - interval '${LATE} seconds') AND ${isOn()}`,
    [id, workspace],
  );
  if (!found) return null;
  const { isStale, isChanged, isEarlier, since, left, had: roles, ...signedIn } = found;
  if (isStale)
    await database().query('UPDATE session SET used = clock_timestamp() WHERE handle = $1', {
      bind: [found.handle],
    });
  return { signedIn: { ...signedIn, standing: standingOf(roles) }, isChanged, isEarlier, id, since, left };
}

/** Gives a session another id; answers what the browser is to keep from now on, `null` where another request has just done so. The one before is good for a moment more. */
export async function renewSession(secret: string): Promise<string | null> {
  const next = newSecret();
  const renewed = await database().query(
    `UPDATE session s SET id = $2, before = s.id, renewed = clock_timestamp(), rights_seen = p.rights_changed
      FROM person p WHERE p.id = s.person AND s.id = $1 RETURNING 1`,
    { bind: [hashOf(secret), hashOf(next)], type: QueryTypes.SELECT },
  );
  return renewed.length > 0 ? next : null;
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
  for (const table of ['one_time', 'challenge', 'provider_visit'])
    await database().query(`DELETE FROM ${table} WHERE ends < now()`);
  await database().query('DELETE FROM rate_limit WHERE expire < extract(epoch FROM now()) * 1000');
}
