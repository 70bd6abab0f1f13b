import { randomBytes } from 'node:crypto';
import { type ChildProcess, spawn } from 'node:child_process';
import { createServer } from 'node:net';
import { Secret, TOTP } from 'otpauth';
import { QueryTypes } from 'sequelize';
import { database, disconnect } from '@/server/database/connection';
import { migrateInstallation } from '@/server/database/migrate';
import type { Message } from '@/server/messages/message-service';
import type { ProviderSettings } from '@/server/outside-settings';
import { forgetSettings } from '@/server/settings';
import { refusal } from '@/server/testing/refusal';
import { choosePassword } from './choose-password';
import { sendForgotten } from './forgotten';
import { forgetLimiters } from './held-back';
import { makeOneTime } from './one-time';
import { hashPassword } from './passwords';
import { beginVisit, forgetProvider, returnFromVisit } from './provider';
import { seal, unseal } from './sealed';
import {
  beginSecondFactor,
  confirmSecondFactor,
  hasSecondFactor,
  removeSecondFactor,
  secondFactorOf,
  takeCode,
} from './second-factor';
import { beginSession, endSessions, renewSession, sessionBy, signedInBy } from './sessions';
import { signIn } from './sign-in';

const EMAIL = `ways-${process.pid}@choir.example`;
const PASSWORD = 'nine geese over the weir';
const person = `00000000-0000-7000-8000-1${String(process.pid).padStart(11, '0')}`;
let number = 0;
const client = () => ({ address: `198.51.100.${(number += 1)}-${process.pid}`, agent: 'Test' });
const run = (text: string, bind: unknown[] = []) =>
  database().query<Record<string, unknown>>(text, { bind, type: QueryTypes.SELECT });
const BY_PASSWORD = { way: 'password', factors: 1 } as const;

beforeAll(async () => {
  process.env.OIKON_DEMO = '';
  process.env.OIKON_ORIGIN = 'http://127.0.0.1:4410';
  process.env.OIKON_KEY = randomBytes(32).toString('base64');
  forgetSettings();
  await migrateInstallation();
  await run('INSERT INTO person (id, name, email, role, password) VALUES ($1, $2, $3, $4, $5)', [
    ...[person, 'Wyn Ways', EMAIL, 'Singer', await hashPassword(PASSWORD)],
  ]);
});
afterAll(async () => {
  await run('DELETE FROM person WHERE id = $1 OR email LIKE $2', [person, `%-${process.pid}@choir.example`]);
  process.env.OIKON_DEMO = '1';
  delete process.env.OIKON_ORIGIN;
  delete process.env.OIKON_KEY;
  forgetSettings();
  forgetLimiters();
  await disconnect();
});

test('what is sealed is read back with the same key, and as what it is about', () => {
  const what = Buffer.from('twenty bytes of chance');
  const sealed = seal(what, person);
  expect(sealed.includes(what)).toBe(false);
  expect(seal(what, person)).not.toEqual(sealed);
  expect(unseal(sealed, person)).toEqual(what);
  expect(() => unseal(sealed, EMAIL)).toThrow();
  const bent = Buffer.from(sealed);
  bent[bent.length - 1]! ^= 1;
  expect(() => unseal(bent, person)).toThrow();
});

test('a session gets another id once its person may something else; for a moment the one before is good', async () => {
  const secret = await beginSession(person, client(), BY_PASSWORD);
  expect(await sessionBy(secret, null)).toMatchObject({ isChanged: false });
  await run('UPDATE person SET rights_changed = clock_timestamp() WHERE id = $1', [person]);
  expect(await sessionBy(secret, null)).toMatchObject({ signedIn: { person }, isChanged: true });
  // Of two requests that see it one renews it.
  const renewed = await Promise.all([renewSession(secret), renewSession(secret)]);
  const next = renewed.filter((one) => one !== null);
  expect(next).toHaveLength(1);
  expect(await sessionBy(secret, null)).toMatchObject({ signedIn: { person }, isChanged: false });
  expect(await sessionBy(next[0]!, null)).toMatchObject({ signedIn: { person }, isChanged: false });
  await run(`UPDATE session SET renewed = now() - interval '31 seconds' WHERE person = $1`, [person]);
  expect(await signedInBy(secret)).toBeNull();
  expect(await signedInBy(next[0]!)).toMatchObject({ person });
  await endSessions(person);
});

