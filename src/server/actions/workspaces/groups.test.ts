import { galleries } from '@/core/testing/galleries';
import { QueryTypes } from 'sequelize';
import { database, disconnect } from '@/server/database/connection';
import { listPeople } from '@/server/queries/workspaces/people';
import { followClaims } from '@/server/sign-in/groups';
import { rolesOf, standingIn } from '@/server/sign-in/roles';
import { inInstallation } from '@/server/store/session/transactions';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { changeGroup, changeGroupAccess, groupsIn, listGroups, makeGroup, removeGroup } from './groups';
import { addWorkspace, removeWorkspace, workspacesOf } from './make-workspace';
import { changeAccess, endMembership } from './members';
import { changeRole, makeRole, removeRole } from './own-roles';

let workspace: TestWorkspace;
const gus = '00000000-0000-7000-8000-00000000061a';
const named = (name: string) => `${name} ${process.pid}`;
const by = () => ({ workspace: workspace.key, person: TESTER.id, isOperator: true });
const rights = async (person = gus) => [...((await standingIn(workspace.key, person))?.rights ?? [])];
const nameHere = async () => (await workspace.load()).people.get(gus);

beforeAll(async () => {
  workspace = await testWorkspace({ model: galleries(), rows: [], rules: [] });
  await database().query(
    `INSERT INTO person (id, name, email, role) VALUES ($1, 'Gus Group', $2, 'Tester') ON CONFLICT DO NOTHING`,
    { bind: [gus, `gus-${process.pid}@choir.example`] },
  );
});
afterAll(async () => {
  await workspace.remove();
  for (const { id } of await listGroups()) await removeGroup(id, TESTER.id);
  await database().query('DELETE FROM person WHERE id = $1', { bind: [gus], type: QueryTypes.SELECT });
  await disconnect();
});

test('whoever is in a group may what it may, here and at once, besides what they may themselves', async () => {
  const group = await makeGroup({ name: named('Registrars'), members: [gus] }, TESTER.id);
  expect(await standingIn(workspace.key, gus)).toBeNull();
  expect(await workspacesOf(gus)).toEqual([]);

  await changeGroupAccess(by(), group.id, 'editor');
  expect(await rights()).toEqual(['see', 'export', 'edit']);
  expect(await nameHere()).toBe('Gus Group');
  expect((await workspacesOf(gus)).map(({ key }) => key)).toEqual([workspace.key]);
  await changeAccess(by(), gus, 'ruleWriter');
  await changeGroupAccess(by(), group.id, 'bulkEditor');
  expect(await rights()).toEqual(['see', 'export', 'edit', 'editMany', 'writeRules']);
  const { people } = await listPeople(await workspace.load());
  expect(people.find(({ id }) => id === gus)).toMatchObject({
    ...{ access: 'ruleWriter', groups: [{ group: group.name, access: 'bulkEditor' }] },
    rights: ['see', 'export', 'edit', 'editMany', 'writeRules'],
  });

  // By groups alone; then out of the group: they stay named.
  await changeAccess(by(), gus, null);
  expect(await rights()).toEqual(['see', 'export', 'edit', 'editMany']);
  await changeGroup(group.id, { members: [] }, TESTER.id);
  expect(await standingIn(workspace.key, gus)).toBeNull();
  expect(await nameHere()).toBe('Gus Group (no longer here)');

  // Who is no longer here isn't by a group either.
  await changeGroup(group.id, { members: [gus] }, TESTER.id);
  expect(await nameHere()).toBe('Gus Group');
  await endMembership(by(), gus);
  expect(await standingIn(workspace.key, gus)).toBeNull();
  await removeGroup(group.id, TESTER.id);
  expect(await groupsIn(workspace.key)).toEqual([]);
});

test('the last who administers may do so by a group, and it can’t be taken away from under them', async () => {
  const group = await makeGroup({ name: named('Administrators'), members: [TESTER.id] }, TESTER.id);
  await changeGroupAccess(by(), group.id, 'administrator');
  await changeAccess(by(), TESTER.id, 'reader');
  expect(await rights(TESTER.id)).toContain('administer');
  for (const without of [
    () => changeGroupAccess(by(), group.id, 'reader'),
    () => changeGroupAccess(by(), group.id, null),
    () => changeGroup(group.id, { members: [] }, TESTER.id),
    () => removeGroup(group.id, TESTER.id),
    () => endMembership(by(), TESTER.id),
  ])
    expect((await refusal(without())).code).toBe('member.last');
  expect(await rights(TESTER.id)).toContain('administer');
  await changeAccess(by(), TESTER.id, 'administrator');
  await removeGroup(group.id, TESTER.id);
});

