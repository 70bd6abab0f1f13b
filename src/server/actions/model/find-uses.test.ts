import { galleries, INSURED_TOTAL, LOAN_ARTEFACTS, ruleOf, stageIs } from '@/core/testing/galleries';
import { addList } from '@/server/actions/records/saved-lists';
import { addRequest } from '@/server/actions/rules/requests';
import { changeState } from '@/server/actions/rules/change-state';
import { disconnect } from '@/server/database/connection';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { findUses } from './find-uses';

let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await testWorkspace({
    ...{ model: galleries(), rows: [] },
    rules: [ruleOf(INSURED_TOTAL, 1, 'Total'), ruleOf(LOAN_ARTEFACTS, 2, 'Pieces')],
  });
  const by = { workspace: workspace.key, person: TESTER.id };
  await addList(by, {
    name: 'Agreed',
    definition: {
      kind: 'list',
      type: 'loan',
      columns: ['dueBack'],
      sort: null,
      condition: stageIs('agreed'),
    },
  });
  await addRequest(by, {
    ...{ name: 'For the insurer', askedBy: 'Ines', words: '', due: null, points: [] },
    rules: [workspace.rules[0]!],
  });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});
const uses = async (named: Parameters<typeof findUses>[1]) =>
  (await findUses(await workspace.load(), named)).map(({ where, name }) => `${where} ${name}`);

test('rules, lists and requests that name a field or an option of it are found', async () => {
  const expected = ['rule Total', 'list Agreed', 'request For the insurer'];
  expect(await uses({ kind: 'field', type: 'loan', field: 'stage' })).toEqual(expected);
  expect(await uses({ kind: 'option', type: 'loan', field: 'stage', option: 'agreed' })).toEqual(expected);
  expect(await uses({ kind: 'option', type: 'loan', field: 'stage', option: 'requested' })).toEqual([]);
});

test('a retired rule names nothing any more', async () => {
  expect(await uses({ kind: 'type', type: 'artefact' })).toEqual(['rule Pieces']);
  const change = { workspace: workspace.key, person: TESTER.id, id: workspace.rules[1]! };
  await changeState({ ...change, state: 'paused' });
  await changeState({ ...change, state: 'retired' });
  expect(await uses({ kind: 'type', type: 'artefact' })).toEqual([]);
});

test.each<Parameters<typeof findUses>[1]>([
  { kind: 'type', type: 'crate' },
  { kind: 'field', type: 'loan', field: 'gone' },
  { kind: 'option', type: 'loan', field: 'stage', option: 'gone' },
  { kind: 'selection', selection: 'gone' },
  { kind: 'person', person: '00000000-0000-7000-8000-000000000099' },
])('what isn’t there is refused: %j', async (named) =>
  expect(await refusal(uses(named))).toMatchObject({ status: 404, code: 'uses.unknown' }),
);