test('a second step: shown to work, asked for after the password alone, each code good once', async () => {
  expect(await secondFactorOf(person)).toEqual({ isPossible: true, isSet: false, spare: 0 });
  await beginSecondFactor(person);
  const { address, secret } = await beginSecondFactor(person);
  expect(address).toMatch(/^otpauth:\/\/totp\/Oikon:ways-/);
  const totp = new TOTP({ secret: Secret.fromBase32(secret) });
  const code = (from = 0) => totp.generate({ timestamp: Date.now() + from * 30_000 });
  const wrong = code() === '000000' ? '111111' : '000000';
  expect((await refusal(confirmSecondFactor(person, wrong, client()))).code).toBe('secondFactor.wrong');
  // Not before it was shown to work.
  expect(await hasSecondFactor(person)).toBe(false);
  const elsewhere = await beginSession(person, client(), BY_PASSWORD);
  const { session, spare } = await confirmSecondFactor(person, code(-1), client());
  expect(await signedInBy(session)).toMatchObject({ person, factors: 2 });
  expect(await signedInBy(elsewhere)).toBeNull();
  expect(await secondFactorOf(person)).toEqual({ isPossible: true, isSet: true, spare: 8 });
  expect((await refusal(beginSecondFactor(person))).code).toBe('secondFactor.set');

  const enter = (given: string | undefined, password = PASSWORD) =>
    signIn({ email: EMAIL, password, ...(given === undefined ? {} : { code: given }) }, client());
  expect((await refusal(enter(undefined))).code).toBe('signIn.code');
  // Whoever hasn't the password isn't told that a code is wanted, nor whether one is right.
  expect((await refusal(enter(undefined, 'not the password at all'))).code).toBe('signIn.wrong');
  expect((await refusal(enter(code(), 'not the password at all'))).code).toBe('signIn.wrong');
  expect((await refusal(enter(wrong))).code).toBe('secondFactor.wrong');
  const now = code();
  expect(await signedInBy(await enter(now))).toMatchObject({ factors: 2 });
  expect((await refusal(enter(now))).code).toBe('secondFactor.wrong');
  expect(await takeCode(person, code(-1))).toBe(false);
  expect(await signedInBy(await enter(` ${spare[0]!.toUpperCase()} `))).toMatchObject({ factors: 2 });
  expect((await refusal(enter(spare[0]))).code).toBe('secondFactor.wrong');
  expect(await secondFactorOf(person)).toMatchObject({ spare: 7 });

  // By an address that is good once one chooses a password, and doesn't come in without the code.
  const once = await makeOneTime({ kind: 'password', person }, 5);
  expect(await choosePassword(once, PASSWORD, client())).toBeNull();

  const [kept] = await run('SELECT secret FROM second_factor WHERE person = $1', [person]);
  expect((kept!.secret as Buffer).includes(Buffer.from(Secret.fromBase32(secret).bytes))).toBe(false);
  await removeSecondFactor(person, person, client());
  expect(await signedInBy(await enter(undefined))).toMatchObject({ factors: 1 });
  await endSessions(person);
});

test('without a key of the installation’s own no second step is kept', async () => {
  const { OIKON_KEY } = process.env;
  delete process.env.OIKON_KEY;
  forgetSettings();
  expect((await secondFactorOf(person)).isPossible).toBe(false);
  expect((await refusal(beginSecondFactor(person))).code).toBe('key.missing');
  process.env.OIKON_KEY = OIKON_KEY;
  forgetSettings();
});

test('whoever has forgotten their password is sent an address; of an account that there isn’t, nothing; and not too often', async () => {
  const sent: Message[] = [];
  let arrived = (): void => undefined;
  const service = {
    name: 'caught',
    send: (message: Message) => {
      sent.push(message);
      arrived();
      return Promise.resolve();
    },
  };
  const from = client();
  await sendForgotten(`nobody-${process.pid}@choir.example`, from, service);
  for (let tried = 1; tried <= 5; tried += 1) {
    const next = new Promise<void>((resolve) => (arrived = resolve));
    await sendForgotten(EMAIL.toUpperCase(), from, service);
    // It is written after the answer; the address that is made last is the one that is good.
    if (tried <= 3) await next;
  }
  expect(sent.map(({ to }) => to.email)).toEqual([EMAIL, EMAIL, EMAIL]);
  const [, secret] = /http:\/\/127\.0\.0\.1:4410\/welcome#([\w-]{43})/.exec(sent.at(-1)!.body) ?? [];
  expect(await signedInBy((await choosePassword(secret!, PASSWORD, client()))!)).toMatchObject({ person });
  for (let tried = 7; tried <= 20; tried += 1)
    await sendForgotten(`nobody-${tried}-${process.pid}@choir.example`, from, service);
  expect((await refusal(sendForgotten(EMAIL, from, service))).code).toBe('signIn.wait');
  expect(sent).toHaveLength(3);
  await endSessions(person);
});

