import { readFileSync } from 'node:fs';
import { type Bundle } from '@/core/intake';
import { readModel } from '@/core/model';
import { ALL_RULES, galleries, gbp, rowOf, uuid } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { getFamily } from '@/server/queries/records/family';
import { proofsOf } from '@/server/queries/rules/proofs';
import { listRules } from '@/server/queries/rules/rules';
import { loadWorkspace } from '@/server/store/session/workspace';
import { driftIn } from '@/server/testing/drift';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { bundleSchema } from '@/server/forms/bundle-schema';
import { exportBundle } from './export-bundle';
import { importBundle } from './import-bundle';
import { compareBundle, mergeBundle, rehearseMerge } from './merge-bundle';
import { recordEdits } from './bundle-records';
import { removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { saveEdits } from '@/server/actions/records/save-edits';
import { requestViews } from '@/server/queries/rules/requests';
import { keepProof } from '@/server/actions/rules/proofs';
import { addRequest } from '@/server/actions/rules/requests';
import { keepFamily, sampleFamilies } from '@/server/actions/rules/sample-families';
import { addList } from '@/server/actions/records/saved-lists';
import { createRule } from '@/server/actions/rules/write-rules';

const model = readModel(
  {
    types: galleries().types,
    selections: [
      {
        ...{ key: 'due', name: 'Due', type: 'loan' },
        condition: {
          kind: 'presence',
          operator: 'isNotEmpty',
          operand: { kind: 'field', route: [], field: 'dueBack' },
        },
      },
    ],
  },
  '2026-03-14',
);
const [museum, wing, silk, loan] = ['1', '2', '11', '21'].map(uuid) as [string, string, string, string];
let workspace: TestWorkspace;
const made: string[] = [];

beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: ALL_RULES },
    rows: [
      rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
      rowOf(model, 'institution', wing, { title: 'West wing', partOf: museum }),
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', venue: wing, open: true }),
      rowOf(model, 'loan', loan, {
        ...{
          title: 'Robes “of state”',
          exhibition: silk,
          stage: 'agreed',
          insuredValue: gbp(100),
          dueBack: '2027-02-28',
        },
      }),
    ],
  });
  await keepFamily(by(), { name: 'Silk', note: 'To try', root: { type: 'exhibition', id: silk } });
  const { proof } = await keepProof(by(), {
    ...{ rule: workspace.rules[0]!, name: 'As it stands', runs: [], day: '2026-03-14' },
    family: await getFamily(await loadWorkspace(workspace.key), 'exhibition', silk),
    expectations: [
      {
        ...{ kind: 'becomes', type: 'exhibition', id: silk, field: 'insuredTotal' },
        value: { amount: '100', currency: 'GBP' },
      },
    ],
  });
  await addRequest(by(), {
    ...{ name: 'Insured total', askedBy: 'Ines', words: 'Show what the loans are worth.', due: '2026-06-01' },
    points: [{ text: 'Agreed loans count', proofs: [proof.id] }],
    rules: [workspace.rules[0]!],
  });
  await addList(by(), { name: 'Due', definition: { kind: 'joined', selections: ['due'] } });
});
afterEach(async () => {
  for (const key of made.splice(0)) await removeWorkspace(key);
  await workspace.remove();
});
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
async function textOf(key: string, withRecords = true): Promise<string> {
  let text = '';
  for await (const piece of exportBundle(key, withRecords)) text += piece;
  return text;
}
async function imported(text: string, name: string): Promise<string> {
  const { key } = await importBundle(text, name, TESTER.id);
  made.push(key);
  return key;
}
const changed = (text: string, change: (bundle: Bundle) => object): string =>
  JSON.stringify(change(JSON.parse(text) as Bundle));

test('exported, imported and exported again a bundle is the same to the byte, and its totals are right', async () => {
  const draft = await createRule({
    ...{ ...by(), definition: ALL_RULES[0]!.definition, name: 'Beside it', tags: ['Insurer', 'later'] },
  });
  const text = await textOf(workspace.key);
  // One thing a line: a change of a rule changes one line of it.
  const ruleLines = text.split('\n').filter((line) => line.startsWith('{"definition":{"aggregate"'));
  expect(ruleLines).toHaveLength(ALL_RULES.length + 1);
  const copy = await imported(text, `${workspace.key} again`);
  // Its day is today's, whatever it was there.
  const ofDay = (of: string) => of.replace(/"settledDay":"[^"]*"/, '"settledDay":"2026-03-14"');
  expect(ofDay((await textOf(copy)).replace(`${workspace.key} again`, workspace.key))).toBe(ofDay(text));
  const rows = await workspace.rowsOf(copy);
  expect(rows.find(({ id }) => id === silk)!.values.insuredTotal).toEqual(gbp(100));
  expect(await driftIn({ load: () => loadWorkspace(copy) })).toEqual([]);
  const rules = await listRules(await loadWorkspace(copy));
  expect(rules.find(({ id }) => id === draft)).toMatchObject({ state: 'draft', name: 'Beside it' });
  // Without records there are none, and a bundle of that comes back the same too.
  const empty = await textOf(workspace.key, false);
  const shell = await imported(empty, `${workspace.key} shell`);
  expect(await workspace.rowsOf(shell)).toEqual([]);
  expect(ofDay((await textOf(shell, false)).replace(`${workspace.key} shell`, workspace.key))).toBe(
    ofDay(empty),
  );
});

