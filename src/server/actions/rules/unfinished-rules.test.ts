import type { UnfinishedInput } from '@/server/forms/types';
import { disconnect } from '@/server/database/connection';
import type { Refusal } from '@/server/refusal';
import { ALL_RULES, galleries, INSURED_TOTAL, uuid } from '@/core/testing/galleries';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { addWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { forgetUnfinished, keepUnfinished, unfinishedRules } from './unfinished-rules';
import { createRule, deleteDraft } from './write-rules';

let workspace: TestWorkspace;
beforeEach(async () => {
  workspace = await testWorkspace({ model: galleries(), rules: ALL_RULES, rows: [] });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const half = (change: Partial<UnfinishedInput> = {}): UnfinishedInput => ({
  ...{ rule: null, name: 'Lent', note: 'for Jonas' },
  content: { kind: 'rollUp', of: { type: 'institution', target: null } },
  ...change,
});
const refused = async (work: Promise<unknown>): Promise<readonly [number, string]> => {
  const refusal = (await work.catch((problem: unknown) => problem)) as Refusal;
  return [refusal.status, refusal.message];
};

test('a rule is kept as far as it is written, gone on with and forgotten', async () => {
  const kept = await keepUnfinished(by(), half());
  expect(kept).toMatchObject({ name: 'Lent', rule: null, person: TESTER.name, content: half().content });
  const content = { kind: 'rollUp', of: { type: 'institution', target: 'lentTotal' } } as const;
  await keepUnfinished(by(), half({ id: kept.id, content }));
  expect(await unfinishedRules(workspace.key)).toMatchObject([{ id: kept.id, content }]);
  await forgetUnfinished(by(), kept.id);
  expect(await unfinishedRules(workspace.key)).toEqual([]);
  const gone = await refused(keepUnfinished(by(), half({ id: kept.id })));
  expect(gone).toEqual([404, expect.stringContaining('isn’t kept unfinished any more')]);
  expect(await refused(forgetUnfinished(by(), kept.id))).toEqual(gone);
});

test('what is kept of a change goes with its rule', async () => {
  const draft = await createRule({ ...by(), definition: { ...INSURED_TOTAL, target: 'averageInsured' } });
  await keepUnfinished(by(), half({ rule: draft }));
  await deleteDraft({ ...by(), id: draft });
  expect(await unfinishedRules(workspace.key)).toEqual([]);
  expect((await refused(keepUnfinished(by(), half({ rule: uuid('99') }))))[0]).toBe(404);
});

test('what is too long is refused, and a copy of the workspace has it too', async () => {
  const of = { text: 'x'.repeat(100_001) };
  expect((await refused(keepUnfinished(by(), half({ content: { kind: 'formula', of } }))))[1]).toContain(
    'at most 100,000 characters',
  );
  await keepUnfinished(by(), half());
  const copy = await addWorkspace({ name: 'Another one', copyOf: workspace.key }, TESTER.id);
  expect(await unfinishedRules(copy.key)).toMatchObject([{ name: 'Lent' }]);
  await removeWorkspace(copy.key);
});
