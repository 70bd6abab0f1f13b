import { manyModel, manyRules } from '@/core/testing/many';
import { rowOf, uuid } from '@/core/testing/galleries';
import { createRule } from '@/server/actions/rules/write-rules';
import { takeLiveTogether } from '@/server/actions/rules/change-state';
import { saveEdits } from '@/server/actions/records/save-edits';
import { disconnect } from '@/server/database/connection';
import { plansBuilt } from '@/server/store/session/workspace';
import { driftIn } from '@/server/testing/drift';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { getRecord } from '@/server/queries/records/records';
import { getRule, listKeepers, listRules } from './rules';

const TYPES = 40;
const model = manyModel(TYPES);
let workspace: TestWorkspace;
const ids: string[] = [];
beforeAll(async () => {
  const rows = Array.from({ length: 10 }, (_, at) =>
    rowOf(model, `t${at}`, uuid(String(at + 1)), {
      ...{ title: `Record ${at}`, ...(at === 0 ? {} : { under: uuid(String(at)) }) },
    }),
  );
  workspace = await testWorkspace({ model, rows, rules: [] });
  const by = { workspace: workspace.key, person: TESTER.id };
  for (const definition of manyRules(TYPES)) ids.push(await createRule({ ...by, definition }));
  await takeLiveTogether({ ...by, ids });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

const plansOf = async (work: () => Promise<unknown>): Promise<number> => {
  const before = plansBuilt();
  await work();
  return plansBuilt() - before;
};

test('what only looks orders no rules, however many are live', async () => {
  const known = await workspace.load();
  expect(known.live).toHaveLength(ids.length);
  expect(await plansOf(() => listRules(known))).toBe(0);
  expect(await plansOf(() => listKeepers(known))).toBe(0);
  expect(await plansOf(() => getRule(known, ids[0]!))).toBe(0);
  expect(await plansOf(() => getRecord(known, 't0', uuid('1')))).toBe(0);
  const edits = [{ kind: 'edit', type: 't1', id: uuid('2'), values: { amount: '3' } }] as const;
  expect(
    await plansOf(() => saveEdits({ workspace: workspace.key, person: TESTER.id, edits: [...edits] })),
  ).toBe(0);
  const [parent] = (await workspace.rows()).filter(({ id }) => id === uuid('1'));
  expect(String(parent!.values.total)).toBe('6');
  expect(await driftIn(workspace)).toEqual([]);
});

test('each draft is looked at among the live rules once, until one of them changes', async () => {
  const by = { workspace: workspace.key, person: TESTER.id };
  const [first] = manyRules(TYPES);
  const id = await createRule({ ...by, definition: first! });
  const known = await workspace.load();
  const findings = async () => (await listRules(known)).find((rule) => rule.id === id)!.findings;
  expect(await plansOf(findings)).toBe(1);
  expect(await findings()).toMatchObject([{ code: 'plan.twoWriters' }]);
  expect(await plansOf(findings)).toBe(0);
});
