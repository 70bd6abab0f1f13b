import { QueryTypes, type Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { forgetFailures, noteFailure, type Tried, waitFor } from './held-back';
import { hashPassword, isPassword, whyNot } from './passwords';
import { isKnownFrom, noteSecurity } from './security-events';
import { hasSecondFactor, takeCode, wrongCode } from './second-factor';
import { tellOwner } from './told';
import { beginSession, type Client, endSessions, type SignedIn, type Way } from './sessions';

export interface SignInInput {
  readonly email: string;
  readonly password: string;
  /** Of who has set up a second step: a code of the moment, or a spare one. */
  readonly code?: string;
}

interface Account {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly password: string | null;
}

/** Of whom it is asked by an address of the post, however it is written. */
export async function accountOf(email: string): Promise<Account | null> {
  const [found] = await database().query<Account>(
    'SELECT id::text, name, email, password FROM person WHERE lower(email) = lower($1) AND NOT is_service ORDER BY id LIMIT 1',
    { bind: [email.trim()], type: QueryTypes.SELECT },
  );
  return found ?? null;
}

/**
 * Somebody chooses another password, giving the one that they have. Wherever else they are signed in, that ends; here they are signed in anew. Whoever
 * guesses waits, as at signing in.
 */
export async function changePassword(
  { person, way, factors }: Pick<SignedIn, 'person' | 'way' | 'factors'>,
  { password, next }: { readonly password: string; readonly next: string },
  client: Client,
): Promise<string> {
  const [account] = await database().query<{ name: string; email: string; password: string | null }>(
    'SELECT name, email, password FROM person WHERE id = $1',
    { bind: [person], type: QueryTypes.SELECT },
  );
  if (!account) throw wrong();
  const tried = { email: account.email, address: client.address, isKnown: true };
  await refuseWaiting(tried, person, client);
  if (!(await isPassword(account.password, password))) {
    await noteFailure(tried);
    await noteSecurity({ kind: 'signInFailed', person, address: client.address });
    throw wrong();
  }
  const why = whyNot(next, account);
  if (why) throw new Refusal(422, 'password.weak', why);
  const made = await hashPassword(next);
  const session = await database().transaction(async (transaction) => {
    const bind = [person, made];
    await database().query('UPDATE person SET password = $2 WHERE id = $1', { bind, transaction });
    await endSessions(person, transaction);
    await noteSecurity({ kind: 'passwordChosen', person, address: client.address }, transaction);
    return beginSession(person, client, { way, factors }, transaction);
  });
  tellOwner(person, 'password');
  return session;
}

const wrong = (): Refusal =>
  new Refusal(403, 'signIn.wrong', 'This isn’t the password that you have. Capitals and spaces count.');

/** Refuses who has to wait, and says how long. */
async function refuseWaiting(tried: Tried, person: string | null, { address }: Client): Promise<void> {
  const wait = await waitFor(tried);
  if (wait === 0) return;
  await noteSecurity({ kind: 'signInHeldBack', person, address });
  throw new Refusal(
    429,
    'signIn.wait',
    `Too many tries. Try again in ${wait < 60 ? `${wait} s` : `${Math.ceil(wait / 60)} minutes`}, or choose a new password by an address that you are given.`,
    [],
    { retryAfter: wait },
  );
}

/**
 * Signs somebody in by their password, and by a code where they have set one up; answers what the browser keeps. Whoever fails is told the same, after as
 * long, whether there is such an account or not; and waits longer and longer. That a code is wanted is said only to who has the password.
 */
export async function signIn({ email, password, code }: SignInInput, client: Client): Promise<string> {
  const account = await accountOf(email);
  const tried = {
    ...{ email, address: client.address },
    isKnown: account !== null && (await isKnownFrom(account.id, client.address)),
  };
  await refuseWaiting(tried, account?.id ?? null, client);
  const fail = async (why: Refusal): Promise<never> => {
    await noteFailure(tried);
    await noteSecurity({ kind: 'signInFailed', person: account?.id ?? null, address: client.address });
    throw why;
  };
  if (!(await isPassword(account?.password ?? null, password)) || !account)
    return fail(
      new Refusal(
        401,
        'signIn.wrong',
        'E-mail and password don’t go together. Check both; capitals and spaces count in a password.',
      ),
    );
  const isSecond = await hasSecondFactor(account.id);
  if (isSecond && code === undefined)
    throw new Refusal(401, 'signIn.code', 'Give the code that your phone shows at this moment.');
  if (isSecond && !(await takeCode(account.id, code ?? ''))) return fail(wrongCode());
  await forgetFailures({ ...tried, isKnown: true });
  return enter(account.id, client, { way: 'password', factors: isSecond ? 2 : 1 });
}

/** Somebody has shown who they are: their session begins. */
export const enter = (person: string, client: Client, way: Way): Promise<string> =>
  database().transaction((transaction) => enterIn(transaction, person, client, way));

/** The same as a part of a larger change. */
export async function enterIn(
  transaction: Transaction,
  person: string,
  client: Client,
  way: Way,
): Promise<string> {
  const secret = await beginSession(person, client, way, transaction);
  const data = { way: way.way };
  await noteSecurity({ kind: 'signedIn', person, address: client.address, data }, transaction);
  return secret;
}
