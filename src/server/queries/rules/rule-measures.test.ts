import { PLAIN_FORMS } from '@/core/values';
import { type ImportPlan } from '@/core/intake';
import { galleries, gbp, INSURED_TOTAL, LAST_DUE, rowOf, uuid } from '@/core/testing/galleries';
import { importFile } from '@/server/actions/imports/import-file';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';
import { disconnect } from '@/server/database/connection';
import { refusal } from '@/server/testing/refusal';
import { TESTER, testWorkspace, type TestWorkspace } from '@/server/testing/workspace';
import { ruleMeasures } from './rule-measures';

const model = galleries();
const silk = uuid('11');
let workspace: TestWorkspace;

const DAYS: ImportPlan = {
  ...{ format: 'csv', encoding: 'utf-8', separator: ',', forms: PLAIN_FORMS },
  columns: [
    { column: 'Title', field: 'title' },
    { column: 'Last due back', field: 'lastDue' },
  ],
  ...{ key: ['title'], refused: 'stop' },
};

beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: [] },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      ...Array.from({ length: 40 }, (_, at) =>
        rowOf(model, 'loan', uuid(String(100 + at)), {
          ...{ title: `Loan ${at}`, exhibition: silk, insuredValue: gbp(at) },
          stage: at === 0 ? 'agreed' : null,
        }),
      ),
    ],
  });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

test('a condition on a field that hardly any record has is told with its count', async () => {
  expect((await ruleMeasures(workspace.key, INSURED_TOTAL)).map(({ why }) => why)).toEqual([
    'A condition tests Stage, which is empty in 39 of 40 Loans: of these it holds for none.',
  ]);
  expect(await ruleMeasures(workspace.key, LAST_DUE)).toEqual([]);
});

test('imports into what it would keep are told, until it is live', async () => {
  async function* bytes(): AsyncGenerator<Uint8Array> {
    yield Buffer.from('Title,Last due back\nRivers of Silk,2027-01-01\nSalt Roads,2027-02-01\n');
  }
  await importFile({
    ...{ workspace: workspace.key, person: TESTER.id, type: 'exhibition', plan: DAYS, bytes: bytes() },
  });
  const said = async () => (await ruleMeasures(workspace.key, LAST_DUE)).map(({ code, why }) => [code, why]);
  expect(await said()).toEqual([
    ['review.imported', expect.stringMatching(/^An import filled Last due back on 2 Exhibitions, last on /)],
  ]);
  const by = { workspace: workspace.key, person: TESTER.id };
  const id = await createRule({ ...by, definition: LAST_DUE });
  await changeState({ ...by, id, state: 'live' });
  expect(await said()).toEqual([]);
});

test('what a rule filled along with an import isn’t told as filled by it', async () => {
  async function* bytes(): AsyncGenerator<Uint8Array> {
    yield Buffer.from('Title\nRivers of Silk\nSalt Roads\n');
  }
  const by = { workspace: workspace.key, person: TESTER.id };
  const id = await createRule({ ...by, definition: INSURED_TOTAL });
  await changeState({ ...by, id, state: 'live' });
  const plan = { ...DAYS, columns: DAYS.columns.slice(0, 1) };
  await importFile({ ...by, type: 'exhibition', plan, bytes: bytes() });
  await changeState({ ...by, id, state: 'paused' });
  const said = (await ruleMeasures(workspace.key, INSURED_TOTAL)).map(({ code }) => code);
  expect(said).not.toContain('review.imported');
});

test('a rule that doesn’t fit the model is refused', async () => {
  const gone = { ...INSURED_TOTAL, target: 'gone' };
  expect((await refusal(ruleMeasures(workspace.key, gone))).parts[0]).toMatchObject({ code: 'rule.target' });
});
