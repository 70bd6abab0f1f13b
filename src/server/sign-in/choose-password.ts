import { QueryTypes } from 'sequelize';
import { v7 as newId } from 'uuid';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { forgetFailures } from './held-back';
import { type OneTime, oneTimeOf, takeOneTime } from './one-time';
import { hashPassword, whyNot } from './passwords';
import { hasSecondFactor } from './second-factor';
import { noteSecurity } from './security-events';
import { tellOwner } from './told';
import { type Client, endSessions } from './sessions';
import { enterIn } from './sign-in';

/** Minutes for which the first administrator's address is good. */
const FIRST = 60;
export { FIRST as FIRST_MINUTES };

const BY_PASSWORD = { way: 'password', factors: 1 } as const;

export interface FirstAdministrator {
  readonly name: string;
  readonly email: string;
  readonly password: string;
}

const gone = (): Refusal =>
  new Refusal(
    404,
    'oneTime.gone',
    'This address isn’t good any more: it was used already, or its time is over. Ask for another.',
  );

/** What an address that is good once is for, and whose password is chosen by it. */
export async function welcomeOf(
  secret: string,
): Promise<{ readonly kind: OneTime['kind']; readonly name: string | null; readonly email: string | null }> {
  const found = await oneTimeOf(secret);
  if (!found) throw gone();
  if (found.kind === 'administrator') return { kind: found.kind, name: null, email: null };
  const { name, email } = await personBy(found.person);
  return { kind: found.kind, name, email };
}

async function personBy(id: string): Promise<{ readonly name: string; readonly email: string }> {
  const [found] = await database().query<{ name: string; email: string }>(
    'SELECT name, email FROM person WHERE id = $1',
    { bind: [id], type: QueryTypes.SELECT },
  );
  if (!found) throw gone();
  return found;
}

/** Whether anybody can sign in to see to the installation. */
export async function hasAdministrator(): Promise<boolean> {
  const found = await database().query(
    'SELECT 1 FROM person WHERE is_operator AND password IS NOT NULL LIMIT 1',
    { type: QueryTypes.SELECT },
  );
  return found.length > 0;
}

/** The first administrator makes their account, and is signed in. Nobody does so twice. */
export async function makeFirstAdministrator(
  secret: string,
  { name, email, password }: FirstAdministrator,
  client: Client,
): Promise<string> {
  const why = whyNot(password, { name, email });
  if (why) throw new Refusal(422, 'password.weak', why);
  const made = await hashPassword(password);
  return database().transaction(async (transaction) => {
    const address = await takeOneTime(secret, transaction);
    if (address?.kind !== 'administrator') throw gone();
    const [taken] = await database().query('SELECT 1 FROM person WHERE lower(email) = lower($1)', {
      ...{ bind: [email.trim()], type: QueryTypes.SELECT, transaction },
    });
    if (taken)
      throw new Refusal(409, 'person.email', 'There is somebody with this e-mail already. Give your own.');
    const id = newId();
    await database().query(
      `INSERT INTO person (id, name, email, role, password, is_operator) VALUES ($1, $2, $3, 'Administrator', $4, true)`,
      { bind: [id, name.trim(), email.trim(), made], transaction },
    );
    await noteSecurity({ kind: 'administratorMade', person: id, address: client.address }, transaction);
    return enterIn(transaction, id, client, BY_PASSWORD);
  });
}

/** Somebody chooses a password by an address that is good once: their sessions elsewhere end, and they are signed in here; who gives a second step does so first (`null`). */
export async function choosePassword(
  secret: string,
  password: string,
  client: Client,
): Promise<string | null> {
  const known = await oneTimeOf(secret);
  if (known?.kind !== 'password') throw gone();
  const about = await personBy(known.person);
  const why = whyNot(password, about);
  if (why) throw new Refusal(422, 'password.weak', why);
  const made = await hashPassword(password);
  const isSecond = await hasSecondFactor(known.person);
  // Strangers who guessed hold nobody back who has shown that the account is theirs.
  await forgetFailures({ email: about.email, address: client.address, isKnown: false });
  const session = await database().transaction(async (transaction) => {
    const address = await takeOneTime(secret, transaction);
    if (address?.kind !== 'password') throw gone();
    const { person } = address;
    await database().query('UPDATE person SET password = $2 WHERE id = $1', {
      ...{ bind: [person, made], transaction },
    });
    await endSessions(person, transaction);
    await noteSecurity({ kind: 'passwordChosen', person, address: client.address }, transaction);
    return isSecond ? null : enterIn(transaction, person, client, BY_PASSWORD);
  });
  tellOwner(known.person, 'password');
  return session;
}
