import { CASCADES, cascade, down, fixed, from, touring, when } from '@/core/testing/touring';
import { fieldOf, rollUp, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { getRecord } from '@/server/queries/records/records';
import { flawsIn } from '@/server/testing/flaws';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { applyModelChanges, rehearseModel } from '@/server/actions/model/change-model';
import { changeState } from './change-state';
import { previewLive } from './preview-live';
import { createRule } from './write-rules';

const model = touring();
const [silk, robes] = [uuid('11'), uuid('21')];
const COUNTED = rollUp({
  ...{ type: 'exhibition', target: 'artefactCount', aggregate: 'count', whenNone: '0' },
  ...{ route: [down('loan', 'exhibition')], condition: null },
});
/** Where the count rises the loans are agreed; and where any is, the exhibition is open. */
const AGREE = cascade({
  ...{ type: 'exhibition', route: [down('loan', 'exhibition')], assignments: [fixed('stage', 'agreed')] },
  moment: when({ kind: 'changed', field: 'artefactCount' }),
});
const OPENS = rollUp({
  ...{ type: 'exhibition', target: 'phase', aggregate: 'count', whenNone: null },
  route: [down('loan', 'exhibition')],
  condition: {
    ...{ kind: 'compare', operator: '=', left: fieldOf('stage') },
    right: { kind: 'constant', value: 'agreed' },
  },
  map: { rows: [{ operator: '>=', than: '1', writes: 'open' }], otherwise: { kind: 'asItIs' } },
});
let workspace: TestWorkspace;
beforeEach(async () => {
  workspace = await testWorkspace({
    model,
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Silk', phase: 'planned', climate: 'Dry' }),
      rowOf(model, 'loan', robes, { exhibition: silk, stage: 'requested' }),
    ],
    rules: [ruleOf(AGREE, 1, 'Agree'), ruleOf(OPENS, 2, 'Opens')],
  });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const stands = async () => {
  const at = async (type: string, id: string, field: string) =>
    (await getRecord(await workspace.load(), type, id)).record.values[field];
  return [
    await at('exhibition', silk, 'artefactCount'),
    await at('loan', robes, 'stage'),
    await at('exhibition', silk, 'phase'),
  ];
};

test.each([
  [true, ['1', 'agreed', 'open']],
  [false, ['1', 'requested', 'planned']],
])('what taking a rule live fills is acted on where that is chosen: %s', async (othersAct, expected) => {
  const id = await createRule({ ...by(), name: 'Counted', definition: COUNTED });
  expect((await previewLive(workspace.key, id)).reacting.map(({ name }) => name)).toEqual(['Agree']);
  const { written } = await changeState({ ...by(), id, state: 'live', othersAct });
  expect(written.some(({ rule, records }) => rule === workspace.rules[0] && records > 0)).toBe(othersAct);
  expect(await stands()).toEqual(expected);
  expect(await flawsIn(workspace)).toEqual([]);
});

test.each([
  [true, ['2', 'agreed', 'open']],
  [false, ['2', 'requested', 'planned']],
])('so is what a change of the model fills: %s', async (othersAct, expected) => {
  // What the rule sums up is a field that becomes required: where it is empty it has a value from then on.
  const summed = rollUp({
    ...{ type: 'exhibition', target: 'artefactCount', aggregate: 'sum', whenNone: '0' },
    ...{ route: [down('loan', 'exhibition')], condition: null, value: fieldOf('artefactCount') },
  });
  const id = await createRule({ ...by(), name: 'Summed', definition: summed });
  await changeState({ ...by(), id, state: 'live' });
  const { modelVersion: version } = await workspace.load();
  const field = model.field('loan', 'artefactCount')!;
  const to = { ...field, required: true };
  const changes = [{ kind: 'changeField', type: 'loan', to, whereEmpty: '2' } as const];
  const { reacting, isPossible } = await rehearseModel(workspace.key, changes);
  expect(isPossible).toBe(true);
  expect(reacting.map(({ name }) => name)).toEqual(['Agree']);
  await applyModelChanges({ ...by(), changes, version, othersAct });
  expect(await stands()).toEqual(expected);
  expect(await flawsIn(workspace)).toEqual([]);
});

test('a rule that cascades what was filled by itself isn’t among those that are asked about', async () => {
  const id = await createRule({
    ...by(),
    name: 'Coordinator',
    definition: { ...CASCADES.coordinator, assignments: [from('coordinator')] },
  });
  expect((await previewLive(workspace.key, id)).reacting).toEqual([]);
});
