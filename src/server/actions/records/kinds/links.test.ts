import { PLAIN_FORMS } from '@/core/values';
import type { WireEdit } from '@/core/engine';
import { type ImportPlan } from '@/core/intake';
import type { LinkRule, RuleDefinition } from '@/core/rules';
import { rollUp, rowOf, uuid } from '@/core/testing/galleries';
import { numbered } from '@/core/testing/rule-desk';
import { CRATE, lending, lendingWithRoots, own, ROOT, TOP } from '@/core/testing/lending';
import { familyStore } from '@/core/verify';
import { Readable } from 'node:stream';
import { disconnect } from '@/server/database/connection';
import { getExplanation } from '@/server/queries/records/explanation';
import { getFamily } from '@/server/queries/records/family';
import { listProposals } from '@/server/queries/today/proposals';
import { getRecord } from '@/server/queries/records/records';
import { edit } from '@/server/testing/edits';
import { flawsIn } from '@/server/testing/flaws';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { decideProposals } from '@/server/actions/records/decide-proposals';
import { editList } from '@/server/actions/records/edit-list';
import { importFile } from '@/server/actions/imports/import-file';
import { rehearseOnData } from '@/server/actions/records/rehearse';
import { changeState } from '@/server/actions/rules/change-state';
import { createRule } from '@/server/actions/rules/write-rules';
import { saveEdits } from '@/server/actions/records/save-edits';
import { undoRun } from '@/server/undo/undo-run';

const model = lending();
const [trust, museum, annex, other] = [uuid('1'), uuid('2'), uuid('3'), uuid('4')];
const [robes, pots] = [uuid('11'), uuid('12')];
const [first, second] = [uuid('21'), uuid('22')];
const [vase, bowl] = [uuid('31'), uuid('32')];
const ROWS = [
  rowOf(model, 'lender', trust, { title: 'Trust' }),
  rowOf(model, 'lender', museum, { title: 'Museum', partOf: trust }),
  rowOf(model, 'lender', annex, { title: 'Annex', partOf: museum }),
  rowOf(model, 'lender', other, { title: 'Other' }),
  rowOf(model, 'loan', robes, { title: 'Robes', lender: annex }),
  rowOf(model, 'loan', pots, { title: 'Pots', lender: other }),
  rowOf(model, 'crate', first, { title: 'First', label: 'Kiste Ä1', day: '2027-01-01' }),
  rowOf(model, 'crate', second, { title: 'Second', label: 'B2', day: '2027-02-01' }),
  rowOf(model, 'artefact', vase, { title: 'Vase' }),
  rowOf(model, 'artefact', bowl, { title: 'Bowl', crateLabel: 'b2' }),
];
let workspace: TestWorkspace;
const begin = async (...rules: RuleDefinition[]) => {
  workspace = await testWorkspace({ model, rows: ROWS, rules: numbered(rules) });
};
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const save = (...edits: WireEdit[]) => saveEdits({ ...by(), edits });
const at = async (type: string, id: string, field: string) =>
  (await workspace.rows()).find((row) => row.id === id && row.type === type)!.values[field];
const tops = () => Promise.all([robes, pots].map((id) => at('loan', id, 'top')));
const sound = async () => expect(await flawsIn(workspace)).toEqual([]);

const COUNT = rollUp({
  ...{ type: 'lender', target: 'loans', aggregate: 'count', value: null, whenNone: '0' },
  route: [{ direction: 'down', type: 'loan', link: 'top' }],
});