test('a file that isn’t a bundle, is damaged, newer, or says what can’t be, is refused, and nothing is left of it', async () => {
  const text = await textOf(workspace.key);
  const code = async (of: string) => (await refusal(importBundle(of, `${workspace.key} x`, TESTER.id))).code;
  expect(await code(text.slice(0, -20))).toBe('bundle.damaged');
  expect(await code('[]')).toBe('bundle.format');
  expect(await code(changed(text, (bundle) => ({ ...bundle, version: 3 })))).toBe('bundle.newer');
  expect(await code(changed(text, (bundle) => ({ ...bundle, proof: [] })))).toBe('input.shape');
  for (const change of [{ rule: uuid('77') }, { id: uuid('78') }])
    expect(
      await code(
        changed(text, (bundle) => ({
          ...bundle,
          proofs: [...bundle.proofs, { ...bundle.proofs[0]!, ...change }],
        })),
      ),
    ).toBe('id' in change ? 'bundle.proof' : 'input.shape');
  expect(await code(changed(text, (bundle) => ({ ...bundle, types: bundle.types.slice(1) })))).toBe(
    'model.field',
  );
  expect(
    await code(
      changed(text, (bundle) => ({ ...bundle, selections: [{ ...bundle.selections[0]!, type: 'none' }] })),
    ),
  ).toBe('expression.selection');
  expect(
    await code(
      changed(text, (bundle) => ({
        ...bundle,
        rules: [...bundle.rules, { ...bundle.rules[0]!, id: uuid('77') }],
      })),
    ),
  ).toBe('plan.twoWriters');
  const broken = (change: (values: Record<string, unknown>) => Record<string, unknown>, id: string) =>
    changed(text, (bundle) => ({
      ...bundle,
      records: bundle.records!.map((record) =>
        record.id === id ? { ...record, values: change(record.values) } : record,
      ),
    }));
  expect(await code(broken((values) => ({ ...values, exhibition: uuid('99') }), loan))).toBe('link.gone');
  expect(await code(broken((values) => ({ ...values, partOf: wing }), museum))).toBe('link.loop');
  expect(await code(broken((values) => ({ ...values, stage: 'lost' }), loan))).toBe('value.option');
  expect(await refusal(loadWorkspace(`${workspace.key}-x`))).toMatchObject({ code: 'workspace.unknown' });
  // What has no name at all is told as such.
  expect(await code(changed(text, (bundle) => ({ ...bundle, requests: [{}, {}, null] })))).toBe(
    'input.shape',
  );
  // Records are read in slices, and counted from the first of all.
  const wrong = changed(text, (bundle) => {
    const [first] = bundle.records!;
    return { ...bundle, records: [...Array.from({ length: 700 }, () => first), { ...first, id: 'none' }] };
  });
  expect((await refusal(importBundle(wrong, null, TESTER.id))).parts).toMatchObject([
    { place: 'records.700.id', message: expect.stringContaining('records[700].id') as string },
  ]);
  expect(
    await code(changed(text, (bundle) => ({ ...bundle, workspace: { ...bundle.workspace, name: '' } }))),
  ).toBe('input.shape');
});

