import { QueryTypes } from 'sequelize';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { forgetFailures, noteFailure, waitFor } from './held-back';
import { isPassword } from './passwords';
import { isKnownFrom, noteSecurity } from './security-events';
import { beginSession, type Client } from './sessions';

export interface SignInInput {
  readonly email: string;
  readonly password: string;
}

/** Of whom it is asked by an address of the post, however it is written. */
export async function accountOf(
  email: string,
): Promise<{ readonly id: string; readonly password: string | null } | null> {
  const [found] = await database().query<{ id: string; password: string | null }>(
    'SELECT id::text, password FROM person WHERE lower(email) = lower($1) ORDER BY id LIMIT 1',
    { bind: [email.trim()], type: QueryTypes.SELECT },
  );
  return found ?? null;
}

/**
 * Signs somebody in by their password; answers what the browser keeps. Whoever fails is told the same, after as long, whether there is such an account
 * or not; and waits longer and longer.
 */
export async function signIn({ email, password }: SignInInput, client: Client): Promise<string> {
  const account = await accountOf(email);
  const tried = {
    ...{ email, address: client.address },
    isKnown: account !== null && (await isKnownFrom(account.id, client.address)),
  };
  const wait = await waitFor(tried);
  if (wait > 0) {
    await noteSecurity({ kind: 'signInHeldBack', person: account?.id ?? null, address: client.address });
    throw new Refusal(
      429,
      'signIn.wait',
      `Too many tries. Try again in ${wait < 60 ? `${wait} s` : `${Math.ceil(wait / 60)} minutes`}, or choose a new password by an address that is sent to you.`,
      [],
      { retryAfter: wait },
    );
  }
  if (!(await isPassword(account?.password ?? null, password)) || !account) {
    await noteFailure(tried);
    await noteSecurity({ kind: 'signInFailed', person: account?.id ?? null, address: client.address });
    throw new Refusal(
      401,
      'signIn.wrong',
      'E-mail and password don’t go together. Check both; capitals and spaces count in a password.',
    );
  }
  await forgetFailures({ ...tried, isKnown: true });
  return database().transaction(async (transaction) => {
    const secret = await beginSession(account.id, client, transaction);
    await noteSecurity({ kind: 'signedIn', person: account.id, address: client.address }, transaction);
    return secret;
  });
}
