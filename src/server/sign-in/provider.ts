import { certain } from '@/core/values';
import * as client from 'openid-client';
import { QueryTypes, type Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { database } from '@/server/database/connection';
import { log } from '@/server/log';
import type { ProviderSettings } from '@/server/outside-settings';
import { settings } from '@/server/settings';
import { followClaims } from './groups';
import { hashOf, newSecret } from './secrets';
import { noteSecurity } from './security-events';
import type { Client } from './sessions';
import { enterIn } from './sign-in';

/** Minutes that one may be away at the company's sign-in. */
const MINUTES = 10;
/** Seconds that it has for an answer. */
const PATIENCE = 10;

/** Why the company's sign-in let nobody in, for the page that says so. */
export type WhyNotIn = 'failed' | 'unknown' | 'away';

const globals = globalThis as { oikonProvider?: Promise<client.Configuration> };

/** What the provider says of itself, asked once; again where that failed. */
function configured({ issuer, client: id, secret }: ProviderSettings): Promise<client.Configuration> {
  const execute = issuer.startsWith('http:') ? [client.allowInsecureRequests] : [];
  globals.oikonProvider ??= client
    .discovery(new URL(issuer), id, secret, undefined, { execute, timeout: PATIENCE })
    .catch((error: unknown) => {
      delete globals.oikonProvider;
      throw error;
    });
  return globals.oikonProvider;
}

/** For tests: asks anew. */
export const forgetProvider = (): void => void delete globals.oikonProvider;

const returnAddress = (): string => `${settings().origin}/api/v1/session/provider/return`;

/** Begins a visit to the company's sign-in: where it is, and what the browser keeps until it comes back. */
export async function beginVisit(
  provider: ProviderSettings,
  backTo: string,
): Promise<{ readonly address: string; readonly state: string }> {
  const config = await configured(provider);
  const [state, nonce, verifier] = [newSecret(), newSecret(), client.randomPKCECodeVerifier()];
  await database().query(
    'INSERT INTO provider_visit (id, nonce, verifier, back_to, ends) VALUES ($1, $2, $3, $4, now() + make_interval(mins => $5))',
    { bind: [hashOf(state), nonce, verifier, backTo, MINUTES] },
  );
  const address = client.buildAuthorizationUrl(config, {
    ...{ redirect_uri: returnAddress(), scope: 'openid email profile', state, nonce },
    ...{ code_challenge: await client.calculatePKCECodeChallenge(verifier), code_challenge_method: 'S256' },
  });
  return { address: address.href, state };
}

/** What the provider says of somebody. */
interface Claims {
  readonly issuer: string;
  readonly subject: string;
  readonly name: string | null;
  readonly email: string | null;
  /** `null`: it says nothing of groups. */
  readonly groups: readonly string[] | null;
}

type Returned =
  | { readonly session: string; readonly backTo: string; readonly touched: readonly string[] }
  | { readonly whyNot: WhyNotIn };

/**
 * Somebody comes back from the company's sign-in, by the browser that went there: their session begins. Who is known there under an e-mail that it vouches
 * for is the one with that e-mail here. `touched`: keys of workspaces in which they are somebody else than before.
 */
export async function returnFromVisit(
  provider: ProviderSettings,
  returned: URL,
  state: string | null,
  from: Client,
): Promise<Returned> {
  const said = returned.searchParams.get('state');
  if (state === null || said !== state) return { whyNot: 'failed' };
  const [visit] = await database().query<{ nonce: string; verifier: string; backTo: string }>(
    'DELETE FROM provider_visit WHERE id = $1 AND ends > now() RETURNING nonce, verifier, back_to AS "backTo"',
    { bind: [hashOf(state)], type: QueryTypes.SELECT },
  );
  if (!visit) return { whyNot: 'failed' };
  const claims = await claimsBy(provider, returned, state, visit).catch((error: unknown) => {
    log.warn({ err: error }, 'the company’s sign-in let nobody in');
    return null;
  });
  if (!claims) return { whyNot: 'failed' };
  return database().transaction(async (transaction): Promise<Returned> => {
    const person = await personOf(provider, claims, from, transaction);
    if (person === null) {
      await noteSecurity({ kind: 'signInFailed', address: from.address }, transaction);
      return { whyNot: 'unknown' };
    }
    const touched = claims.groups === null ? [] : await followClaims(person, claims.groups, transaction);
    const session = await enterIn(transaction, person, from, { way: 'provider', factors: 2 });
    return { session, backTo: visit.backTo, touched };
  });
}

async function claimsBy(
  provider: ProviderSettings,
  returned: URL,
  state: string,
  { nonce, verifier }: { readonly nonce: string; readonly verifier: string },
): Promise<Claims> {
  const config = await configured(provider);
  const address = new URL(returnAddress());
  address.search = returned.search;
  const tokens = await client.authorizationCodeGrant(config, address, {
    ...{ pkceCodeVerifier: verifier, expectedState: state, expectedNonce: nonce, idTokenExpected: true },
  });
  const id = certain(tokens.claims());
  // What isn't in the ID token may be told where it is asked for.
  const more: Readonly<Record<string, unknown>> = config.serverMetadata().userinfo_endpoint
    ? await client.fetchUserInfo(config, tokens.access_token, id.sub)
    : {};
  const all: Readonly<Record<string, unknown>> = { ...more, ...id };
  const { groupsClaim } = provider;
  const listed = groupsClaim === null ? null : (all[groupsClaim] ?? []);
  return {
    ...{ issuer: id.iss, subject: id.sub, name: textOf(all.name) },
    email: all.email_verified === true ? textOf(all.email) : null,
    groups:
      listed === null
        ? null
        : (Array.isArray(listed) ? listed : [listed]).filter((one) => typeof one === 'string'),
  };
}

const textOf = (value: unknown): string | null =>
  typeof value === 'string' && value.trim() !== '' ? value.trim().slice(0, 254) : null;

/** Who somebody at the provider is here; an account is made where that is asked for. `null`: nobody. */
async function personOf(
  { makesPeople }: ProviderSettings,
  { issuer, subject, name, email }: Claims,
  { address }: Client,
  transaction: Transaction,
): Promise<string | null> {
  const [known] = await database().query<{ person: string }>(
    'SELECT person::text FROM provider_account WHERE issuer = $1 AND subject = $2',
    { bind: [issuer, subject], type: QueryTypes.SELECT, transaction },
  );
  if (known) return known.person;
  if (email === null) return null;
  const [same] = await database().query<{ id: string }>(
    'SELECT id::text FROM person WHERE lower(email) = lower($1) AND NOT is_service ORDER BY id LIMIT 1',
    { bind: [email], type: QueryTypes.SELECT, transaction },
  );
  if (!same && !makesPeople) return null;
  const person = same?.id ?? newId();
  if (!same) {
    await database().query(`INSERT INTO person (id, name, email, role) VALUES ($1, $2, $3, '')`, {
      ...{ bind: [person, name ?? email, email], transaction },
    });
    await noteSecurity({ kind: 'personAdded', person, data: { way: 'provider' } }, transaction);
  }
  await database().query('INSERT INTO provider_account (issuer, subject, person) VALUES ($1, $2, $3)', {
    ...{ bind: [issuer, subject, person], transaction },
  });
  await noteSecurity({ kind: 'providerLinked', person, address }, transaction);
  return person;
}