describe('the company’s sign-in', () => {
  let standIn: ChildProcess;
  let provider: ProviderSettings;

  beforeAll(async () => {
    const port = await new Promise<number>((resolve) => {
      const probe = createServer().listen(0, '127.0.0.1', () => {
        const address = probe.address() as { port: number };
        probe.close(() => resolve(address.port));
      });
    });
    standIn = spawn(
      process.execPath,
      ['--import', 'tsx', 'src/standins/serve-company-sign-in.ts', String(port)],
      {
        env: { ...process.env, OIKON_ORIGIN: 'http://127.0.0.1:4410' },
        stdio: ['ignore', 'pipe', 'inherit'],
      },
    );
    await new Promise((resolve) => standIn.stdout!.once('data', resolve));
    provider = {
      ...{ issuer: `http://127.0.0.1:${port}`, client: 'oikon', secret: 'a secret of a stand-in' },
      ...{ name: 'the stand-in', makesPeople: true, groupsClaim: 'groups' },
    };
  });
  afterAll(async () => {
    const ended = new Promise((resolve) => standIn.once('exit', resolve));
    standIn.kill();
    await ended;
    forgetProvider();
    await run(`DELETE FROM person WHERE email IN ('orla@choir.example', 'piet@choir.example')`);
    await run('DELETE FROM people_group WHERE claim = $1', ['registrars']);
  });

  /** What a browser does: goes there, chooses somebody, and is led back; answers where to. */
  async function goAs(subject: string, address: string): Promise<URL> {
    const kept = new Map<string, string>();
    let at = address;
    for (;;) {
      const response = await fetch(at, {
        redirect: 'manual',
        headers: { cookie: [...kept].map(([name, value]) => `${name}=${value}`).join('; ') },
      });
      for (const one of response.headers.getSetCookie()) {
        const [, name, value] = /^([^=]+)=([^;]*)/.exec(one)!;
        kept.set(name!, value!);
      }
      const to = response.headers.get('location');
      if (to === null) {
        at = `${at}?as=${subject}`;
        continue;
      }
      at = new URL(to, at).href;
      if (at.startsWith('http://127.0.0.1:4410/')) return new URL(at);
    }
  }

  const visit = async (subject: string, more: Partial<ProviderSettings> = {}) => {
    const { address, state } = await beginVisit(provider, '/w/choir/today');
    return returnFromVisit({ ...provider, ...more }, await goAs(subject, address), state, client());
  };

  test('it makes people and puts them into groups, and knows them again', async () => {
    await run(`INSERT INTO people_group (id, name, claim) VALUES (gen_random_uuid(), $1, 'registrars')`, [
      `Registrars by sign-in ${process.pid}`,
    ]);
    expect(await visit('orla', { makesPeople: false })).toEqual({ whyNot: 'unknown' });
    const came = await visit('orla');
    if ('whyNot' in came) throw new Error(came.whyNot);
    expect(came.backTo).toBe('/w/choir/today');
    const orla = await signedInBy(came.session);
    expect(orla).toMatchObject({ name: 'Orla Finch', way: 'provider', factors: 2, isOperator: false });
    const groups = () =>
      run(
        'SELECT g.claim FROM group_member m JOIN people_group g ON g.id = m.group_id WHERE m.person_id = $1',
        [orla!.person],
      );
    expect(await groups()).toEqual([{ claim: 'registrars' }]);
    await run('UPDATE person SET email = $2 WHERE id = $1', [
      orla!.person,
      `orla-${process.pid}@choir.example`,
    ]);
    const again = await visit('orla', { makesPeople: false });
    if ('whyNot' in again) throw new Error(again.whyNot);
    expect((await signedInBy(again.session))?.person).toBe(orla!.person);
  });

  test('who is here already is known by an e-mail that it vouches for, and by no other', async () => {
    await run('UPDATE person SET email = $2 WHERE id = $1', [person, 'PIET@choir.example']);
    const came = await visit('piet', { makesPeople: false });
    if ('whyNot' in came) throw new Error(came.whyNot);
    expect((await signedInBy(came.session))?.person).toBe(person);
    await run('UPDATE person SET email = $2 WHERE id = $1', [person, 'quin@choir.example']);
    expect(await visit('quin')).toEqual({ whyNot: 'unknown' });
    await run('UPDATE person SET email = $2 WHERE id = $1', [person, EMAIL]);
  });

  test('whoever comes back otherwise than they went isn’t let in', async () => {
    const { address, state } = await beginVisit(provider, '/');
    const back = await goAs('orla', address);
    // Another browser, which went nowhere; or went elsewhere.
    expect(await returnFromVisit(provider, back, null, client())).toEqual({ whyNot: 'failed' });
    const other = await beginVisit(provider, '/');
    expect(await returnFromVisit(provider, back, other.state, client())).toEqual({ whyNot: 'failed' });
    const bent = new URL(back);
    bent.searchParams.set('code', 'made-up');
    expect(await returnFromVisit(provider, bent, state, client())).toEqual({ whyNot: 'failed' });
    // A visit is over with its return, however that went.
    expect(await returnFromVisit(provider, back, state, client())).toEqual({ whyNot: 'failed' });
    const { address: refused, state: kept } = await beginVisit(provider, '/');
    expect(await returnFromVisit(provider, await goAs('nobody', refused), kept, client())).toEqual({
      whyNot: 'failed',
    });
  });
});
