import {
  galleries,
  gbp,
  INSURED_TOTAL,
  LOAN_ARTEFACTS,
  EXHIBITION_ARTEFACTS,
  rowOf,
  uuid,
} from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { listRules } from '@/server/queries/rules/rules';
import { driftIn } from '@/server/testing/drift';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { pauseTogether, takeLiveTogether } from './change-state';
import { previewTogether } from './preview-live';
import { tagRules } from './tag-rules';
import { createRule } from './write-rules';

const model = galleries();
const [silk, loan] = [uuid('11'), uuid('21')];
let workspace: TestWorkspace;
let ids: string[];
beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: [] },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      rowOf(model, 'loan', loan, { exhibition: silk, stage: 'agreed', insuredValue: gbp('7') }),
      rowOf(model, 'artefact', uuid('31'), { title: 'Cope', loan }),
    ],
  });
  ids = [];
  for (const definition of [INSURED_TOTAL, EXHIBITION_ARTEFACTS, LOAN_ARTEFACTS])
    ids.push(await createRule({ ...by(), definition }));
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const rules = async () => listRules(await workspace.load());
const statesOf = async () => (await rules()).map(({ state }) => state);

test('several rules are previewed together, each as it would be with the others, and taken live in one run', async () => {
  const { effects, fromNowOn, proofs } = await previewTogether(workspace.key, ids);
  expect(fromNowOn).toEqual([]);
  expect(proofs).toEqual({ proofs: 0, held: 0, missed: [] });
  // The exhibition's count reads what the loan's gives: 1 only where both go live.
  expect(
    effects
      .map(({ type, fieldName, changed, largest }) => [type, fieldName, changed, largest[0]?.after.text])
      .sort(),
  ).toEqual([
    ['exhibition', 'Artefact count', 1, '1'],
    ['exhibition', 'Insured total', 1, '7.00 GBP'],
    ['loan', 'Artefact count', 1, '1'],
  ]);
  expect(await statesOf()).toEqual(['draft', 'draft', 'draft']);
  const { run, written } = await takeLiveTogether({ ...by(), ids });
  expect(run).not.toBeNull();
  expect(written.reduce((sum, { records }) => sum + records, 0)).toBe(3);
  expect(await statesOf()).toEqual(['live', 'live', 'live']);
  expect(await driftIn(workspace)).toEqual([]);
});

test('several are paused in one run; one that isn’t live is told, and none is paused then', async () => {
  await takeLiveTogether({ ...by(), ids: ids.slice(0, 2) });
  expect(await refusal(pauseTogether({ ...by(), ids }))).toMatchObject({
    ...{ status: 409, code: 'rule.notLive' },
  });
  expect((await statesOf()).filter((state) => state === 'live')).toHaveLength(2);
  await pauseTogether({ ...by(), ids: ids.slice(0, 2) });
  expect(new Set(await statesOf())).toEqual(new Set(['paused', 'draft']));
  const [row] = (await workspace.rows()).filter((one) => one.id === silk);
  expect(row!.values.insuredTotal).toEqual(gbp('7'));
});

test('tags are given to several and taken from several, none twice; too many are refused for all', async () => {
  const tags = async () => new Map((await rules()).map((rule) => [rule.id, rule.tags]));
  await tagRules({ ...by(), rules: ids.slice(0, 2), add: ['Money', 'Insurer'] });
  await tagRules({ ...by(), rules: ids, add: ['money', 'Counts'], remove: ['insurer'] });
  expect((await tags()).get(ids[0]!)).toEqual(['Money', 'Counts']);
  expect((await tags()).get(ids[2]!)).toEqual(['money', 'Counts']);
  const many = Array.from({ length: 19 }, (_, at) => `t${at}`);
  const found = await refusal(tagRules({ ...by(), rules: [...ids].reverse(), add: many }));
  expect(found).toMatchObject({ status: 422, code: 'rule.tags' });
  expect((await tags()).get(ids[2]!)).toEqual(['money', 'Counts']);
});
