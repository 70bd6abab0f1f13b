import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { proofStandings } from '@/server/queries/rules/proof-standings';
import { getRule, listKeepers, listRetired, listRules } from '@/server/queries/rules/rules';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { applyModelChanges, rehearseModel } from '@/server/actions/model/change-model';
import { saveEdits } from '@/server/actions/records/save-edits';
import { changeRule, createRule } from './write-rules';
import { changeState } from './change-state';

const model = galleries();
const [silk, loan] = [uuid('11'), uuid('21')];
let workspace: TestWorkspace;
let id: string;
beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: [ruleOf(INSURED_TOTAL, 1, 'Total')] },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      rowOf(model, 'loan', loan, { exhibition: silk, stage: 'agreed', insuredValue: gbp('7') }),
    ],
  });
  id = workspace.rules[0]!;
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const state = (to: 'live' | 'paused' | 'retired') => changeState({ ...by(), id, state: to });
const removing = [{ kind: 'removeField', type: 'loan', key: 'insuredValue' }] as const;
const change = async () =>
  applyModelChanges({ ...by(), changes: removing, version: (await workspace.load()).modelVersion });

test('a rule that stands in the way of a change of the model is paused and retired, and then out of every check', async () => {
  expect((await refusal(change())).message).toMatch(/“Total”.*or pause it and retire it/);
  expect(await refusal(state('retired'))).toMatchObject({ status: 409, code: 'rule.state' });
  await state('paused');
  expect((await refusal(change())).message).toMatch(/“Total”.*or retire it/);
  await state('retired');
  expect((await rehearseModel(workspace.key, [...removing])).isPossible).toBe(true);
  await change();
  const known = await workspace.load();
  expect(await listRules(known)).toEqual([]);
  expect(await listKeepers(known)).toEqual([]);
  expect((await proofStandings(workspace.key)).map(({ rule }) => rule)).not.toContain(id);
  expect(await listRetired(known)).toMatchObject([{ id, name: 'Total', state: 'retired', findings: [] }]);
  expect(await refusal(state('live'))).toMatchObject({ status: 409, code: 'rule.state' });
});

test('it is taken back by pausing it, as it was, and goes live again', async () => {
  await state('paused');
  await state('retired');
  await saveEdits({
    ...by(),
    edits: [
      { kind: 'edit', type: 'loan', id: loan, values: { insuredValue: { amount: '9', currency: 'GBP' } } },
    ],
  });
  await state('paused');
  expect(await getRule(await workspace.load(), id)).toMatchObject({ state: 'paused' });
  expect(await refusal(state('retired').then(() => state('retired')))).toMatchObject({ code: 'rule.state' });
  await state('paused');
  await state('live');
  const [row] = (await workspace.rows()).filter((one) => one.id === silk);
  expect(row!.values.insuredTotal).toEqual(gbp('9'));
});

test('taken back it is checked again among the live rules', async () => {
  await state('paused');
  const other = await createRule({ ...by(), definition: INSURED_TOTAL });
  await changeState({ ...by(), id: other, state: 'live' });
  const findings = async () => (await getRule(await workspace.load(), id)).findings.map(({ code }) => code);
  expect(await findings()).toEqual(['plan.twoWriters']);
  await state('retired');
  expect(await findings()).toEqual([]);
  await state('paused');
  expect(await findings()).toEqual(['plan.twoWriters']);
});

test('refusals name a rule as it is called now', async () => {
  await changeRule({
    ...by(),
    id,
    version: (await getRule(await workspace.load(), id)).version,
    name: 'Worth of all loans',
  });
  const entered = saveEdits({
    ...by(),
    edits: [
      {
        kind: 'edit',
        type: 'exhibition',
        id: silk,
        values: { insuredTotal: { amount: '1', currency: 'GBP' } },
      },
    ],
  });
  expect((await refusal(entered)).message).toContain('“Worth of all loans”');
  expect((await refusal(change())).message).toContain('“Worth of all loans”');
});
