import type { PasskeyView } from '@/core/api';
import { certain } from '@/core/values';
import {
  type AuthenticationResponseJSON,
  generateAuthenticationOptions,
  generateRegistrationOptions,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
  type RegistrationResponseJSON,
  verifyAuthenticationResponse,
  verifyRegistrationResponse,
} from '@simplewebauthn/server';
import { QueryTypes } from 'sequelize';
import { v4 as newHandle } from 'uuid';
import { database } from '@/server/database/connection';
import { log } from '@/server/log';
import { Refusal } from '@/server/refusal';
import { settings } from '@/server/settings';
import { hashOf } from './secrets';
import { noteSecurity } from './security-events';
import type { Client } from './sessions';
import { enter } from './sign-in';
import { tellOwner } from './told';

/** Minutes that one has to touch a key. */
const MINUTES = 5;
const MOST = 20;

/** Whose passkeys they are: a browser gives one to no other site. */
function site(): { readonly origin: string; readonly rpID: string } {
  const origin = certain(settings().origin);
  return { origin, rpID: new URL(origin).hostname };
}

const refused = (): Refusal =>
  new Refusal(
    403,
    'passkey.refused',
    'The passkey isn’t known here, or was used too late. Try again, or sign in another way.',
  );

/** Keeps what is to be signed; it is good once. */
async function keepChallenge(challenge: string, person: string | null): Promise<void> {
  await database().query(
    'INSERT INTO challenge (id, person, ends) VALUES ($1, $2, now() + make_interval(mins => $3))',
    { bind: [hashOf(challenge), person, MINUTES] },
  );
}

async function takeChallenge(challenge: string, person: string | null): Promise<boolean> {
  const taken = await database().query(
    'DELETE FROM challenge WHERE id = $1 AND person IS NOT DISTINCT FROM $2::uuid AND ends > now() RETURNING 1',
    { bind: [hashOf(challenge), person], type: QueryTypes.SELECT },
  );
  return taken.length > 0;
}

/** One's own passkeys, the newest first. */
export async function passkeysOf(person: string): Promise<PasskeyView[]> {
  const found = await database().query<PasskeyView & { made: Date; used: Date | null }>(
    'SELECT handle::text, name, made, used FROM passkey WHERE person = $1 ORDER BY made DESC, handle',
    { bind: [person], type: QueryTypes.SELECT },
  );
  return found.map((one) => ({
    ...one,
    ...{ made: one.made.toISOString(), used: one.used?.toISOString() ?? null },
  }));
}

/** What a browser is to make a passkey by, for somebody who is signed in. It stays with the key who it is for, and a finger or a PIN is asked each time. */
export async function newPasskeyOptions(person: string): Promise<PublicKeyCredentialCreationOptionsJSON> {
  const [about] = await database().query<{ name: string; email: string; known: string[] }>(
    'SELECT name, email, ARRAY(SELECT id FROM passkey WHERE person = p.id) AS known FROM person p WHERE id = $1',
    { bind: [person], type: QueryTypes.SELECT },
  );
  const { name, email, known } = certain(about);
  if (known.length >= MOST)
    throw new Refusal(
      409,
      'passkey.most',
      `You have ${MOST} passkeys already. Remove one that isn’t used any more first.`,
    );
  const options = await generateRegistrationOptions({
    ...{ rpName: 'Oikon', rpID: site().rpID, userName: email, userDisplayName: name },
    userID: new Uint8Array(Buffer.from(person.replace(/-/g, ''), 'hex')),
    excludeCredentials: known.map((id) => ({ id })),
    attestationType: 'none',
    authenticatorSelection: { residentKey: 'required', userVerification: 'required' },
  });
  await keepChallenge(options.challenge, person);
  return options;
}

/** Keeps a passkey that a browser has made. */
export async function keepPasskey(
  person: string,
  { name, response }: { readonly name: string; readonly response: RegistrationResponseJSON },
  { address }: Client,
): Promise<void> {
  const { origin, rpID } = site();
  const made = await verifyRegistrationResponse({
    ...{ response, expectedOrigin: origin, expectedRPID: rpID },
    expectedChallenge: (challenge) => takeChallenge(challenge, person),
  }).catch(noteRefused);
  if (!made?.verified) throw refused();
  const { id, publicKey, counter, transports = [] } = made.registrationInfo.credential;
  await database().transaction(async (transaction) => {
    const [kept] = await database().query(
      `INSERT INTO passkey (id, handle, person, name, public_key, counter, transports) VALUES ($1, $2, $3, $4, $5, $6, $7)
        ON CONFLICT DO NOTHING RETURNING 1`,
      {
        bind: [id, newHandle(), person, name, Buffer.from(publicKey), counter, transports],
        ...{ type: QueryTypes.SELECT, transaction },
      },
    );
    if (!kept) throw refused();
    await noteSecurity({ kind: 'passkeyMade', person, address, data: { name } }, transaction);
  });
  tellOwner(person, 'passkey');
}

/** Removes one of one's own passkeys. Answers whether there was one. */
export async function removePasskey(person: string, handle: string): Promise<boolean> {
  const removed = await database().query<{ name: string }>(
    'DELETE FROM passkey WHERE person = $1 AND handle = $2 RETURNING name',
    { bind: [person, handle], type: QueryTypes.SELECT },
  );
  for (const { name } of removed) await noteSecurity({ kind: 'passkeyRemoved', person, data: { name } });
  return removed.length > 0;
}

/** What a browser is to sign with a passkey. Whose it is, the key says: nobody is asked for. */
export async function passkeyOptions(): Promise<PublicKeyCredentialRequestOptionsJSON> {
  const options = await generateAuthenticationOptions({ rpID: site().rpID, userVerification: 'required' });
  await keepChallenge(options.challenge, null);
  return options;
}

interface Kept {
  readonly person: string;
  readonly publicKey: Buffer;
  readonly counter: string;
}

/** Signs in whoever has a passkey; answers what the browser keeps. */
export async function signInByPasskey(response: AuthenticationResponseJSON, client: Client): Promise<string> {
  const [kept] = await database().query<Kept>(
    'SELECT person::text, public_key AS "publicKey", counter::text FROM passkey WHERE id = $1',
    { bind: [response.id], type: QueryTypes.SELECT },
  );
  if (!kept) throw refused();
  const { origin, rpID } = site();
  const shown = await verifyAuthenticationResponse({
    ...{ response, expectedOrigin: origin, expectedRPID: rpID },
    expectedChallenge: (challenge) => takeChallenge(challenge, null),
    credential: {
      ...{ id: response.id, publicKey: new Uint8Array(kept.publicKey), counter: Number(kept.counter) },
    },
  }).catch(noteRefused);
  if (!shown?.verified) {
    await noteSecurity({ kind: 'signInFailed', person: kept.person, address: client.address });
    throw refused();
  }
  await database().query('UPDATE passkey SET counter = $2, used = clock_timestamp() WHERE id = $1', {
    bind: [response.id, shown.authenticationInfo.newCounter],
  });
  return enter(kept.person, client, { way: 'passkey', factors: 2 });
}

/** What is wrong with a passkey is told to operators only. */
function noteRefused(error: unknown): null {
  log.warn({ err: error }, 'a passkey was refused');
  return null;
}
