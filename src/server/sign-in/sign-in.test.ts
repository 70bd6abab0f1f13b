import { QueryTypes } from 'sequelize';
import { database, disconnect } from '@/server/database/connection';
import { migrateInstallation } from '@/server/database/migrate';
import { refusal } from '@/server/testing/refusal';
import { choosePassword, makeFirstAdministrator, welcomeOf } from './choose-password';
import { forgetLimiters } from './held-back';
import { makeOneTime } from './one-time';
import { hashPassword, isPassword, whyNot } from './passwords';
import { beginSession, endSession, endSessions, sessionsOf, signedInBy, sweepSessions } from './sessions';
import { changePassword, signIn } from './sign-in';

const ADA = { name: 'Ada Wren', email: `ada-${process.pid}@choir.example` };
const PASSWORD = 'nine geese over the weir';
const person = `00000000-0000-7000-8000-${String(process.pid).padStart(12, '0')}`;
const BY_PASSWORD = { way: 'password', factors: 1 } as const;
let number = 0;
/** Each test comes from an address of its own: who waits is counted by it. */
const client = () => ({ address: `192.0.2.${(number += 1)}-${process.pid}`, agent: 'Test' });

const run = (text: string, bind: unknown[] = []) =>
  database().query<Record<string, unknown>>(text, { bind, type: QueryTypes.SELECT });

beforeAll(async () => {
  await migrateInstallation();
  await run('INSERT INTO person (id, name, email, role, password) VALUES ($1, $2, $3, $4, $5)', [
    ...[person, ADA.name, ADA.email, 'Singer', await hashPassword(PASSWORD)],
  ]);
});
afterAll(async () => {
  await run('DELETE FROM person WHERE id = $1 OR email LIKE $2', [person, `%-${process.pid}@choir.example`]);
  forgetLimiters();
  await disconnect();
});

test('a password is kept as argon2id makes it, and is none of those that are tried first', async () => {
  const made = await hashPassword(PASSWORD);
  expect(made).toMatch(/^\$argon2id\$v=19\$m=19456,t=2,p=1\$/);
  expect(await isPassword(made, PASSWORD)).toBe(true);
  expect(await isPassword(made, `${PASSWORD} `)).toBe(false);
  expect(await isPassword(null, 'what nobody has chosen for a password')).toBe(false);
  // The same letters, composed and not.
  expect(await isPassword(await hashPassword('café at the old weir'), 'café at the old weir')).toBe(true);
});

test.each([
  ['nine geese', /12 to 128 characters, found 10/],
  ['x'.repeat(129), /found 129/],
  ['qwerty123456', /tried first/],
  ['Leavemealone!!', /tried first/],
  ['aaaaaaaaaaaaaa', /tried first/],
  ['Ada Wren 2026', /more than one’s name/],
  [PASSWORD, null],
  ['𝔘𝔫𝔦𝔠𝔬𝔡𝔢 ist auch gut', null],
])('whether “%s” can be chosen', (password, why) => {
  const found = whyNot(password, { name: 'Ada Wren', email: 'ada@choir.example' });
  if (why) expect(found).toMatch(why);
  else expect(found).toBeNull();
});

test('who signs in is who they are until the session ends, wherever that is done', async () => {
  const secret = await signIn({ email: ADA.email.toUpperCase(), password: PASSWORD }, client());
  const signedIn = await signedInBy(secret);
  expect(signedIn).toMatchObject({ person, name: ADA.name, isOperator: false });
  const stored = await run('SELECT encode(id, $2) AS id FROM session WHERE person = $1', [person, 'escape']);
  expect(JSON.stringify(stored)).not.toContain(secret);
  const [first] = await sessionsOf(person);
  expect(first).toMatchObject({ handle: signedIn!.handle, agent: 'Test' });
  // Nobody ends another's.
  expect(await endSession('00000000-0000-7000-8000-0000000000aa', signedIn!.handle)).toBe(false);
  expect(await endSession(person, signedIn!.handle)).toBe(true);
  expect(await signedInBy(secret)).toBeNull();
});