test('taken live it fills every record, and follows what moves above, with the totals over it', async () => {
  await begin(TOP, COUNT);
  expect(await tops()).toEqual([trust, other]);
  const { ripple, run } = await save(edit('lender', museum, { partOf: other }));
  expect(ripple.waves.map(({ changes }) => changes.map(({ fieldName }) => fieldName))).toEqual([
    ['Part of'],
    ['Top lender'],
    ['Loan count', 'Loan count'],
  ]);
  expect([await tops(), String(await at('lender', other, 'loans'))]).toEqual([[other, other], '2']);
  expect(await refusal(save(edit('loan', robes, { top: trust })))).toMatchObject({
    parts: [{ code: 'edit.kept' }],
  });
  expect((await getRecord(await workspace.load(), 'loan', robes)).claimed).toEqual(['top']);
  await sound();
  await undoRun({ ...by(), run: run! });
  expect(await tops()).toEqual([trust, other]);
  await sound();
});

test('a link to the own type names the topmost above: filled as it is taken live, followed by saves, files and undo', async () => {
  const roots = () => Promise.all([trust, museum, annex, other].map((id) => at('lender', id, 'root')));
  workspace = await testWorkspace({ model: lendingWithRoots(), rows: ROWS, rules: [] });
  const id = await createRule({ ...by(), name: 'Root', definition: ROOT });
  await changeState({ ...by(), id, state: 'live' });
  expect(await roots()).toEqual([null, trust, trust, null]);
  const { run } = await save(
    edit('lender', museum, { partOf: null }),
    edit('lender', trust, { partOf: museum }),
  );
  expect(await roots()).toEqual([museum, null, museum, null]);
  expect(await refusal(save(edit('lender', museum, { root: other })))).toMatchObject({
    parts: [{ code: 'edit.kept' }],
  });
  await sound();
  await undoRun({ ...by(), run: run! });
  expect(await roots()).toEqual([null, trust, trust, null]);
  await editList({ ...by(), type: 'lender', search: 'Trust', values: { partOf: other }, expected: 1 });
  expect(await roots()).toEqual([other, other, other, null]);
  await sound();
  await expect(
    changeState({ ...by(), id, state: 'paused' }).then(() =>
      changeState({ ...by(), id, state: 'live', pilot: { kind: 'records', ids: [annex] } }),
    ),
  ).rejects.toThrow(/with one another/);
});

test('a rehearsal on the real data climbs on through lenders that it had read before', async () => {
  await begin(TOP);
  const edits = [edit('lender', museum, { title: 'Town museum' }), edit('loan', pots, { lender: annex })];
  const { ripple } = await rehearseOnData({ workspace: workspace.key, edits, drafts: [] });
  expect(ripple.waves[1]!.changes).toMatchObject([
    { id: pots, fieldName: 'Top lender', after: { wire: trust } },
  ]);
});

test('what lies in the bin on the way up is as if it weren’t there', async () => {
  await begin({ ...TOP, none: 'clear' }, COUNT);
  await save({ kind: 'delete', type: 'lender', id: trust });
  expect(await tops()).toEqual([museum, other]);
  await save({ kind: 'restore', type: 'lender', id: trust });
  expect(await tops()).toEqual([trust, other]);
  await sound();
});

test.each<[string, LinkRule]>([
  ['where it is empty', CRATE],
  [
    'always, the last by its day',
    {
      ...CRATE,
      holds: 'always',
      none: 'clear',
      find: {
        ...CRATE.find,
        several: 'first',
        order: { field: own('day'), isLast: true },
      } as LinkRule['find'],
    },
  ],
])('what has the same is found %s', async (_, rule) => {
  await begin(rule);
  expect(await at('artefact', bowl, 'crate')).toBe(second);
  await save(edit('artefact', vase, { crateLabel: 'KISTE ä1' }));
  expect(await at('artefact', vase, 'crate')).toBe(first);
  await save(
    edit('artefact', vase, { crateLabel: 'C3' }),
    edit('artefact', bowl, { crate: null, crateLabel: 'c3' }),
  );
  await save({ kind: 'create', type: 'crate', id: uuid('23'), values: { title: 'Third', label: 'c3' } });
  expect(await at('artefact', bowl, 'crate')).toBe(uuid('23'));
  await sound();
});

