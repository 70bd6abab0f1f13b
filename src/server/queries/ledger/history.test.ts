import { uuid } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { refusal } from '@/server/testing/refusal';
import { makeStoredWorkspace } from '@/server/testing/stored-workspace';
import { TESTER, type TestWorkspace } from '@/server/testing/workspace';
import { getHistory } from './history';

const vase = { type: 'artefact', id: uuid('11') };
let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await makeStoredWorkspace();
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

test('tells who or which rule changed what, the latest first, and ends with its making', async () => {
  const { entries, next } = await getHistory(await workspace.load(), vase);
  expect(next).toBeNull();
  expect(entries.at(-1)).toMatchObject({ event: 'created', changes: [] });
  const all = entries.flatMap(({ changes }) => changes);
  expect(all.find(({ fieldName, after }) => fieldName === 'Maker' && after?.text === 'Birch')).toMatchObject({
    ...{ before: { text: 'Ash' }, rule: null, causes: [] },
  });
  expect(all.find(({ fieldName }) => fieldName === 'Insurance line')).toMatchObject({
    ...{ after: { text: 'Vase' }, rule: { kind: 'create' }, causes: ['Line Vase'] },
  });
  expect(
    all.filter(({ fieldName }) => fieldName === 'Treatment count').map(({ after }) => after?.text),
  ).toContain('1');
  expect(entries.filter(({ kind }) => kind === 'save').every(({ person }) => person === TESTER.name)).toBe(
    true,
  );
});

test('comes page by page, without a gap or a double', async () => {
  const known = await workspace.load();
  const { entries: all } = await getHistory(known, vase);
  const paged: (typeof all)[number][] = [];
  let before: string | null = null;
  do {
    const page: Awaited<ReturnType<typeof getHistory>> = await getHistory(known, {
      ...vase,
      before,
      limit: 1,
    });
    paged.push(...page.entries);
    before = page.next;
  } while (before !== null);
  expect(paged).toEqual(all);
});

test('what went into the bin and came back has both told; a record that isn’t there is refused', async () => {
  const known = await workspace.load();
  const { entries } = await getHistory(known, { type: 'inspection', id: uuid('21') });
  expect(entries.map(({ event }) => event)).toEqual(
    expect.arrayContaining(['deleted', 'restored', 'created']),
  );
  expect(await refusal(getHistory(known, { type: 'artefact', id: uuid('99') }))).toMatchObject({
    status: 404,
  });
});