test('a session ends by itself, unused or too old, and is swept', async () => {
  const unused = await beginSession(person, client(), BY_PASSWORD);
  const old = await beginSession(person, client(), BY_PASSWORD);
  const good = await beginSession(person, client(), BY_PASSWORD);
  await run(`UPDATE session SET used = now() - interval '31 minutes' WHERE handle = $1`, [
    (await signedInBy(unused))!.handle,
  ]);
  await run(`UPDATE session SET began = now() - interval '12 hours 1 minute' WHERE handle = $1`, [
    (await signedInBy(old))!.handle,
  ]);
  expect([await signedInBy(unused), await signedInBy(old)]).toEqual([null, null]);
  expect(await signedInBy(good)).not.toBeNull();
  await sweepSessions();
  expect(await run('SELECT 1 AS one FROM session WHERE person = $1', [person])).toHaveLength(1);
  expect(await endSessions(person)).toBe(1);
});

test('use is noted, not more often than once in a minute', async () => {
  const secret = await beginSession(person, client(), BY_PASSWORD);
  const { handle } = (await signedInBy(secret))!;
  await run(`UPDATE session SET used = now() - interval '10 minutes' WHERE handle = $1`, [handle]);
  await signedInBy(secret);
  const [session] = await sessionsOf(person);
  expect(Date.parse(session!.used)).toBeGreaterThan(Date.now() - 60_000);
  await endSessions(person);
});

test('whoever guesses waits, longer each time; the owner elsewhere doesn’t, and who isn’t there is told the same', async () => {
  const stranger = client();
  const guess = (email: string) => refusal(signIn({ email, password: 'a guess like any other' }, stranger));
  for (const email of [ADA.email, `nobody-${process.pid}@choir.example`]) {
    const told = [];
    for (let at = 0; at < 6; at += 1) told.push(await guess(email));
    expect(told.map(({ code }) => code)).toEqual([...Array<string>(5).fill('signIn.wrong'), 'signIn.wait']);
    expect(new Set(told.slice(0, 5).map(({ message }) => message)).size).toBe(1);
    expect(told[5]).toMatchObject({ status: 429, data: { retryAfter: expect.any(Number) as number } });
  }
  // The wait is over by itself, and the next is twice as long.
  await run('DELETE FROM rate_limit WHERE key LIKE $1 AND key LIKE $2', ['waits:%', `%${stranger.address}`]);
  expect((await guess(ADA.email)).code).toBe('signIn.wrong');
  expect((await guess(ADA.email)).data.retryAfter).toBe(2);
  expect(await signIn({ email: ADA.email, password: PASSWORD }, client())).toHaveLength(43);
  await endSessions(person);
});

test('many strangers together hold nobody back where they signed in before', async () => {
  const home = client();
  await signIn({ email: ADA.email, password: PASSWORD }, home);
  for (let at = 0; at < 25; at += 1)
    await refusal(signIn({ email: ADA.email, password: 'a guess like any other' }, client()));
  expect((await refusal(signIn({ email: ADA.email, password: PASSWORD }, client()))).code).toBe(
    'signIn.wait',
  );
  expect(await signIn({ email: ADA.email, password: PASSWORD }, home)).toHaveLength(43);
  await endSessions(person);
});

test('a password is chosen by an address that is good once, and ends what was signed in', async () => {
  const elsewhere = await beginSession(person, client(), BY_PASSWORD);
  const first = await makeOneTime({ kind: 'password', person }, 60);
  const secret = await makeOneTime({ kind: 'password', person }, 60);
  // The later address takes the place of the one before.
  expect((await refusal(welcomeOf(first))).code).toBe('oneTime.gone');
  expect(await welcomeOf(secret)).toEqual({ kind: 'password', ...ADA });
  expect((await refusal(choosePassword(secret, 'too short', client()))).code).toBe('password.weak');
  const next = 'eleven geese under the weir';
  expect(await signedInBy((await choosePassword(secret, next, client()))!)).toMatchObject({ person });
  expect(await signedInBy(elsewhere)).toBeNull();
  expect((await refusal(choosePassword(secret, next, client()))).code).toBe('oneTime.gone');
  expect(await signIn({ email: ADA.email, password: next }, client())).toHaveLength(43);
  await run('UPDATE person SET password = $2 WHERE id = $1', [person, await hashPassword(PASSWORD)]);
  await endSessions(person);
});

