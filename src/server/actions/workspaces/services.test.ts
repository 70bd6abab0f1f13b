import type { Right } from '@/core/api';
import { galleries } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { everybody, listPeople } from '@/server/queries/workspaces/people';
import { securityLines } from '@/server/sign-in/security-events';
import { accountOf } from '@/server/sign-in/sign-in';
import { tokenBy } from '@/server/sign-in/tokens';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { addressFor, changeAccess, endMembership } from './members';
import { endServiceToken, listServices, makeService, makeServiceToken } from './services';

let workspace: TestWorkspace;
const by = () => ({ workspace: workspace.key, person: TESTER.id, isOperator: true });
beforeAll(async () => {
  workspace = await testWorkspace({ model: galleries(), rows: [], rules: [] });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

const TOKEN = { name: 'On the file server', rights: ['see', 'edit'] as Right[], days: 30 };

test('a program acts as itself by its tokens, with what its role may or less, until it is ended', async () => {
  const service = await makeService(by(), { name: 'Nightly import', access: 'editor' });
  const token = await makeServiceToken(by(), service.id, TOKEN);
  const acting = () => tokenBy(token, workspace.key);
  expect(await acting()).toMatchObject({ person: service.id, name: 'Nightly import', isOperator: false });
  const rights = async () => [...((await acting())?.standing?.rights ?? [])];
  expect(await rights()).toEqual(['see', 'export', 'edit']);
  await changeAccess(by(), service.id, 'reader');
  expect(await rights()).toEqual(['see', 'export']);
  const [kept] = await listServices(workspace.key);
  expect(kept).toMatchObject({ name: 'Nightly import', access: 'reader', tokens: [{ name: TOKEN.name }] });

  // Nobody signs in as it, and nobody is it.
  expect(await accountOf(`${service.id}@program.invalid`)).toBeNull();
  expect((await refusal(addressFor(by(), service.id))).code).toBe('member.unknown');
  expect((await everybody()).map(({ id }) => id)).not.toContain(service.id);
  const { people } = await listPeople(await workspace.load());
  expect(people.find(({ id }) => id === service.id)).toMatchObject({ isService: true });

  const again = { name: 'nightly IMPORT', access: 'editor' };
  expect((await refusal(makeService(by(), again))).code).toBe('name.taken');
  expect((await refusal(makeService(by(), { ...again, access: 'director' }))).code).toBe('role.unknown');
  expect((await refusal(makeServiceToken(by(), TESTER.id, TOKEN))).code).toBe('service.unknown');
  const other = await makeServiceToken(by(), service.id, { ...TOKEN, name: 'Other' });
  const [{ handle } = { handle: '' }] = (await listServices(workspace.key))[0]!.tokens;
  await endServiceToken(by(), service.id, handle);
  expect(await tokenBy(other, workspace.key)).toBeNull();
  expect((await refusal(endServiceToken(by(), service.id, handle))).code).toBe('token.unknown');

  await endMembership(by(), service.id);
  expect((await acting())?.standing).toBeNull();
  expect(await listServices(workspace.key)).toEqual([]);
  await makeService(by(), again);
});

test('the security ledger leaves as a file, the earliest first', async () => {
  let text = '';
  for await (const piece of securityLines()) text += piece;
  const lines = text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as { id: string; kind: string; at: string });
  expect(lines.map(({ id }) => Number(id))).toEqual(lines.map(({ id }) => Number(id)).sort((a, b) => a - b));
  const made = lines.filter(({ kind }) => kind === 'serviceMade');
  expect(made.at(-1)).toMatchObject({ person: 'nightly IMPORT', by: TESTER.name, workspace: workspace.key });
});
