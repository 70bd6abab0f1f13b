import { randomInt } from 'node:crypto';
import type { SecondFactorView } from '@/core/api';
import { Secret, TOTP } from 'otpauth';
import { QueryTypes, type Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { canSeal, seal, unseal } from './sealed';
import { hashOf } from './secrets';
import { noteSecurity } from './security-events';
import { tellOwner } from './told';
import { beginSession, type Client, endSessions } from './sessions';

/** Seconds for which a code of the moment is good; one before and one after are taken too (RFC 6238, 5.2). */
const PERIOD = 30;
/** Codes that are good once, for who has lost the other. */
const SPARE = 8;
/** Letters and digits that aren't taken for each other. */
const LETTERS = 'abcdefghjkmnpqrstuvwxyz23456789';

const codesOf = (secret: Secret, label = ''): TOTP =>
  new TOTP({ issuer: 'Oikon', label, secret, algorithm: 'SHA1', digits: 6, period: PERIOD });

interface Kept {
  readonly secret: Buffer;
  readonly confirmed: Date | null;
  readonly step: string;
}

async function keptOf(person: string, transaction: Transaction | null = null): Promise<Kept | null> {
  const [found] = await database().query<Kept>(
    `SELECT secret, confirmed, step::text FROM second_factor WHERE person = $1 ${transaction ? 'FOR UPDATE' : ''}`,
    { bind: [person], type: QueryTypes.SELECT, transaction },
  );
  return found ?? null;
}

/** Whether somebody gives a second step after their password. */
export const hasSecondFactor = async (person: string): Promise<boolean> =>
  ((await keptOf(person))?.confirmed ?? null) !== null;

/** What a person has of a second step. */
export async function secondFactorOf(person: string): Promise<SecondFactorView> {
  const [found] = await database().query<{ isSet: boolean; spare: number }>(
    'SELECT confirmed IS NOT NULL AS "isSet", cardinality(spare) AS spare FROM second_factor WHERE person = $1',
    { bind: [person], type: QueryTypes.SELECT },
  );
  return { isPossible: canSeal(), isSet: found?.isSet ?? false, spare: found?.isSet ? found.spare : 0 };
}

/** Begins to set up a second step: what a phone keeps, as an address (`otpauth://`) and as it is typed. It isn't asked for before a code is given. */
export async function beginSecondFactor(
  person: string,
): Promise<{ readonly address: string; readonly secret: string }> {
  const [about] = await database().query<{ email: string }>('SELECT email FROM person WHERE id = $1', {
    ...{ bind: [person], type: QueryTypes.SELECT },
  });
  const secret = new Secret({ size: 20 });
  const [begun] = await database().query(
    `INSERT INTO second_factor AS f (person, secret) VALUES ($1, $2)
      ON CONFLICT (person) DO UPDATE SET secret = EXCLUDED.secret, step = 0 WHERE f.confirmed IS NULL RETURNING 1`,
    { bind: [person, seal(Buffer.from(secret.bytes), person)], type: QueryTypes.SELECT },
  );
  if (!begun)
    throw new Refusal(
      409,
      'secondFactor.set',
      'You have a second step already. Take it away first, with a code of it.',
    );
  return { address: codesOf(secret, about?.email).toString(), secret: secret.base32 };
}

/** A second step counts from now on: sessions elsewhere end, this one is by two factors. Answers codes that are good once each, told once. */
export async function confirmSecondFactor(
  person: string,
  code: string,
  client: Client,
): Promise<{ readonly session: string; readonly spare: readonly string[] }> {
  const confirmed = await database().transaction(async (transaction) => {
    const kept = await keptOf(person, transaction);
    if (!kept || kept.confirmed)
      throw new Refusal(409, 'secondFactor.set', 'Nothing is being set up. Begin again.');
    const step = stepOf(kept, person, code);
    if (step === null) throw wrongCode();
    const spare = Array.from({ length: SPARE }, newSpare);
    await database().query(
      'UPDATE second_factor SET confirmed = clock_timestamp(), step = $2, spare = $3 WHERE person = $1',
      { bind: [person, step, spare.map(hashOf)], transaction },
    );
    await endSessions(person, transaction);
    await noteSecurity({ kind: 'secondFactorSet', person, address: client.address }, transaction);
    const session = await beginSession(person, client, { way: 'password', factors: 2 }, transaction);
    return { session, spare };
  });
  tellOwner(person, 'secondFactor');
  return confirmed;
}

const newSpare = (): string =>
  [0, 1]
    .map(() => Array.from({ length: 5 }, () => LETTERS.charAt(randomInt(LETTERS.length))).join(''))
    .join('-');

export const wrongCode = (): Refusal =>
  new Refusal(
    403,
    'secondFactor.wrong',
    'This isn’t the code of the moment. Each is good once, for half a minute: wait for the next one, and check the clock of your phone.',
  );

/** The step of a code that is good now and wasn't taken before; else `null`. */
function stepOf({ secret, step }: Kept, person: string, code: string): number | null {
  const codes = codesOf(new Secret({ buffer: new Uint8Array(unseal(secret, person)).buffer }));
  const delta = codes.validate({ token: code.replace(/\s/g, ''), window: 1 });
  if (delta === null) return null;
  const found = codes.counter() + delta;
  return found > Number(step) ? found : null;
}

/** Whether a code is good: of the moment, or a spare one; either is taken once. */
export async function takeCode(person: string, code: string): Promise<boolean> {
  return database().transaction(async (transaction) => {
    const kept = await keptOf(person, transaction);
    if (!kept?.confirmed) return false;
    const step = stepOf(kept, person, code);
    if (step !== null) {
      const bind = [person, step];
      await database().query('UPDATE second_factor SET step = $2 WHERE person = $1', { bind, transaction });
      return true;
    }
    const spare = hashOf(code.trim().toLowerCase());
    const taken = await database().query(
      'UPDATE second_factor SET spare = array_remove(spare, $2) WHERE person = $1 AND $2 = ANY (spare) RETURNING 1',
      { bind: [person, spare], type: QueryTypes.SELECT, transaction },
    );
    if (taken.length === 0) return false;
    await noteSecurity({ kind: 'spareCodeTaken', person }, transaction);
    return true;
  });
}

/** Takes somebody's second step away: their own, shown by a code, or by an operator for who has lost it. Their sessions elsewhere end. */
export async function removeSecondFactor(person: string, by: string, client: Client): Promise<void> {
  await database().transaction(async (transaction) => {
    await database().query('DELETE FROM second_factor WHERE person = $1', { bind: [person], transaction });
    await endSessions(person, transaction);
    const data = by === person ? {} : { by };
    const event = { kind: 'secondFactorRemoved', person, address: client.address, data } as const;
    await noteSecurity(event, transaction);
  });
  tellOwner(person, 'noSecondFactor');
}
