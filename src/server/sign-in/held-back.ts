import { RateLimiterPostgres } from 'rate-limiter-flexible';
import { database } from '@/server/database/connection';
import { hashOf } from './secrets';

const MINUTE = 60;
const HOUR = 60 * MINUTE;

/** Failures before one waits at all. */
const FREE = 5;
/** Seconds that one waits at most. */
const LONGEST = 15 * MINUTE;

const globals = globalThis as { oikonLimiters?: Limiters };

interface Limiters {
  /** By address of the network, whatever account is tried: so many failures in a quarter of an hour. */
  readonly from: RateLimiterPostgres;
  /** Failures of the last hour, by account and address, and by account from addresses where its owner hasn't signed in. */
  readonly failures: RateLimiterPostgres;
  /** How often somebody has forgotten a password in the last hour, by account and by address. */
  readonly forgotten: RateLimiterPostgres;
  readonly forgottenFrom: RateLimiterPostgres;
  /** Who waits, until when. */
  readonly waits: RateLimiterPostgres;
}

function limiters(): Limiters {
  const made = (keyPrefix: string, points: number, duration: number) =>
    new RateLimiterPostgres({
      ...{ storeClient: database(), storeType: 'sequelize', tableName: 'rate_limit', tableCreated: true },
      // What is over is swept (`sweepSessions`): no timer of its own goes on.
      ...{ keyPrefix, points, duration, clearExpiredByTimeout: false },
    });
  return (globals.oikonLimiters ??= {
    from: made('from', 100, 15 * MINUTE),
    failures: made('failures', Number.MAX_SAFE_INTEGER, HOUR),
    forgotten: made('forgotten', 3, HOUR),
    forgottenFrom: made('forgottenFrom', 20, HOUR),
    waits: made('waits', 1, HOUR),
  });
}

/** Forgets the limiters with the connection that they hold. */
export const forgetLimiters = (): void => void delete globals.oikonLimiters;

export interface Tried {
  readonly email: string;
  readonly address: string;
  /** The owner of the account signed in from there before: a stranger elsewhere can't hold them back. */
  readonly isKnown: boolean;
}

/** What is stored of an address of the post says it to nobody. */
const keyOf = (email: string): string =>
  hashOf(email.trim().toLowerCase()).toString('base64url').slice(0, 24);

/** Where failures are counted, with how many are free. */
function countedAt({
  email,
  address,
  isKnown,
}: Tried): readonly { readonly key: string; readonly free: number }[] {
  const account = keyOf(email);
  return [
    { key: `${account} ${address}`, free: FREE },
    ...(isKnown ? [] : [{ key: account, free: 4 * FREE }]),
  ];
}

/** Seconds until somebody may try again; 0 where they may now. */
export async function waitFor(tried: Tried): Promise<number> {
  const { from, waits } = limiters();
  const found = await Promise.all([
    from.get(tried.address).then((one) => (one && one.consumedPoints >= from.points ? one : null)),
    ...countedAt(tried).map(({ key }) => waits.get(key)),
  ]);
  return Math.max(0, ...found.map((one) => (one ? Math.ceil(one.msBeforeNext / 1_000) : 0)));
}

/** Notes that somebody failed. The more often, the longer they wait: twice as long each time, up to a quarter of an hour. */
export async function noteFailure(tried: Tried): Promise<void> {
  const { from, failures, waits } = limiters();
  await from.penalty(tried.address);
  for (const { key, free } of countedAt(tried)) {
    const { consumedPoints } = await failures.penalty(key);
    const beyond = consumedPoints - free;
    if (beyond >= 0) await waits.set(key, 1, Math.min(2 ** Math.min(beyond, 20), LONGEST));
  }
}

/** Whoever signed in begins anew from there; who showed otherwise that the account is theirs, from everywhere. */
export async function forgetFailures(tried: Tried): Promise<void> {
  const { failures, waits } = limiters();
  for (const { key } of countedAt(tried)) await Promise.all([failures.delete(key), waits.delete(key)]);
}

/** Counts that somebody has forgotten a password; whether that is too often from an address, or for an account. */
export async function countForgotten(email: string, address: string): Promise<'address' | 'account' | null> {
  const { forgotten, forgottenFrom } = limiters();
  const from = await forgottenFrom.penalty(address);
  if (from.consumedPoints > forgottenFrom.points) return 'address';
  const account = await forgotten.penalty(keyOf(email));
  return account.consumedPoints > forgotten.points ? 'account' : null;
}
