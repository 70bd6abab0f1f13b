import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readSettings, WrongSettings } from './settings';

const FULL = { OIKON_ORIGIN: 'https://oikon.example.org', DATABASE_URL: 'postgres://a:b@host/name' };

const wrongIn = (env: Record<string, string>): readonly string[] => {
  try {
    readSettings(env);
    return [];
  } catch (error) {
    if (error instanceof WrongSettings) return error.lines;
    throw error;
  }
};

test('an origin and a database are enough: it listens on loopback, trusts no proxy and isn’t a demo', () => {
  const settings = readSettings(FULL);
  expect(settings).toMatchObject({
    ...{ isDemo: false, origin: 'https://oikon.example.org', host: '127.0.0.1', port: 4410 },
    databaseUrl: FULL.DATABASE_URL,
  });
  expect(settings.trusts('10.0.0.2', 0)).toBe(false);
});

test('everything that is wrong is said at once, with what was expected and found', () => {
  expect(wrongIn({ OIKON_BIND: 'here', OIKON_TRUSTED_PROXIES: '10.0.0.0/99' })).toEqual([
    expect.stringMatching(/^OIKON_BIND should be a port, .* found “here”\.$/),
    expect.stringMatching(/^OIKON_ORIGIN should be where people open Oikon, .* it isn’t set\.$/),
    expect.stringMatching(/^OIKON_TRUSTED_PROXIES should be addresses .* found “10\.0\.0\.0\/99”/),
    expect.stringMatching(/^DATABASE_URL should be the address of a PostgreSQL 15 server.* it isn’t set/),
  ]);
});

test.each([
  ['http://oikon.example.org', /without https, passwords could be read/],
  ['https://oikon.example.org/oikon', /without anything after the name/],
  ['oikon.example.org', /isn’t an address/],
  ['ftp://oikon.example.org', /isn’t https/],
])('the origin %s is refused', (OIKON_ORIGIN, why) => {
  expect(wrongIn({ ...FULL, OIKON_ORIGIN })).toEqual([expect.stringMatching(why)]);
});

test.each([
  ['5000', '127.0.0.1', 5000],
  ['0.0.0.0:80', '0.0.0.0', 80],
  ['[::]:4410', '::', 4410],
  ['oikon.internal:4410', 'oikon.internal', 4410],
])('%s is listened on', (OIKON_BIND, host, port) => {
  expect(readSettings({ ...FULL, OIKON_BIND })).toMatchObject({ host, port });
});

test.each(['70000', '0', '10.0.0.5', ':', '10.0.0.5:', '[::]'])('“%s” isn’t listened on', (OIKON_BIND) => {
  expect(wrongIn({ ...FULL, OIKON_BIND })).toEqual([expect.stringMatching(/^OIKON_BIND should be/)]);
});

test('the word of proxies that are named is taken, of others not', () => {
  const { trusts } = readSettings({ ...FULL, OIKON_TRUSTED_PROXIES: '10.0.0.2, 192.168.0.0/16' });
  expect(['10.0.0.2', '192.168.3.4', '10.0.0.3'].map((one) => trusts(one, 0))).toEqual([true, true, false]);
});

test('the demo stays on this machine', () => {
  expect(readSettings({ OIKON_DEMO: '1', DATABASE_URL: FULL.DATABASE_URL })).toMatchObject({
    ...{ isDemo: true, origin: null, host: '127.0.0.1' },
  });
  expect(wrongIn({ ...FULL, OIKON_DEMO: '1', OIKON_BIND: '0.0.0.0:4410' })).toEqual([
    expect.stringMatching(/^The demo listens on this machine only/),
  ]);
  expect(wrongIn({ ...FULL, OIKON_DEMO: 'yes' })).toEqual([expect.stringMatching(/^OIKON_DEMO should be 1/)]);
});