test('what the company’s sign-in says of groups is followed, in both directions', async () => {
  const [porters, guards] = [named('Porters'), named('Guards')];
  const one = await makeGroup({ name: porters, claim: porters }, TESTER.id);
  const two = await makeGroup({ name: guards, claim: guards }, TESTER.id);
  const own = await makeGroup({ name: named('Own'), members: [gus] }, TESTER.id);
  expect((await refusal(changeGroup(one.id, { members: [gus] }, TESTER.id))).code).toBe('group.claimed');
  expect((await refusal(makeGroup({ name: porters.toUpperCase() }, TESTER.id))).code).toBe('name.taken');
  expect((await refusal(changeGroup(two.id, { claim: porters }, TESTER.id))).code).toBe('name.taken');
  const follow = (...claims: string[]) =>
    inInstallation((transaction) => followClaims(gus, claims, transaction));
  const groupsOf = async () =>
    (await listGroups()).filter(({ members }) => members.some(({ id }) => id === gus)).map(({ id }) => id);
  await changeGroupAccess(by(), one.id, 'reader');
  expect(await follow(porters, 'unknown here')).toEqual([workspace.key]);
  expect((await groupsOf()).sort()).toEqual([one.id, own.id].sort());
  expect(await follow(porters)).toEqual([]);
  expect(await follow(guards)).toEqual([workspace.key]);
  expect((await groupsOf()).sort()).toEqual([two.id, own.id].sort());
  expect((await refusal(makeGroup({ name: named('Odd'), members: [workspaceLess] }, TESTER.id))).code).toBe(
    'person.unknown',
  );
});
const workspaceLess = '00000000-0000-7000-8000-00000000dead';

test('a role of one’s own may what it says, changes for everybody who has it, and stays while somebody does', async () => {
  const { key, ...made } = await makeRole(by(), { name: 'Cataloguer', rights: ['editMany', 'see'] });
  expect(made).toEqual({ name: 'Cataloguer', rights: ['see', 'editMany'] });
  await database().query('UPDATE membership SET left_at = NULL, role = $2 WHERE person_id = $1', {
    bind: [gus, 'reader'],
  });
  await changeAccess(by(), gus, key);
  expect(await rights()).toEqual(['see', 'editMany']);
  expect((await standingIn(workspace.key, gus))?.names).toEqual(['Cataloguer']);
  await changeRole(by(), key, { name: 'Cataloguer', rights: ['administer'] });
  expect(await rights()).toEqual(['see', 'administer']);

  // In a copy everybody may what they may here, by a role of the same name that is the copy's own.
  const copy = await addWorkspace({ name: named('Copy'), copyOf: workspace.key }, TESTER.id);
  expect([...((await standingIn(copy.key, gus))?.rights ?? [])]).toEqual(['see', 'administer']);
  expect((await rolesOf(copy.key)).at(-1)).toMatchObject({ name: 'Cataloguer' });
  expect((await rolesOf(copy.key)).at(-1)?.key).not.toBe(key);
  await removeWorkspace(copy.key);

  const used = await refusal(removeRole(by(), key));
  expect(used).toMatchObject({
    ...{ code: 'role.used', message: 'Gus Group still has the role “Cataloguer”. Give them another first.' },
  });
  for (const [code, refused] of [
    ['name.taken', makeRole(by(), { name: 'cataloguer', rights: ['see'] })],
    ['name.taken', makeRole(by(), { name: 'Reader', rights: ['see'] })],
    ['role.shipped', changeRole(by(), 'reader', { name: 'Reader', rights: ['administer'] })],
    ['role.unknown', changeRole(by(), gus, { name: 'Other', rights: ['see'] })],
    ['role.unknown', changeAccess(by(), gus, 'director')],
  ] as const)
    expect((await refusal(refused)).code).toBe(code);
  await changeAccess(by(), gus, 'reader');
  await removeRole(by(), key);
  expect(await rolesOf(workspace.key)).toHaveLength(6);
});
