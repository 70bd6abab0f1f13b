import { ALL_RULES, galleries, gbp, rowOf, uuid } from '@/core/testing/galleries';
import { familyAfter, familyByHand, familyStore, recordToWire, rehearse } from '@/core/verify';
import { disconnect } from '@/server/database/connection';
import { loadWorkspace } from '@/server/store/session/workspace';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { applyModelChanges } from '@/server/actions/model/change-model';
import {
  keepFamiliesBy,
  keepFamily,
  removeFamily,
  sampleFamilies,
  sampleFamily,
  sampleFamilyDrift,
} from './sample-families';
import { saveEdits } from '@/server/actions/records/save-edits';

const model = galleries();
const [silk, maps, robes, pots, fan] = ['11', '12', '21', '22', '31'].map(uuid) as [
  ...[string, string, string, string, string],
];
const loan = (id: string, title: string, exhibition: string, stage: string, amount: number) =>
  rowOf(model, 'loan', id, { title, exhibition, stage, insuredValue: gbp(amount) });
let workspace: TestWorkspace;

beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: ALL_RULES },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
      rowOf(model, 'exhibition', maps, { title: 'The Mapmaker’s Table' }),
      loan(robes, 'Robes', silk, 'agreed', 100),
      loan(pots, 'Pots', silk, 'declined', 7),
      rowOf(model, 'artefact', fan, { title: 'Fan', loan: robes }),
    ],
  });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const root = { type: 'exhibition', id: silk };

test('a kept family is a copy: edits of the data don’t change it, and are told', async () => {
  const kept = await keepFamily(by(), { name: ' Silk ', note: 'Declined loans', root });
  expect(kept).toMatchObject({ name: 'Silk', members: 4, root, person: TESTER.name });
  const before = await sampleFamily(workspace.key, kept.id);
  expect(await sampleFamilyDrift(workspace.key, kept.id)).toEqual({ changed: [], gone: [], added: [] });
  await saveEdits({
    ...by(),
    edits: [
      {
        kind: 'edit',
        type: 'loan',
        id: robes,
        values: { insuredValue: { amount: '5.00', currency: 'GBP' } },
      },
      { kind: 'edit', type: 'loan', id: pots, values: { exhibition: maps } },
      { kind: 'create', type: 'loan', id: uuid('23'), values: { title: 'Bowls', exhibition: silk } },
    ],
  });
  expect(await sampleFamily(workspace.key, kept.id)).toEqual(before);
  expect(await sampleFamilyDrift(workspace.key, kept.id)).toMatchObject({
    changed: [
      { title: 'Rivers of Silk', fields: expect.arrayContaining(['Insured total']) },
      { title: 'Robes', fields: ['Insured value'] },
    ],
    ...{ gone: [{ title: 'Pots' }], added: [{ title: 'Bowls' }] },
  });
  await removeFamily(by(), kept.id);
  expect(await sampleFamilies(workspace.key)).toEqual([]);
});

test('only the links that are followed are gone down, and what isn’t here is outside, not a number', async () => {
  const kept = await keepFamily(by(), { name: 'Loans only', root, links: ['loan.exhibition'] });
  expect(kept.members).toBe(3);
  const family = await sampleFamily(workspace.key, kept.id);
  expect(family.members).not.toContain(fan);
});

test('one family is kept for each option that a record has', async () => {
  const kept = await keepFamiliesBy(by(), { name: 'Loan', type: 'loan', field: 'stage' });
  expect(kept.map(({ name, root: { id } }) => [name, id])).toEqual([
    ['Loan Agreed', robes],
    ['Loan Declined', pots],
  ]);
  expect((await refusal(keepFamiliesBy(by(), { name: 'Loan', type: 'loan', field: 'title' }))).code).toBe(
    'family.field',
  );
});

test('a family by hand grows on the bench and is kept as it stands, with what rules gave it', async () => {
  const { live } = await loadWorkspace(workspace.key);
  const hand = familyByHand(model, 'exhibition', uuid('50'), 'By hand');
  const { after } = rehearse({
    ...{ model, live, drafts: [], store: familyStore(model, hand), people: new Set<string>(), names: {} },
    newId: () => uuid('51'),
    edits: [
      {
        ...{ kind: 'create', type: 'loan', id: uuid('51') },
        values: {
          ...{ title: 'Bowl', exhibition: uuid('50'), stage: 'agreed' },
          insuredValue: { amount: '12.00', currency: 'GBP' },
        },
      },
    ],
  });
  const records = model.types.flatMap(({ key }) =>
    [...after.rows(key)].map((row) => recordToWire(model, row)),
  );
  const kept = await keepFamily(by(), { name: 'By hand', data: familyAfter(model, hand, records) });
  const family = await sampleFamily(workspace.key, kept.id);
  expect(family.members).toHaveLength(2);
  expect(family.complete).toContainEqual({ type: 'artefact', link: 'loan', parent: uuid('51') });
  const stored = family.records.find(({ id }) => id === uuid('50'))!;
  expect(stored.values.insuredTotal).toEqual({ amount: '12.00', currency: 'GBP' });
  // There is no such record in the data.
  expect((await sampleFamilyDrift(workspace.key, kept.id)).gone).toHaveLength(2);
});

test('it is read on the model as it is by then, and refused where it can’t be kept', async () => {
  const kept = await keepFamily(by(), { name: 'Silk', root });
  const plain = await testWorkspace({
    model,
    rules: [],
    rows: [rowOf(model, 'exhibition', silk, { title: 'Silk' })],
  });
  const mine = { workspace: plain.key, person: TESTER.id };
  const other = await keepFamily(mine, { name: 'Silk', root });
  const { modelVersion: version } = await loadWorkspace(plain.key);
  await applyModelChanges({
    ...mine,
    version,
    changes: [{ kind: 'removeField', type: 'exhibition', key: 'open' }],
  });
  const [record] = (await sampleFamily(plain.key, other.id)).records;
  expect(record!.values).not.toHaveProperty('open');
  await plain.remove();

  const codes = async (work: Promise<unknown>) => (await refusal(work)).code;
  expect(await codes(keepFamily(by(), { name: 'SILK', root }))).toBe('family.taken');
  expect(await codes(keepFamily(by(), { name: ' ', root }))).toBe('family.name');
  expect(await codes(keepFamily(by(), { name: 'X', root: { type: 'exhibition', id: uuid('99') } }))).toBe(
    'record.unknown',
  );
  const family = await sampleFamily(workspace.key, kept.id);
  const broken = {
    ...family,
    records: family.records.map((one) => ({ ...one, values: { ...one.values, title: 7 } })),
  };
  expect(await codes(keepFamily(by(), { name: 'X', data: broken as typeof family }))).toBe('family.data');
  expect(await codes(sampleFamily(workspace.key, uuid('99')))).toBe('family.unknown');
});
