import { type Right, ROLES, type Role } from '@/core/api';
import { galleries } from '@/core/testing/galleries';
import { ACCESS, type Access, type Method } from '@/app/api/access';
import { asProved } from '@/app/api/as-proved';
import { askingBy, sessionCookie } from '@/app/api/asking';
import { forgetKnown } from '@/app/api/known';
import { disconnect } from '@/server/database/connection';
import { forgetRates } from '@/server/requests/rates';
import { beginSession } from '@/server/sign-in/sessions';
import { endToken, makeToken, tokensOf } from '@/server/sign-in/tokens';
import { demandSecond } from '@/server/actions/workspaces/own-roles';
import { changeAccess, endMembership } from '@/server/actions/workspaces/members';
import { signedInTo, type SomebodySignedIn } from '@/server/testing/signed-in';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';

/**
 * Written down by hand, apart from the table that the application decides by: what each role is answered, route by route, for what it may not do. What
 * isn't named here every role may.
 */
const REFUSED: Readonly<Record<Exclude<Role, 'administrator'>, readonly RegExp[]>> = (() => {
  const administering = [
    /^(PATCH|DELETE) \/api\/v1\/workspaces\/\{w\}$/,
    /^POST .*\/(bundle-merges|model-changes|settled-day|people|roles|second-step-roles|services|two-people)$/,
    /^GET .*\/services$/,
    /^(POST|DELETE) .*\/services\/.*$/,
    /^(PATCH|DELETE) .*\/roles\/\{id\}$/,
    /^(GET|POST) .*\/roles\/\{id\}\/access$/,
    /^(GET|PATCH) .*\{w\}\/groups(\/\{id\})?$/,
    /^(PATCH|DELETE) .*\{w\}\/people\/\{id\}$/,
    /^POST .*\/password-addresses$/,
  ];
  const takingLive = [/^POST .*\/(live-rules|paused-rules|rules\/\{id\}\/(state|recalculations))$/];
  const writing = [
    /^(POST|PATCH|DELETE) .*\{w\}\/(rules|proofs|requests|sample-families|unfinished-rules)(\/\{id\})?(\/agreements)?$/,
    /^POST .*\/(rule-tags|approvals|approvals\/\{id\})$/,
  ];
  const many = [/^POST .*\/(imports|list-edits)\/\{type\}$/];
  const editing = [
    /^(POST|PATCH|DELETE) .*\{w\}\/(records|lists|messages|queued-saves)(\/\{type\})?(\/\{id\})?$/,
    /^POST .*\{w\}\/changes$/,
    /^POST .*\/(rates|undo|proposals\/decisions|recalculations\/\{field\})$/,
  ];
  return {
    reader: [...administering, ...takingLive, ...writing, ...many, ...editing],
    editor: [...administering, ...takingLive, ...writing, ...many],
    bulkEditor: [...administering, ...takingLive, ...writing],
    ruleWriter: [...administering, ...takingLive, ...many],
    ruleApprover: [...administering, ...many],
  };
})();

const isRefused = (role: Role, route: string): boolean =>
  role !== 'administrator' && REFUSED[role].some((one) => one.test(route));

interface Called {
  readonly route: string;
  readonly path: string;
  readonly access: Access;
}

const ROUTES: readonly Called[] = Object.entries(ACCESS).flatMap(([path, methods]) =>
  Object.entries(methods as Partial<Record<Method, Access>>).map(([method, access]) => ({
    ...{ route: `${method} ${path}`, path, access },
  })),
);

let workspace: TestWorkspace;
let other: TestWorkspace;
const rita = '00000000-0000-7000-8000-0000000000ef';
let somebody: SomebodySignedIn;
let secret: string;
const BY_KEY = { way: 'passkey', factors: 2 } as const;

beforeAll(async () => {
  const model = galleries();
  workspace = await testWorkspace({ model, rows: [], rules: [] });
  other = await testWorkspace({ model, rows: [], rules: [] });
  somebody = await signedInTo(workspace, { id: rita, role: 'reader' });
  ({ secret } = somebody);
});
afterAll(async () => {
  await workspace.remove();
  await other.remove();
  await somebody.remove();
  forgetKnown();
  await disconnect();
});

