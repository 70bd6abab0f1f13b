import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { Binds, quote, run, runAlone } from '@/server/store/sql/sql';
import { type RequestKey, requestContext } from './request-context';

/** What a request was answered. */
export interface StoredAnswer {
  readonly status?: number;
  readonly body?: unknown;
}

/** Where keys are kept, in a workspace's schema and in the installation's; and the constraint that keeps each from being used twice. */
const TABLE = '_request_key';
const ONCE = '_request_key_pkey';
const tableIn = (schema: string): string => `${quote(schema)}.${quote(TABLE)}`;

/** Hours for which a key is known. */
const KEPT_HOURS = 24;

/** Another request with the same key was saved first; this one was taken back. */
export class AnsweredBefore extends Error {}

export const isAnsweredBefore = (error: unknown): boolean =>
  (error as { constraint?: string; parent?: { constraint?: string } }).constraint === ONCE ||
  (error as { parent?: { constraint?: string } }).parent?.constraint === ONCE;

/**
 * Notes the key of the request with what it saves, in the same transaction: so it is known whether it was saved, whatever becomes of the
 * answer. Only with the first transaction of a request.
 */
export function claimKey(transaction: Transaction): Promise<unknown>[] {
  const binds = new Binds();
  return claim(binds).map((text) => run(transaction, text, binds.values));
}

/** The same as part of a statement that is a transaction by itself, where the query `where` in it answers a row. */
export const claimSql = (binds: Binds, where: string): string[] =>
  claim(binds, `FROM ${where}`).map((text) => `claimed AS (${text})`);

function claim(binds: Binds, where = ''): string[] {
  const context = requestContext();
  if (!context?.key || context.hasSaved) return [];
  const { schema, person, key, fingerprint } = context.key;
  const values = [binds.add(person, 'uuid'), binds.add(key, 'text'), binds.add(fingerprint, 'text')];
  return [`INSERT INTO ${tableIn(schema)} (person, key, fingerprint) SELECT ${values.join(', ')} ${where}`];
}

/** How a request with the key was answered; `null` where there was none. Refuses a key that came with something else. */
export async function answeredBefore(key: RequestKey): Promise<StoredAnswer | null> {
  const found = await look(key);
  if (!found) return null;
  if (found.fingerprint !== key.fingerprint)
    throw new Refusal(
      422,
      'key.reused',
      'This Idempotency-Key came with another request before. Use a new random key for each thing that is saved.',
    );
  if (found.status === null) throw untold(found.at);
  return { status: found.status, body: found.body };
}

interface Found {
  readonly fingerprint: string;
  readonly status: number | null;
  readonly body: unknown;
  readonly at: string;
}

const look = async ({ schema, person, key }: RequestKey): Promise<Found | undefined> => {
  const [found] = await runAlone<Found>(
    `SELECT fingerprint, status, body, to_char(at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS at FROM ${tableIn(schema)} WHERE person = $1 AND key = $2`,
    [person, key],
  );
  return found;
};

const untold = (at: string): Refusal =>
  new Refusal(
    409,
    'save.before',
    `This was saved before, at ${at}; what came of it was never told. Reload to see how it stands.`,
    [],
    { at },
  );

/** Milliseconds between looks, and most looks, at whether the other request has its answer. */
const PAUSE = 100;
const LOOKS = 50;

/** The answer of the request that was saved first: it may be about to be given. */
export async function answerOfOther(key: RequestKey): Promise<StoredAnswer> {
  for (let looked = 1; ; looked += 1) {
    try {
      const answer = await answeredBefore(key);
      if (answer) return answer;
      throw new Refusal(503, 'busy', 'The same is being saved right now. Try again in a moment.');
    } catch (error) {
      if (!(error instanceof Refusal && error.code === 'save.before') || looked === LOOKS) throw error;
    }
    await new Promise((resolve) => setTimeout(resolve, PAUSE));
  }
}

/** Keeps an answer with its key. */
export const keepAnswer = (key: RequestKey, { status = 200, body }: StoredAnswer): Promise<unknown> =>
  runAlone(
    `INSERT INTO ${tableIn(key.schema)} AS k (person, key, fingerprint, status, body) VALUES ($1, $2, $3, $4, $5)
      ON CONFLICT (person, key) DO UPDATE SET status = excluded.status, body = excluded.body
        WHERE k.fingerprint = excluded.fingerprint AND k.status IS NULL`,
    [key.person, key.key, key.fingerprint, status, body === undefined ? null : JSON.stringify(body)],
  );

/** Forgets keys of more than a day ago. */
export const forgetKeys = (schema: string): Promise<unknown> =>
  runAlone(`DELETE FROM ${tableIn(schema)} WHERE at < clock_timestamp() - make_interval(hours => $1)`, [
    KEPT_HOURS,
  ]);

const globals = globalThis as { oikonOutstanding?: Map<string, Promise<unknown>> };

/** One after the other where requests of this process have the same key: the second finds the first's answer. */
export async function outstanding<T>(
  { schema, person, key }: RequestKey,
  work: () => Promise<T>,
): Promise<T> {
  const known = (globals.oikonOutstanding ??= new Map<string, Promise<unknown>>());
  const name = JSON.stringify([schema, person, key]);
  const before = known.get(name) ?? Promise.resolve();
  const mine = before.then(work, work);
  const settled = mine.then(
    () => undefined,
    () => undefined,
  );
  known.set(name, settled);
  try {
    return await mine;
  } finally {
    if (known.get(name) === settled) known.delete(name);
  }
}
