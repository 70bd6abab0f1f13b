import { GALLERIES, INSURED_TOTAL, ruleOf, uuid } from '@/core/testing/galleries';
import { readModel } from '@/core/model';
import { changeAccess } from '@/server/actions/workspaces/members';
import { demandSecond } from '@/server/actions/workspaces/own-roles';
import { changeRoleAccess } from '@/server/actions/workspaces/role-access';
import { saveEdits } from '@/server/actions/records/save-edits';
import { disconnect } from '@/server/database/connection';
import { beginSession, endSession, endSessions, sessionsOf, signedInBy } from '@/server/sign-in/sessions';
import { endToken, makeToken, tokensOf } from '@/server/sign-in/tokens';
import { type SomebodySignedIn, signedInTo } from '@/server/testing/signed-in';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { sessionCookie } from './asking';
import { forgetKnown, knownBy } from './known';
import { POST } from './v1/workspaces/[w]/changes/route';

const rita = '00000000-0000-7000-8000-0000000006ee';
const [museum, robe] = [uuid('1'), uuid('21')];
let workspace: TestWorkspace;
let somebody: SomebodySignedIn;
const by = () => ({ workspace: workspace.key, person: TESTER.id, isOperator: false });

beforeAll(async () => {
  const model = readModel(GALLERIES);
  workspace = await testWorkspace({ model, rows: [], rules: [ruleOf(INSURED_TOTAL, 1, 'Insured total')] });
  somebody = await signedInTo(workspace, { id: rita, role: 'editor' });
  const edits = [
    { kind: 'create' as const, type: 'institution', id: museum, values: { title: 'Kestrel Museum' } },
    { kind: 'create' as const, type: 'loan', id: robe, values: { title: 'Robe', lender: museum } },
  ];
  await saveEdits({ ...by(), edits });
});
afterEach(() => changeAccess(by(), rita, 'editor'));
afterAll(async () => {
  await workspace.remove();
  await somebody.remove();
  forgetKnown();
  await disconnect();
});

let version = 1;

/** Saves another title of the robe; answers the status, and the code of what was refused. */
async function save(
  headers: Record<string, string>,
  { field = 'title', at = version }: { field?: string; at?: number } = {},
): Promise<string> {
  const values = { [field]: `Robe ${version}` };
  const body = JSON.stringify({ edits: [{ kind: 'edit', type: 'loan', id: robe, version: at, values }] });
  const response = await POST(
    new Request(`https://oikon.example.org/api/v1/workspaces/${workspace.key}/changes`, {
      ...{ method: 'POST', body },
      headers: { host: 'oikon.example.org', 'content-type': 'application/json', ...headers },
    }),
    { params: Promise.resolve({ w: workspace.key }) },
  );
  const { code } = (await response.json()) as { code?: string };
  if (response.status === 200) version += 1;
  return code ?? String(response.status);
}
const cookie = (secret: string) => ({ cookie: `${sessionCookie()}=${secret}` });

/** A session by which something was saved just now, so that this process knows who asks. */
async function knownSession(): Promise<string> {
  const secret = await somebody.again();
  expect(await save(cookie(secret))).toBe('200');
  expect(knownBy(secret, workspace.key)?.person).toBe(rita);
  expect(await save(cookie(secret))).toBe('200');
  return secret;
}

test('a session that was ended elsewhere saves nothing more, though this process knows it', async () => {
  const secret = await knownSession();
  const { handle } = (await signedInBy(secret))!;
  await endSession(rita, handle);
  expect(await save(cookie(secret))).toBe('session.none');
  // What is refused before anything is saved isn't told to them either.
  const other = await knownSession();
  await endSessions(rita);
  expect(await save(cookie(other), { field: 'nothing' })).toBe('session.none');
  const third = await knownSession();
  await endSessions(rita);
  expect(await save(cookie(third), { at: 99 })).toBe('session.none');
});

test('another role counts with the next save, whether it allows more or less', async () => {
  const secret = await knownSession();
  await changeAccess(by(), rita, 'reader');
  expect(await save(cookie(secret))).toBe('right.missing');
  await changeAccess(by(), rita, 'bulkEditor');
  expect(await save(cookie(secret))).toBe('200');
});

test('what a role sees counts with the next save', async () => {
  const secret = await knownSession();
  const all = { see: true, add: false, change: true, delete: true, export: true, selection: null, own: null };
  await changeRoleAccess(by(), 'editor', { loan: { ...all, fields: { title: 'seen' } } });
  expect(await save(cookie(secret))).toBe('sight.part');
  await changeRoleAccess(by(), 'editor', {});
  expect(await save(cookie(secret))).toBe('200');
});

test('a second step that a role wants from now on is wanted with the next save', async () => {
  const both = { way: 'passkey', factors: 2 } as const;
  const client = { address: '192.0.2.1', agent: 'Test' };
  const [secret, by2] = [await knownSession(), await beginSession(rita, client, both)];
  expect(await save(cookie(by2))).toBe('200');
  await demandSecond(by(), ['editor'], 2);
  expect(await save(cookie(secret))).toBe('session.second');
  expect(await save(cookie(by2))).toBe('200');
  await demandSecond(by(), [], 2);
  expect(await save(cookie(secret))).toBe('200');
});

test('a token that was ended saves nothing more, though this process knows it', async () => {
  const given = { name: 'Nightly', rights: ['see', 'edit'] as const, workspaces: [workspace.key], days: 30 };
  const standing = (await signedInBy(await somebody.again(), workspace.key))!;
  const token = await makeToken(standing, given);
  const bearer = { authorization: `Bearer ${token}` };
  expect([await save(bearer), await save(bearer)]).toEqual(['200', '200']);
  expect(knownBy(token, workspace.key)?.person).toBe(rita);
  for (const { handle } of await tokensOf(rita)) await endToken(rita, handle);
  expect(await save(bearer)).toBe('session.none');
});

test('who names somebody else is refused, known or not', async () => {
  const secret = await knownSession();
  expect(await save({ ...cookie(secret), 'oikon-person': TESTER.id })).toBe('person.other');
  expect(await save({ ...cookie(secret), 'oikon-person': rita })).toBe('200');
  expect((await sessionsOf(rita)).length).toBeGreaterThan(0);
});