/** What whoever calls is answered before anything is done: 200 where they may go on. */
async function statusOf(
  { path, access }: Called,
  kept: string | null,
  key = workspace.key,
  more: Record<string, string> = {},
): Promise<number> {
  const headers: Record<string, string> =
    kept === null ? more : { ...more, cookie: `${sessionCookie()}=${kept}` };
  const request = new Request(`https://oikon.example.org${path}`, { headers });
  const w = path.includes('{w}') ? key : undefined;
  const now = () => askingBy(request, access, w, true);
  const answered = askingBy(request, access, w).then((asking) =>
    asProved(asking, now, () => Promise.resolve()),
  );
  return answered.then(
    () => 200,
    (error: unknown) => (error as { status: number }).status,
  );
}

const by = () => ({ workspace: workspace.key, person: TESTER.id, isOperator: false });
const needsSession = ({ access }: Called) => access.who !== 'stranger' && access.who !== 'probe';
const isOfInstallation = ({ access }: Called) => access.who === 'operator' || access.who === 'installation';

test.each(Object.keys(ROLES) as Role[])(
  'as %s each route is answered as it is written down',
  async (role) => {
    await changeAccess(by(), rita, role);
    const answered: string[] = [];
    const expected: string[] = [];
    for (const called of ROUTES) {
      answered.push(`${called.route} ${await statusOf(called, secret)}`);
      const isClosed = isRefused(role, called.route) || isOfInstallation(called);
      expected.push(`${called.route} ${needsSession(called) && isClosed ? 403 : 200}`);
    }
    expect(answered).toEqual(expected);
    expect(expected.length).toBeGreaterThan(100);
  },
);

test('a token may what it was given, where its person may too, and sees to no account', async () => {
  await changeAccess(by(), rita, 'administrator');
  const made = { name: 'Nightly', rights: ['see', 'edit'] as Right[], workspaces: [workspace.key], days: 30 };
  const token = await makeToken({ person: rita, factors: 1 }, made);
  expect(token).toMatch(/^oikon_[\w-]{43}$/);
  const asked = (called: Called, key = workspace.key, text = token) =>
    statusOf(called, null, key, { authorization: `Bearer ${text}` });
  for (const called of ROUTES) {
    const { route, path, access } = called;
    const isGiven = access.right === null || made.rights.includes(access.right);
    const isClosed = access.who === 'account' || isOfInstallation(called) || !isGiven;
    const expected = needsSession(called) && isClosed ? 403 : 200;
    expect([route, await asked(called)]).toEqual([route, expected]);
    if (path.includes('{w}') && needsSession(called)) expect(await asked(called, other.key)).toBe(404);
  }
  const saving = ROUTES.find(({ route }) => route === 'POST /api/v1/workspaces/{w}/changes')!;
  await changeAccess(by(), rita, 'reader');
  expect(await asked(saving)).toBe(403);
  expect(await asked(saving, workspace.key, `oikon_${'A'.repeat(43)}`)).toBe(401);
  const [kept] = await tokensOf(rita);
  expect(kept).toMatchObject({ name: 'Nightly', rights: made.rights, used: expect.any(String) as string });
  expect(await endToken(TESTER.id, kept!.handle)).toBe(false);
  expect(await endToken(rita, kept!.handle)).toBe(true);
  expect(await asked(saving)).toBe(401);
  // A browser's cookie isn't looked at where a token is sent.
  expect(await statusOf(saving, secret, workspace.key, { authorization: 'Bearer nothing' })).toBe(401);
});