test('a bundle is compared with a workspace; what is chosen is rehearsed and taken over, rules as drafts', async () => {
  const text = changed(await textOf(workspace.key), (bundle) => ({
    ...bundle,
    types: [
      ...bundle.types.map((type) =>
        type.key === 'loan'
          ? {
              ...{ ...type, plural: 'Loan files' },
              fields: [
                ...type.fields.filter(({ key }) => key !== 'weight'),
                { key: 'packed', name: 'Packed', type: { kind: 'yesNo' } },
                { key: 'crate', name: 'Crate', type: { kind: 'link', target: 'crate' }, otherEnd: 'Loans' },
              ],
            }
          : type,
      ),
      {
        ...{ key: 'crate', name: 'Crate', plural: 'Crates', title: 'label' },
        fields: [
          { key: 'label', name: 'Label', type: { kind: 'text' }, required: true },
          { key: 'loan', name: 'Loan', type: { kind: 'link', target: 'loan' }, otherEnd: 'Crates' },
        ],
      },
    ],
    selections: [],
    ...{ lists: [], families: [], proofs: bundle.proofs.map((proof) => ({ ...proof, name: 'Renamed' })) },
    rules: bundle.rules.map((rule, at) => (at === 0 ? { ...rule, note: 'Asked for by the insurer' } : rule)),
    requests: bundle.requests.map((request) => ({
      ...{ ...request, due: null },
      points: request.points.map((point) => ({
        ...point,
        proofs: point.proofs.map((one) => ({ ...one, name: 'Renamed' })),
      })),
    })),
  }));
  const { differences, version, records } = await compareBundle(workspace.key, text);
  expect(records).toEqual([]);
  expect(differences.map(({ id, kind }) => [id.replace(/ [0-9a-f-]{36}$/, ''), kind])).toEqual([
    ['types loan', 'changed'],
    ['types crate', 'new'],
    ['fields loan.weight', 'gone'],
    ['fields loan.packed', 'new'],
    ['fields loan.crate', 'new'],
    ['selections due', 'gone'],
    ['rules', 'changed'],
    ['lists due', 'gone'],
    ['families silk', 'gone'],
    [`proofs ${workspace.rules[0]} as it stands`, 'gone'],
    [`proofs ${workspace.rules[0]} renamed`, 'new'],
    ['requests insured total', 'changed'],
  ]);
  const chosen = differences
    .map(({ id }) => id)
    .filter((id) => id !== 'selections due' && id !== 'lists due');
  const told = await rehearseMerge(workspace.key, { bundle: text, chosen });
  expect(told).toMatchObject({ isPossible: true, problems: [], blocked: [] });
  const merged = await mergeBundle(by(), { bundle: text, chosen, version });
  expect(merged).toMatchObject({ rules: 1, lists: 0 });
  const after = await compareBundle(workspace.key, text);
  expect(after.differences.map(({ id }) => id)).toEqual(['selections due', 'lists due']);
  expect(await sampleFamilies(workspace.key)).toEqual([]);
  const [proof, ...others] = await proofsOf(workspace.key, workspace.rules[0]!);
  expect([proof, others]).toMatchObject([{ proof: { name: 'Renamed' }, result: { kind: 'held' } }, []]);
  expect(await requestViews(workspace.key)).toMatchObject([
    { due: null, standing: { points: [true] }, points: [{ proofs: [proof!.proof.id] }] },
  ]);
  expect(await driftIn(workspace)).toEqual([]);
  const stale = await refusal(mergeBundle(by(), { bundle: text, chosen: ['selections due'], version }));
  expect(stale.code).toBe('model.version');
});

test('the published schema is that by which bundles are read', () => {
  const published: unknown = JSON.parse(readFileSync('docs/oikon.bundle.schema.json', 'utf8'));
  expect(bundleSchema()).toEqual(published);
});

test('records are compared by what people enter, and come over as edits that are saved as any others', async () => {
  let text = '';
  for await (const piece of exportBundle(workspace.key, true)) text += piece;
  const bundle = JSON.parse(text) as Bundle;
  expect((await compareBundle(workspace.key, text)).records).toEqual([]);
  const [extra, gone] = [uuid('28'), uuid('29')];
  const other = JSON.stringify({
    ...bundle,
    records: [
      ...bundle.records!.map((record) =>
        record.id === loan
          ? { ...record, values: { ...record.values, insuredValue: { amount: '250.00', currency: 'GBP' } } }
          : record,
      ),
      { type: 'loan', id: extra, values: { title: 'Pots', exhibition: silk, stage: 'declined' } },
    ],
  });
  await saveEdits({
    ...by(),
    edits: [{ kind: 'create', type: 'institution', id: gone, values: { title: 'Only here' } }],
  });
  const { records, differences } = await compareBundle(workspace.key, other);
  expect(differences).toEqual([]);
  expect(records.map(({ id, records: count, titles }) => [id, count, titles])).toEqual([
    ['institution gone', 1, ['Only here']],
    ['loan new', 1, ['Pots']],
    ['loan changed', 1, ['Robes “of state”']],
  ]);
  const chosen = records.map(({ id }) => id);
  const edits = await recordEdits(workspace.key, { bundle: other, chosen });
  expect(edits.map(({ kind, id }) => [kind, id])).toEqual([
    ['delete', gone],
    ['edit', loan],
    ['create', extra],
  ]);
  expect(edits[1]!.values).toEqual({ insuredValue: { amount: '250.00', currency: 'GBP' } });
  await saveEdits({ ...by(), edits });
  expect((await compareBundle(workspace.key, other)).records).toEqual([]);
  expect(await driftIn(workspace)).toEqual([]);
  // Deleted here since, a record of the bundle is new again: it comes back from the bin.
  await saveEdits({ ...by(), edits: [{ kind: 'delete', type: 'loan', id: extra }] });
  expect(await recordEdits(workspace.key, { bundle: other, chosen: ['loan new'] })).toEqual([
    { kind: 'restore', type: 'loan', id: extra },
  ]);
});
