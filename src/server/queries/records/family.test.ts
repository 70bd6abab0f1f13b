import { uuid } from '@/core/testing/galleries';
import { familyStore } from '@/core/verify';
import { disconnect } from '@/server/database/connection';
import { refusal } from '@/server/testing/refusal';
import { makeStoredWorkspace } from '@/server/testing/stored-workspace';
import type { TestWorkspace } from '@/server/testing/workspace';
import { getFamily } from './family';

const vase = uuid('11');
let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await makeStoredWorkspace();
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

test('holds a record, everything beneath it, and what rules made for it', async () => {
  const known = await workspace.load();
  const family = await getFamily(known, 'artefact', vase);
  expect(family.root).toEqual({ type: 'artefact', id: vase });
  const types = family.records.filter(({ id }) => family.members.includes(id)).map(({ type }) => type);
  expect([...new Set(types)].sort()).toEqual(['artefact', 'inspection', 'line', 'treatment']);
  expect(family.made!.map(({ source }) => source)).toEqual(expect.arrayContaining([vase, uuid('21')]));
  expect(family.members).not.toContain(uuid('12'));
});

test('what is loaded whole is marked so, and answers as the data does', async () => {
  const known = await workspace.load();
  const family = await getFamily(known, 'artefact', vase, ['artefact']);
  expect(family.whole).toEqual(['artefact']);
  const store = familyStore(known.model, family);
  expect([...store.rows('artefact')].map(({ id }) => id).sort()).toEqual([vase, uuid('12')]);
  expect(store.row('artefact', vase)?.values.treatments).toEqual(
    (await workspace.rows()).find(({ id }) => id === vase)!.values.treatments,
  );
});

test('a record that isn’t there, or a type that isn’t, is refused', async () => {
  const known = await workspace.load();
  expect(await refusal(getFamily(known, 'artefact', uuid('99')))).toMatchObject({ status: 404 });
  expect(await refusal(getFamily(known, 'painting', vase))).toMatchObject({ status: 404 });
});