test('where a role wants a second step, one isn’t let in by a password alone; nor does one make a token by it', async () => {
  await changeAccess(by(), rita, 'editor');
  const [looking, own] = ['GET /api/v1/workspaces/{w}/types', 'GET /api/v1/sessions'].map((route) =>
    ROUTES.find((one) => one.route === route)!,
  );
  const both = await beginSession(rita, { address: '192.0.2.1', agent: 'Test' }, BY_KEY);
  const wanted = { workspace: workspace.key, person: TESTER.id, isOperator: false };
  expect((await refusal(demandSecond(wanted, ['editor'], 1))).code).toBe('session.second');
  expect((await refusal(demandSecond(wanted, ['director'], 2))).code).toBe('role.unknown');
  await demandSecond(wanted, ['editor'], 2);
  expect(await statusOf(looking!, secret)).toBe(403);
  expect(await statusOf(own!, secret)).toBe(200);
  expect(await statusOf(looking!, both)).toBe(200);
  const made = { name: 'By one', rights: ['see'] as Right[], workspaces: [workspace.key], days: 30 };
  expect((await refusal(makeToken({ person: rita, factors: 1 }, made))).code).toBe('session.second');
  await changeAccess(by(), rita, 'reader');
  expect(await statusOf(looking!, secret)).toBe(200);
  await demandSecond(wanted, [], 1);
});

test('another workspace isn’t there, and without a session nothing is', async () => {
  for (const called of ROUTES) {
    const inside = called.path.includes('{w}');
    const closed = isOfInstallation(called) ? 403 : 200;
    const elsewhere = needsSession(called) && inside ? 404 : needsSession(called) ? closed : 200;
    expect([called.route, await statusOf(called, secret, other.key)]).toEqual([called.route, elsewhere]);
    const nobody = needsSession(called) ? 401 : 200;
    expect([called.route, await statusOf(called, null)]).toEqual([called.route, nobody]);
    expect([called.route, await statusOf(called, 'A'.repeat(43))]).toEqual([called.route, nobody]);
  }
});

test('a session gets another id with an answer, never with a refusal: what the browser keeps stays good', async () => {
  const own = await somebody.again();
  await changeAccess(by(), rita, 'editor');
  await changeAccess(by(), rita, 'reader');
  const [looking, changing] = [
    'GET /api/v1/workspaces/{w}/types',
    'POST /api/v1/workspaces/{w}/model-changes',
  ].map((route) => ROUTES.find((one) => one.route === route)!);
  const asking = ({ path, access }: Called) =>
    askingBy(
      new Request(`https://oikon.example.org${path}`, { headers: { cookie: `${sessionCookie()}=${own}` } }),
      access,
      workspace.key,
    );
  expect((await refusal(asking(changing!))).code).toBe('right.missing');
  const { tells } = await asking(looking!);
  expect(tells['Set-Cookie']).toMatch(/^__Host-oikon=[\w-]{43}; Path=\/; HttpOnly; SameSite=Lax; Secure$/);
  expect((await asking(looking!)).tells['Set-Cookie']).toBeUndefined();
});

test('who asks without a session is counted by their address, whatever they are answered', async () => {
  process.env.OIKON_RATE_STRANGER = '2';
  forgetRates();
  const reading = ROUTES.find(({ route }) => route === 'GET /api/v1/workspaces/{w}/types')!;
  const statuses = [];
  for (let asked = 1; asked <= 3; asked += 1) statuses.push(await statusOf(reading, 'A'.repeat(43)));
  expect(statuses).toEqual([401, 401, 429]);
  expect(await statusOf(reading, secret)).toBe(200);
  process.env.OIKON_RATE_STRANGER = '99999';
  forgetRates();
});

test('every right is one that somebody has and somebody hasn’t, and every route of a workspace takes one', () => {
  for (const { route, path, access } of ROUTES)
    if (path.includes('{w}')) expect([route, access.right]).toEqual([route, expect.any(String) as Right]);
});

test('who is no longer here may do nothing, at once; the last administrator stays', async () => {
  await endMembership(by(), rita);
  const reading = ROUTES.find(({ route }) => route === 'GET /api/v1/workspaces/{w}/types')!;
  expect(await statusOf(reading, secret)).toBe(404);
  expect((await workspace.load()).people.get(rita)).toBe('Rita Part (no longer here)');
  expect((await refusal(endMembership(by(), TESTER.id))).code).toBe('member.last');
  expect((await refusal(changeAccess(by(), TESTER.id, 'reader'))).code).toBe('member.last');
  expect((await refusal(changeAccess(by(), rita, 'reader'))).code).toBe('member.unknown');
});