test('the database’s address may lie in a file, and nowhere else then', () => {
  const file = join(mkdtempSync(join(tmpdir(), 'oikon-')), 'url');
  writeFileSync(file, 'postgres://a:b@host/other\n');
  const { DATABASE_URL: url, ...rest } = FULL;
  expect(readSettings({ ...rest, DATABASE_URL_FILE: file }).databaseUrl).toBe('postgres://a:b@host/other');
  expect(wrongIn({ ...rest, DATABASE_URL: url, DATABASE_URL_FILE: file })).toEqual([
    expect.stringMatching(/both set/),
  ]);
  expect(wrongIn({ ...rest, DATABASE_URL_FILE: `${file}.gone` })).toEqual([
    expect.stringMatching(/can’t be \(ENOENT\)/),
  ]);
});

test('what others do for it is set as a whole or not at all, and its secrets may lie in files', () => {
  const file = join(mkdtempSync(join(tmpdir(), 'oikon-')), 'secret');
  writeFileSync(file, 'of the provider\n');
  const provider = { OIKON_OIDC_ISSUER: 'https://login.example.org', OIKON_OIDC_CLIENT: 'oikon' };
  expect(readSettings(FULL)).toMatchObject({ key: null, provider: null, mail: null });
  expect(readSettings({ ...FULL, ...provider, OIKON_OIDC_SECRET_FILE: file }).provider).toEqual({
    ...{ issuer: provider.OIKON_OIDC_ISSUER, client: 'oikon', secret: 'of the provider' },
    ...{ name: 'the company’s sign-in', makesPeople: false, groupsClaim: null },
  });
  const mail = {
    OIKON_MAIL_URL: 'smtps://a:b@mail.example.org:465',
    OIKON_MAIL_FROM: 'Oikon <o@example.org>',
  };
  expect(readSettings({ ...FULL, ...mail }).mail).toEqual({
    ...{ url: mail.OIKON_MAIL_URL, from: mail.OIKON_MAIL_FROM },
  });
  const key = Buffer.alloc(32, 7);
  for (const form of ['hex', 'base64'] as const)
    expect(readSettings({ ...FULL, OIKON_KEY: key.toString(form) }).key).toEqual(key);
  // The demo has nobody sign in, wherever it runs.
  const demo = { OIKON_DEMO: '1', DATABASE_URL: FULL.DATABASE_URL };
  expect(readSettings({ ...demo, ...provider, OIKON_OIDC_SECRET: 'x' }).provider).toBeNull();
});

test.each([
  [{ OIKON_OIDC_ISSUER: 'https://login.example.org' }, /should all be set, or none of them/],
  [
    { OIKON_OIDC_ISSUER: 'http://login.example.org', OIKON_OIDC_CLIENT: 'a', OIKON_OIDC_SECRET: 'b' },
    /isn’t https/,
  ],
  [
    {
      ...{ OIKON_OIDC_ISSUER: 'https://login.example.org', OIKON_OIDC_CLIENT: 'a', OIKON_OIDC_SECRET: 'b' },
      OIKON_OIDC_MAKES_PEOPLE: 'yes',
    },
    /OIKON_OIDC_MAKES_PEOPLE should be 1/,
  ],
  [{ OIKON_KEY: 'short' }, /32 random bytes .* what is set has \d+\./],
  [{ OIKON_KEY_FILE: '/nowhere/at/all' }, /OIKON_KEY_FILE should name a file that can be read/],
  [{ OIKON_KEY: 'a', OIKON_KEY_FILE: 'b' }, /are both set/],
  [{ OIKON_MAIL_FROM: 'o@example.org' }, /OIKON_MAIL_URL .* it isn’t set, and OIKON_MAIL_FROM is/],
  [{ OIKON_MAIL_URL: 'mail.example.org', OIKON_MAIL_FROM: 'o@example.org' }, /what is set isn’t one/],
  [{ OIKON_MAIL_URL: 'smtp://mail.example.org' }, /OIKON_MAIL_FROM should be whom/],
])('%j is refused in words, which tell no secret', (env, why) => {
  expect(wrongIn({ ...FULL, ...(env as Record<string, string>) })).toEqual([expect.stringMatching(why)]);
});