test('one changes one’s password by the one that one has; other sessions end', async () => {
  const from = client();
  const elsewhere = await beginSession(person, from, BY_PASSWORD);
  const next = 'twelve geese under the weir';
  const change = (password: string, to: string) =>
    changePassword({ person, ...BY_PASSWORD }, { password, next: to }, from);
  expect((await refusal(change('a guess like any other', next))).code).toBe('signIn.wrong');
  expect((await refusal(change(PASSWORD, 'short'))).code).toBe('password.weak');
  expect(await signedInBy(elsewhere)).not.toBeNull();
  const here = await change(PASSWORD, next);
  expect([await signedInBy(elsewhere), (await signedInBy(here))?.person]).toEqual([null, person]);
  for (let at = 0; at < 5; at += 1) await refusal(change('a guess like any other', PASSWORD));
  expect((await refusal(change(next, PASSWORD))).code).toBe('signIn.wait');
  await run('UPDATE person SET password = $2 WHERE id = $1', [person, await hashPassword(PASSWORD)]);
  await endSessions(person);
});

test('an address is good for its time only', async () => {
  const secret = await makeOneTime({ kind: 'password', person }, 60);
  await run(`UPDATE one_time SET ends = now() - interval '1 second' WHERE person = $1`, [person]);
  expect((await refusal(choosePassword(secret, PASSWORD, client()))).code).toBe('oneTime.gone');
});

test('of two who make the first administrator by one address, one does', async () => {
  const secret = await makeOneTime({ kind: 'administrator', person: null }, 60);
  const made = await Promise.allSettled(
    [1, 2].map((at) =>
      makeFirstAdministrator(
        secret,
        { name: 'Bo', email: `bo${at}-${process.pid}@choir.example`, password: PASSWORD },
        client(),
      ),
    ),
  );
  expect(made.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  const again = await makeOneTime({ kind: 'administrator', person: null }, 60);
  const taken = makeFirstAdministrator(again, { ...ADA, password: PASSWORD }, client());
  expect((await refusal(taken)).code).toBe('person.email');
});

test('the security ledger only grows', async () => {
  const events = await run('SELECT kind FROM security_event WHERE person = $1 ORDER BY id', [person]);
  const kinds = new Set(events.map(({ kind }) => kind));
  expect([...kinds].sort()).toEqual(['passwordChosen', 'signInFailed', 'signInHeldBack', 'signedIn']);
  for (const text of [
    'UPDATE security_event SET person = NULL',
    'DELETE FROM security_event',
    'TRUNCATE security_event',
  ])
    await expect(run(text)).rejects.toThrow('the security ledger only grows');
});

test('ten thousand guesses, from one address and from many, open nothing, and keep the owner out of nothing', async () => {
  const home = client();
  await signIn({ email: ADA.email, password: PASSWORD }, home);
  const codes = new Map<string, number>();
  const guess = async (at: number) => {
    // A quarter from one address, the others from a hundred.
    const address = `203.0.113.${at % 4 === 0 ? 0 : at % 100}-${process.pid}`;
    const tried = signIn(
      { email: ADA.email, password: `a guess, number ${at}` },
      { address, agent: 'Guess' },
    );
    const { code } = await refusal(tried);
    codes.set(code, (codes.get(code) ?? 0) + 1);
  };
  const GUESSES = 10_000;
  for (let at = 0; at < GUESSES; at += 20)
    await Promise.all(Array.from({ length: 20 }, (_, one) => guess(at + one)));
  expect([...codes.keys()].sort()).toEqual(['signIn.wait', 'signIn.wrong']);
  // All but a few weren't even looked at.
  expect(codes.get('signIn.wrong')).toBeLessThan(60);
  expect(await signIn({ email: ADA.email, password: PASSWORD }, home)).toHaveLength(43);
  expect(await sessionsOf(person)).toHaveLength(2);
  await endSessions(person);
});
