import { QueryTypes, type Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { hashOf, newSecret } from './secrets';

/** What an address that is good once is for. */
export type OneTime =
  | { readonly kind: 'administrator'; readonly person: null }
  | { readonly kind: 'password'; readonly person: string };

/** Makes what stands in an address that is good once, for so many minutes. Those of before for the same aren't good any more. */
export async function makeOneTime(
  { kind, person }: OneTime,
  minutes: number,
  transaction: Transaction | null = null,
): Promise<string> {
  const secret = newSecret();
  await database().query(
    `WITH gone AS (DELETE FROM one_time WHERE ends < now() OR kind = $2 AND person IS NOT DISTINCT FROM $3::uuid)
      INSERT INTO one_time (id, kind, person, ends) VALUES ($1, $2, $3::uuid, now() + make_interval(mins => $4))`,
    { bind: [hashOf(secret), kind, person, minutes], transaction },
  );
  return secret;
}

/** What an address is for, while it is good; `null` otherwise. */
export async function oneTimeOf(secret: string): Promise<OneTime | null> {
  const [found] = await database().query<OneTime>(
    'SELECT kind, person::text FROM one_time WHERE id = $1 AND ends > now()',
    { bind: [hashOf(secret)], type: QueryTypes.SELECT },
  );
  return found ?? null;
}

/** Takes an address up: it isn't good any more. `null` where it wasn't. */
export async function takeOneTime(secret: string, transaction: Transaction): Promise<OneTime | null> {
  const [found] = await database().query<OneTime>(
    'DELETE FROM one_time WHERE id = $1 AND ends > now() RETURNING kind, person::text',
    { bind: [hashOf(secret)], type: QueryTypes.SELECT, transaction },
  );
  return found ?? null;
}
