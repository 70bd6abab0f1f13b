import { PLAIN_FORMS } from '@/core/values';
import type { WireEdit } from '@/core/engine';
import { type ImportPlan } from '@/core/intake';
import type { LinkRule, RuleDefinition } from '@/core/rules';
import { rollUp, rowOf, uuid } from '@/core/testing/galleries';
import { numbered } from '@/core/testing/rule-desk';
import {
  CRATE,
  CRATE_KEPT,
  lending,
  lendingHeld,
  lendingWithRoots,
  own,
  ROOT,
  TOP,
  TOP_HELD,
} from '@/core/testing/lending';
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
import { addWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { setBounds } from '@/server/store/session/bounds';
import { inSnapshot } from '@/server/store/session/transactions';
import { run } from '@/server/store/sql/sql';
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
afterEach(() => {
  setBounds();
  return workspace.remove();
});
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

describe('required links, and one link of an open link', () => {
  const held = lendingHeld(true);
  const ARTEFACTS = [
    rowOf(held, 'artefact', vase, { title: 'Vase', crateLabel: 'kiste ä1', loan: robes }),
    rowOf(held, 'artefact', bowl, { title: 'Bowl', crateLabel: 'B2', loan: pots }),
  ];
  const beginHeld = async (...rules: RuleDefinition[]) => {
    const rows = ROWS.filter(({ type }) => type !== 'artefact').map((row) =>
      row.type === 'loan' ? { ...row, values: { ...row.values, top: other } } : row,
    );
    workspace = await testWorkspace({ model: held, rows: [...rows, ...ARTEFACTS], rules: numbered(rules) });
  };
  const make = (type: string, id: string, values: WireEdit['values']): WireEdit => ({
    ...{ kind: 'create', type, id, values },
  });
  const places = (id: string) => Promise.all(['crate', 'loan'].map((link) => at('artefact', id, link)));
  const [newLoan, newArtefact] = [uuid('41'), uuid('51')];

  test('a required link is filled in the same save; where none is found it is refused, and nothing is saved', async () => {
    await beginHeld(TOP_HELD);
    expect(await tops()).toEqual([trust, other]);
    await save(make('loan', newLoan, { title: 'New', lender: museum }));
    expect(await at('loan', newLoan, 'top')).toBe(trust);
    const refused = await refusal(save(make('loan', uuid('42'), { title: 'Nobody’s' })));
    expect(refused.parts).toMatchObject([{ code: 'edit.required', place: 'top' }]);
    expect((await workspace.rows()).some(({ id }) => id === uuid('42'))).toBe(false);
    await sound();
  });

  test('with another rule that works out over it in SQL, and as sets', async () => {
    await beginHeld(TOP_HELD, COUNT);
    await save(make('loan', newLoan, { title: 'New', lender: museum }));
    expect([await at('loan', newLoan, 'top'), String(await at('lender', trust, 'loans'))]).toEqual([
      trust,
      '2',
    ]);
    setBounds({ mostByRow: 0, mostKeptByRow: 0, page: 2 });
    await save(make('loan', uuid('43'), { title: 'Newer', lender: annex }));
    expect([await at('loan', uuid('43'), 'top'), String(await at('lender', trust, 'loans'))]).toEqual([
      trust,
      '3',
    ]);
    expect((await refusal(save(make('loan', uuid('44'), { title: 'Nobody’s' })))).code).toBe('edit.required');
    await sound();
  });

  test('paused, it must be entered again, by the database too; live again it needn’t', async () => {
    await beginHeld(TOP_HELD);
    const { live } = await workspace.load();
    const { id } = live[0]!;
    await changeState({ ...by(), id, state: 'paused' });
    const refused = await refusal(save(make('loan', newLoan, { title: 'New', lender: museum })));
    expect(refused.parts).toMatchObject([{ code: 'edit.required', place: 'top' }]);
    const isHeld = async () => {
      const { schema } = await workspace.load();
      const [column] = await inSnapshot((transaction) =>
        run<{ held: boolean }>(
          transaction,
          `SELECT attnotnull AS held FROM pg_attribute WHERE attrelid = '"${schema}".loan'::regclass AND attname = 'top'`,
        ),
      );
      return column!.held;
    };
    expect(await isHeld()).toBe(true);
    await changeState({ ...by(), id, state: 'live' });
    expect(await isHeld()).toBe(false);
    await save(make('loan', newLoan, { title: 'New', lender: museum }));
    expect(await at('loan', newLoan, 'top')).toBe(trust);
  });

  test('of an open link it fills the one where no other is filled; a person who clears another gets it', async () => {
    await beginHeld(CRATE_KEPT);
    expect(await places(vase)).toEqual([null, robes]);
    await save({ kind: 'edit', type: 'artefact', id: vase, version: 1, values: { loan: null } });
    expect(await places(vase)).toEqual([first, null]);
    await save(make('artefact', newArtefact, { title: 'New', crateLabel: 'b2' }));
    expect(await places(newArtefact)).toEqual([second, null]);
    const refused = await refusal(
      save(make('artefact', uuid('52'), { title: 'Lost', crateLabel: 'nowhere' })),
    );
    expect(refused.parts).toMatchObject([{ code: 'edit.required', place: 'place' }]);
    await sound();
  });

  test('a file needs no column for them; a row for which none is found stops it', async () => {
    await beginHeld(TOP_HELD, CRATE_KEPT);
    const bring = (type: string, file: string, columns: readonly [string, string][]) =>
      importFile({
        ...{ ...by(), type, bytes: Readable.from([Buffer.from(file)]) },
        plan: {
          ...{ format: 'csv', encoding: 'utf-8', separator: ',', forms: PLAIN_FORMS, key: [] },
          ...{ refused: 'stop', columns: columns.map(([column, field]) => ({ column, field })) },
        },
      });
    const loans: [string, string][] = [
      ['Title', 'title'],
      ['Lender', 'lender'],
    ];
    await bring('loan', 'Title,Lender\nA,Museum\nB,Other\n', loans);
    const made = (await workspace.rows()).filter(({ values }) => ['A', 'B'].includes(String(values.title)));
    expect(made.map(({ values }) => values.top).sort()).toEqual([trust, other].sort());
    expect((await refusal(bring('loan', 'Title,Lender\nC,Museum\nD,\n', loans))).message).toMatch(
      /One Loan would have no Top lender, which is required/,
    );
    await bring('artefact', 'Title,Label\nE,b2\n', [
      ['Title', 'title'],
      ['Label', 'crateLabel'],
    ]);
    expect((await workspace.rows()).find(({ values }) => values.title === 'E')!.values.crate).toBe(second);
    await sound();
  });

  test('a copy and a bundle of the workspace hold as much', async () => {
    await beginHeld(TOP_HELD, CRATE_KEPT);
    const { key } = await addWorkspace(
      { name: 'A copy', copyOf: workspace.key, withRecords: true },
      TESTER.id,
    );
    try {
      const made = saveEdits({
        workspace: key,
        person: TESTER.id,
        edits: [make('loan', newLoan, { title: 'N', lender: museum })],
      });
      await expect(made).resolves.toMatchObject({ run: expect.any(String) });
    } finally {
      await removeWorkspace(key);
    }
  });
});