describe('of several', () => {
  const waiting = async () => (await listProposals(await workspace.load(), false)).proposals;

  test('a person is asked, and chooses', async () => {
    await begin(CRATE);
    await save({ kind: 'create', type: 'crate', id: uuid('23'), values: { title: 'Third', label: 'B2' } });
    await save(edit('artefact', vase, { crateLabel: 'b2' }));
    const [one, ...others] = await waiting();
    expect(others).toEqual([]);
    expect(one).toMatchObject({ kind: 'choose', rule: { kind: 'link' }, target: { id: vase } });
    expect(one!.fields[0]!.candidates.map(({ title }) => title)).toEqual(['Second', 'Third']);
    const decided = await decideProposals({
      ...by(),
      decisions: [{ id: one!.id, decision: 'approve', values: { crate: uuid('23') } }],
    });
    expect([decided[0]!.problem, await at('artefact', vase, 'crate')]).toEqual([null, uuid('23')]);
    await sound();
  });

  test('nobody is asked any more once one is entered', async () => {
    await begin(CRATE);
    await save({ kind: 'create', type: 'crate', id: uuid('23'), values: { title: 'Third', label: 'B2' } });
    await save(edit('artefact', vase, { crateLabel: 'b2' }));
    await save(edit('artefact', vase, { crate: first }));
    expect(await waiting()).toEqual([]);
  });

  test('an import links what matches one, asks of several, and leaves what matches none', async () => {
    await begin(CRATE);
    await save({ kind: 'create', type: 'crate', id: uuid('23'), values: { title: 'Third', label: 'D4' } });
    await save({ kind: 'create', type: 'crate', id: uuid('24'), values: { title: 'Fourth', label: 'd4' } });
    const plan: ImportPlan = {
      ...{
        format: 'csv',
        encoding: 'utf-8',
        separator: ',',
        forms: PLAIN_FORMS,
        refused: 'stop',
        key: ['title'],
      },
      columns: ['title', 'crateLabel'].map((field) => ({ column: field, field })),
    };
    const file = 'title,crateLabel\nOne,B2\nTwo,D4\nThree,None\nVase,kiste ä1\n';
    await importFile({ ...by(), type: 'artefact', bytes: Readable.from([Buffer.from(file)]), plan });
    const crates = Object.fromEntries(
      (await workspace.rows())
        .filter(({ type }) => type === 'artefact')
        .map(({ values }) => [values.title, values.crate]),
    );
    expect(crates).toMatchObject({ One: second, Two: null, Three: null, Vase: first });
    expect((await waiting()).map(({ source }) => source.title)).toEqual(['Two']);
    await sound();
  });
});

test('an edit of a list moves what hangs beneath, and is rehearsed alike', async () => {
  await begin(TOP, COUNT);
  const rehearsed = await rehearseOnData({
    workspace: workspace.key,
    drafts: [],
    edits: [edit('lender', annex, { partOf: other })],
  });
  expect(rehearsed.ripple.waves[1]!.changes[0]).toMatchObject({
    fieldName: 'Top lender',
    after: { text: 'Other' },
  });
  await editList({ ...by(), type: 'loan', search: '', values: { lender: museum }, expected: 2 });
  expect(await tops()).toEqual([trust, trust]);
  await sound();
});

test('its value opens into the way that it went, and a family brings along what it needs', async () => {
  await begin(TOP, CRATE);
  const explained = await getExplanation(await workspace.load(), {
    type: 'loan',
    id: robes,
    field: 'top',
    from: 0,
    limit: 10,
  });
  expect(explained).toMatchObject({
    result: { value: { text: 'Trust' } },
    formula: { text: 'the topmost over Part of from its Lender' },
  });
  const family = await getFamily(await workspace.load(), 'lender', museum);
  const store = familyStore(model, family);
  expect([
    store.row('loan', robes)?.values.top,
    store.hasAll('crate'),
    store.row('lender', trust)?.id,
  ]).toEqual([trust, true, trust]);
});
