import { galleries, gbp, INSURED_TOTAL, LENT_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { acceptanceSheet } from '@/server/queries/rules/acceptance-sheet';
import { getFamily } from '@/server/queries/records/family';
import { requestViews } from '@/server/queries/rules/requests';
import { loadWorkspace } from '@/server/store/session/workspace';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { keepProof, removeProof } from './proofs';
import { addRequest, agreeTo, changeRequest, removeRequest } from './requests';
import { type RequestInput } from '@/server/forms/types';
import { changeRule, createRule } from './write-rules';
import { changeState } from './change-state';

const model = galleries();
const [silk, robes] = [uuid('11'), uuid('21')];
let workspace: TestWorkspace;
let rule: string;
let proof: string;

beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: [ruleOf(INSURED_TOTAL, 1)] },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      rowOf(model, 'loan', robes, {
        title: 'Robes',
        exhibition: silk,
        stage: 'requested',
        insuredValue: gbp(7),
      }),
    ],
  });
  rule = workspace.rules[0]!;
  const kept = await keepProof(by(), {
    ...{ rule, name: 'A loan is agreed', day: '2027-02-14' },
    family: await getFamily(await loadWorkspace(workspace.key), 'exhibition', silk),
    runs: [[{ kind: 'edit', type: 'loan', id: robes, values: { stage: 'agreed' } }]],
    expectations: [
      {
        ...{ kind: 'becomes', type: 'exhibition', id: silk, field: 'insuredTotal' },
        value: { amount: '7', currency: 'GBP' },
      },
    ],
  });
  proof = kept.proof.id;
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const asked = (more: Partial<RequestInput> = {}): RequestInput => ({
  ...{ name: ' Insured totals ', askedBy: 'Ines, insurance', words: 'What are the agreed loans worth?' },
  ...{ due: '2027-04-01', points: [{ text: 'Agreed loans count', proofs: [proof] }], rules: [rule] },
  ...more,
});
const wanting = async () =>
  (await requestViews(workspace.key))[0]!.standing.wanting.map(({ words }) => words);

test('a request is met by what is live and proven, and is open again once something of that goes', async () => {
  const made = await addRequest(by(), asked());
  expect(made).toMatchObject({ name: 'Insured totals', due: '2027-04-01', person: TESTER.name, version: 1 });
  expect(await wanting()).toEqual([]);
  await changeState({ ...by(), id: rule, state: 'paused' });
  expect((await wanting())[0]).toMatch(/is paused/);
  await changeState({ ...by(), id: rule, state: 'live' });
  await removeProof(by(), proof);
  expect(await wanting()).toHaveLength(2);
  const [{ points }] = (await requestViews(workspace.key)) as [Awaited<ReturnType<typeof addRequest>>];
  expect(points).toEqual([{ text: 'Agreed loans count', proofs: [] }]);
});

test('what is wanted soonest comes first; what has no day comes last', async () => {
  for (const [name, due] of [
    ['Later', null],
    ['Second', '2027-05-01'],
    ['First', '2027-04-01'],
  ] as const)
    await addRequest(by(), { name, due });
  expect((await requestViews(workspace.key)).map(({ name }) => name)).toEqual(['First', 'Second', 'Later']);
});

test('the sheet has the sentence, each case with before and after, and who agreed to what stands there now', async () => {
  const { id } = await addRequest(by(), asked());
  await agreeTo(by(), id, { name: ' Ines ', note: 'Checked by hand', version: 1 });
  const { request, rules } = await acceptanceSheet(workspace.key, id);
  expect(rules).toMatchObject([
    {
      sentence: expect.stringMatching(/^On every Exhibition, keep Insured total/) as string,
      told: [{ saves: [['Robes gets Stage Agreed']], cells: [{ before: '0.00 GBP', after: '7.00 GBP' }] }],
      number: 1,
    },
  ]);
  expect(request.agreements).toMatchObject([
    { name: 'Ines', note: 'Checked by hand', isOfNow: true, person: TESTER.name },
  ]);
  await changeRule({ ...by(), id: rule, version: 2, definition: { ...INSURED_TOTAL, condition: null } });
  const after = await acceptanceSheet(workspace.key, id);
  expect(after.request.agreements).toMatchObject([{ isOfNow: false }]);
  expect(after.rules[0]).toMatchObject({ hasChangesNotLive: true, number: 2 });
});

test('what can’t be is refused by what it is, and nothing is half-saved', async () => {
  const code = async (work: Promise<unknown>) => (await refusal(work)).code;
  expect(await code(addRequest(by(), asked({ due: '2027-02-30' })))).toBe('request.due');
  expect(await code(addRequest(by(), asked({ rules: [uuid('77')], points: [] })))).toBe('request.rule');
  expect(await code(addRequest(by(), asked({ rules: [] })))).toBe('request.proof');
  expect(await code(addRequest(by(), asked({ name: '  ' })))).toBe('request.name');
  expect(await requestViews(workspace.key)).toEqual([]);
  const { id } = await addRequest(by(), asked());
  expect(await code(addRequest(by(), asked()))).toBe('request.taken');
  await changeRequest(by(), id, { version: 1, words: 'And what is requested?' });
  expect(await code(changeRequest(by(), id, { version: 1, words: 'Older' }))).toBe('request.version');
  expect(await code(agreeTo(by(), id, { name: 'Ines', version: 1 }))).toBe('request.version');
  expect(await code(agreeTo(by(), id, { name: ' ', version: 2 }))).toBe('agreement.name');
  expect(await code(removeRequest(by(), uuid('77')))).toBe('request.unknown');
  expect(await code(acceptanceSheet(workspace.key, uuid('77')))).toBe('request.unknown');
});

test('its rules outlive it; a draft that is deleted leaves it', async () => {
  const draft = await createRule({ ...by(), definition: LENT_TOTAL });
  const { id, version } = await addRequest(by(), asked());
  const { rules } = await changeRequest(by(), id, { version, rules: [draft, rule] });
  expect(rules.map((one) => one.id)).toEqual([draft, rule]);
  await removeRequest(by(), id);
  expect(await requestViews(workspace.key)).toEqual([]);
  await changeState({ ...by(), id: rule, state: 'paused' });
});
