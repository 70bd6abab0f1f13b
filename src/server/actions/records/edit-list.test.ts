import { ALL_RULES, fieldOf, galleries, gbp, rowOf, stageIs, uuid } from '@/core/testing/galleries';
import { readModel } from '@/core/model';
import { disconnect } from '@/server/database/connection';
import { getHistory } from '@/server/queries/ledger/history';
import { driftIn } from '@/server/testing/drift';
import { ledgerFlaws } from '@/server/testing/ledger';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { editList, rehearseListEdit } from './edit-list';
import { type ListEditInput } from '@/server/forms/types';
import { saveEdits } from './save-edits';
import { undone } from '@/server/testing/undone';
import { rehearseUndo, undoRun } from '@/server/undo/undo-run';

const base = galleries();
const model = readModel({
  types: base.types.map((type) => ({
    ...type,
    fields: type.fields.map((field) =>
      type.key === 'loan' && field.key === 'weight' ? { ...field, unique: true } : field,
    ),
  })),
});
const [museum, wing, silk, maps] = ['1', '2', '11', '12'].map(uuid) as [string, string, string, string];
const loans = Array.from({ length: 7 }, (_, at) => uuid(`2${at}`));
let workspace: TestWorkspace;

beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: ALL_RULES },
    rows: [
      rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
      rowOf(model, 'institution', wing, { title: 'West wing', partOf: museum }),
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
      rowOf(model, 'exhibition', maps, { title: 'The Mapmaker’s Table', open: false }),
      ...loans.map((id, at) =>
        rowOf(model, 'loan', id, {
          ...{ title: `Loan ${at}`, exhibition: at < 5 ? silk : maps, insuredValue: gbp(10) },
          stage: at % 2 === 0 ? 'agreed' : 'declined',
        }),
      ),
    ],
  });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

type Part = Partial<ListEditInput> & Pick<ListEditInput, 'values'>;
const given = (part: Part) => ({ workspace: workspace.key, person: TESTER.id, type: 'loan', ...part });
const rehearse = (part: Part) => rehearseListEdit(given(part));
const edit = (part: Part, expected: number) => editList({ ...given(part), expected });
const row = async (id: string) => (await workspace.rows()).find((one) => one.id === id)!;
const ofOpen = {
  kind: 'compare',
  operator: '=',
  left: fieldOf('open', 'exhibition'),
  right: { kind: 'constant', value: true },
} as const;

test('the records of a list as it is narrowed, by conditions up a route too, change as the rehearsal told', async () => {
  const part = { condition: ofOpen, values: { stage: 'agreed' } };
  const before = await workspace.rows();
  const told = await rehearse(part);
  expect(told).toMatchObject({ read: 5, created: 0, changed: 2, same: 3, refused: 0, run: null });
  expect(told.samples.changed.map(({ title }) => title)).toEqual(['Loan 1', 'Loan 3']);
  expect(told.effects.find(({ fieldName }) => fieldName === 'Insured total')!.samples).toMatchObject([
    { title: 'Rivers of Silk', before: { text: '30.00 GBP' }, after: { text: '50.00 GBP' } },
  ]);
  expect(await workspace.rows()).toEqual(before);
  const { run, ...done } = await edit(part, told.changed);
  expect({ ...done, run: null }).toEqual(told);
  expect((await row(silk)).values.insuredTotal).toEqual(gbp(50));
  expect((await row(loans[5]!)).values.stage).toBe('declined');
  const { entries } = await getHistory(await workspace.load(), { type: 'loan', id: loans[1]! });
  expect(entries[0]).toMatchObject({ run, kind: 'listEdit' });
  expect(await ledgerFlaws(workspace)).toEqual([]);
  expect(await driftIn(workspace)).toEqual([]);
});

test('it is undone as a set; what was changed since stays', async () => {
  const { run } = await edit({ condition: stageIs('agreed'), values: { dueBack: '2027-02-28' } }, 4);
  const since = { kind: 'edit', type: 'loan', id: loans[0]!, values: { dueBack: '2027-03-01' } } as const;
  await saveEdits({ workspace: workspace.key, person: TESTER.id, edits: [since] });
  const by = { workspace: workspace.key, person: TESTER.id, run: run! };
  expect(undone(await rehearseUndo(await workspace.load(), run!))).toEqual({
    ...{ written: 3, deleted: 0, restored: 0, left: 1 },
  });
  await undoRun(by);
  expect((await row(loans[0]!)).values.dueBack).toBe('2027-03-01');
  expect((await row(loans[2]!)).values.dueBack).toBeNull();
  expect(await driftIn(workspace)).toEqual([]);
});

test('a list that isn’t what was looked at any more is refused, and nothing is saved', async () => {
  const part = { values: { stage: 'returned' } };
  const { changed } = await rehearse(part);
  await saveEdits({
    ...{ workspace: workspace.key, person: TESTER.id },
    edits: [{ kind: 'edit', type: 'loan', id: loans[0]!, values: { stage: 'returned' } }],
  });
  const refused = await refusal(edit(part, changed));
  expect(refused).toMatchObject({ code: 'list.moved', data: { expected: 7, changed: 6 } });
  expect((await row(loans[1]!)).values.stage).toBe('declined');
});

test.each<[string, Part, RegExp]>([
  ['a value that isn’t one', { values: { stage: 'lost' } }, /Stage: Expected one of/],
  ['a field that a rule keeps', { values: { artefactCount: '1' } }, /kept by the rule/],
  ['no value', { values: {} }, /No field is given a value/],
  ['an empty required field', { values: { title: null } }, /Title is required/],
])('%s is refused before any record is looked at', async (_, part, message) => {
  expect((await refusal(rehearse(part))).message).toMatch(message);
});

test('records that can’t have the value are told by their titles: a value that is unique, a parent that is gone, a loop', async () => {
  const unique = await rehearse({ values: { weight: '1.000' } });
  expect(unique).toMatchObject({ changed: 1, refused: 6 });
  expect(unique.refusals[0]!.message).toMatch(/^Loan 1: Weight: “1.000” stands in line 1 already/);
  expect(await refusal(edit({ values: { weight: '1.000' } }, 1))).toMatchObject({ code: 'list.refused' });
  const gone = await rehearse({ search: 'loan 3', values: { lender: uuid('99') } });
  expect(gone.refusals.map((one) => one.message)).toEqual([
    expect.stringMatching(/^Loan 3: Lender: there is no Institution with the id/),
  ]);
  const loop = await rehearse({ type: 'institution', values: { partOf: wing } });
  // The wing can't be part of itself, so it stays part of the museum, which then can't be part of the wing.
  expect(loop).toMatchObject({ changed: 0, refused: 2 });
  expect(loop.refusals.map(({ message }) => message)).toEqual([
    expect.stringMatching(/^Kestrel Museum: Part of: it would lie within itself/),
    expect.stringMatching(/^West wing: Part of: it would lie within itself/),
  ]);
});
