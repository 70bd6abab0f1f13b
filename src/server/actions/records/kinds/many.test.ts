import { BOUNDS, type WireEdit } from '@/core/engine';
import type { Cascade, Rule } from '@/core/rules';
import { fieldOf, rollUp, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { AGREED, ALL_AGREED, OPENS } from '@/core/testing/circles';
import { numbered } from '@/core/testing/rule-desk';
import { cascade, CASCADES, down, fixed, from, touring, when } from '@/core/testing/touring';
import { disconnect } from '@/server/database/connection';
import { setBounds } from '@/server/store/session/bounds';
import { run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { edit } from '@/server/testing/edits';
import { flawsIn } from '@/server/testing/flaws';
import { refusal } from '@/server/testing/refusal';
import { undone } from '@/server/testing/undone';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { editList } from '@/server/actions/records/edit-list';
import { saveEdits } from '@/server/actions/records/save-edits';
import { undoRun } from '@/server/undo/undo-run';

const model = touring();
const [silk, salt] = [uuid('11'), uuid('12')];
const MANY = 2_600;
const idOf = (at: number) => uuid(String(10_000 + at));
let workspace: TestWorkspace;
afterEach(async () => {
  setBounds();
  await workspace.remove();
});
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const save = (...edits: WireEdit[]) => saveEdits({ ...by(), edits });
const sound = async () => expect(await flawsIn(workspace)).toEqual([]);
/** How many records have which value of a field. */
const spread = (type: string, field: string): Promise<Record<string, number>> =>
  inSnapshot(async (transaction) => {
    const found = await run<{ value: string | null; number: number }>(
      transaction,
      `SELECT ${field}::text AS value, count(*)::int AS number FROM "${(await workspace.load()).schema}".${type} WHERE deleted_run IS NULL GROUP BY 1`,
    );
    return Object.fromEntries(found.map(({ value, number }) => [String(value), number]));
  });
const loansOf = (exhibition: string, more = {}) =>
  Array.from({ length: MANY }, (_, at) =>
    rowOf(model, 'loan', idOf(at), { exhibition, title: `Loan ${at}`, coordinator: 'Farid', ...more }),
  );
const EXHIBITIONS = [
  rowOf(model, 'exhibition', silk, { title: 'Silk', coordinator: 'Farid', phase: 'planned' }),
  rowOf(model, 'exhibition', salt, { title: 'Salt', coordinator: 'Farid', phase: 'planned' }),
];
const begin = async (rules: readonly Rule[], rows = [...EXHIBITIONS, ...loansOf(silk)]) => {
  workspace = await testWorkspace({ model, rows, rules });
};

const SITE = cascade({
  ...{ type: 'exhibition', route: CASCADES.coordinator.route },
  assignments: [fixed('coordinator', 'On site')],
  moment: when({ kind: 'became', field: 'phase', value: 'open' }),
});

test('of two rules that cascade to thousands the first stands, in a save and in the edit of a list', async () => {
  await begin(numbered([{ ...CASCADES.coordinator, precedence: 1 }, SITE]));
  const { ripple } = await save(edit('exhibition', silk, { coordinator: 'Priya', phase: 'open' }));
  expect(await spread('loan', 'coordinator')).toEqual({ Priya: MANY });
  // The other is told as overruled, by number.
  expect(ripple.many.map(({ records, overruled }) => [records, overruled])).toEqual([
    [MANY, 0],
    [0, MANY],
  ]);
  await save(edit('exhibition', silk, { phase: 'closed' }));
  // What the first gives stands there already: it takes the field all the same.
  await save(edit('exhibition', silk, { coordinator: 'Zoe' }));
  const values = { coordinator: 'Zoe', phase: 'open' };
  await editList({ ...by(), type: 'exhibition', values, expected: 2 });
  expect(await spread('loan', 'coordinator')).toEqual({ 'On site': MANY });
  await sound();
});

/** Closes an exhibition once one of its loans is Zoe’s. */
const closing = (name: string, precedence: number): Rule =>
  ruleOf(
    rollUp({
      ...{ type: 'exhibition', target: 'phase', aggregate: 'any', precedence },
      route: [down('loan', 'exhibition')],
      value: {
        ...{ kind: 'compare', operator: '=', left: fieldOf('coordinator') },
        right: { kind: 'constant', value: 'Zoe' },
      },
      whenNone: null,
      map: { rows: [{ operator: '=', than: true, writes: 'closed' }], otherwise: { kind: 'asItIs' } },
    }),
    8,
    name,
  );

test('a roll-up that reacts and a cascade to thousands go by precedence, too', async () => {
  const opens = cascade({
    ...{ type: 'exhibition', route: [], precedence: 1 },
    assignments: [fixed('phase', 'open')],
    moment: when({ kind: 'changed', field: 'climate' }),
  });
  await begin([...numbered([CASCADES.coordinator, opens]), closing('Calm', 2)]);
  await editList({
    ...{ ...by(), type: 'exhibition', values: { coordinator: 'Zoe', climate: 'Dry' }, expected: 2 },
  });
  expect(await spread('loan', 'coordinator')).toEqual({ Zoe: MANY });
  expect(await spread('exhibition', 'phase')).toEqual({ open: 2 });
  await sound();
});

test('a roll-up that is filled after thousands took a value comes before a cascade, where its precedence says so', async () => {
  const opens = cascade({
    ...{ type: 'exhibition', route: [], precedence: 2 },
    assignments: [fixed('phase', 'open')],
    moment: when({ kind: 'changed', field: 'coordinator' }),
  });
  await begin([...numbered([CASCADES.coordinator, opens]), closing('Closes', 1)]);
  await save(edit('exhibition', silk, { coordinator: 'Zoe' }));
  expect(await spread('loan', 'coordinator')).toEqual({ Zoe: MANY });
  expect(await spread('exhibition', 'phase')).toEqual({ closed: 1, planned: 1 });
  await sound();
});

test('all the way down to thousands it is asked first; each takes from the nearest above, and it is undone as a set', async () => {
  const beneath = (at: number) => (at === 0 ? null : at === 1 ? idOf(0) : idOf(at % 2 === 0 ? 0 : 1));
  const rows = Array.from({ length: MANY }, (_, at) =>
    rowOf(model, 'institution', idOf(at), { title: `I ${at}`, partOf: beneath(at), dealings: 'none' }),
  );
  const rule: Cascade = cascade({
    ...{ type: 'institution', route: [down('institution', 'partOf')], isAllTheWay: true },
    ...{ assignments: [from('dealings')], moment: when({ kind: 'changed', field: 'dealings' }) },
  });
  await begin(numbered([rule]), rows);
  const edits = [
    edit('institution', idOf(0), { dealings: 'active' }),
    edit('institution', idOf(1), { dealings: 'past' }),
  ];
  const { code, data } = await refusal(saveEdits({ ...by(), edits, asksWhereMany: true }));
  expect([code, data]).toMatchObject(['save.many', { records: MANY - 1 }]);
  const { run: saved } = await save(...edits);
  expect(await spread('institution', 'dealings')).toEqual({ active: MANY / 2, past: MANY / 2 });
  await sound();
  expect(undone(await undoRun({ ...by(), run: saved! }))).toMatchObject({ written: MANY });
  expect(await spread('institution', 'dealings')).toEqual({ none: MANY });
});

test('kept in step for more than go one by one a save has the workspace to itself, and asks first', async () => {
  setBounds({ ...BOUNDS, mostKeptByRow: 2_000 });
  const inStep = { ...CASCADES.coordinator, moment: 'inStep' } as const;
  await begin(numbered([inStep]));
  const edits = [edit('exhibition', silk, { coordinator: 'Priya' })];
  const { code, message } = await refusal(saveEdits({ ...by(), edits, asksWhereMany: true }));
  expect([code, message]).toEqual(['save.many', expect.stringContaining('would go over 2,600 Loans')]);
  const { ripple } = await save(...edits);
  expect(await spread('loan', 'coordinator')).toEqual({ Priya: MANY });
  expect(ripple.many).toMatchObject([{ fieldName: 'Coordinator', records: MANY }]);
  await sound();
});

test('a circle settles after the edit of a list of thousands', async () => {
  await begin(numbered([AGREED, OPENS, ALL_AGREED]), [
    ...EXHIBITIONS,
    ...loansOf(silk, { stage: 'requested' }),
  ]);
  const list = { ...by(), type: 'loan', search: 'Loan 1', values: { stage: 'agreed' } };
  const expected = Array.from({ length: MANY }, (_, at) => `Loan ${at}`).filter((title) =>
    title.includes('Loan 1'),
  ).length;
  await editList({ ...list, expected });
  expect(await spread('loan', 'stage')).toEqual({ agreed: MANY });
  expect(await spread('exhibition', 'artefact_count')).toEqual({ 0: 1, [MANY]: 1 });
  await sound();
});

test('a circle in which thousands take a value goes on from a save', async () => {
  await begin(numbered([AGREED, OPENS, ALL_AGREED]), [
    ...EXHIBITIONS,
    ...loansOf(silk, { stage: 'requested' }),
  ]);
  await save(edit('loan', idOf(3), { stage: 'agreed' }), edit('loan', idOf(4), { stage: 'agreed' }));
  expect(await spread('loan', 'stage')).toEqual({ agreed: MANY });
  expect(await spread('exhibition', 'phase')).toEqual({ open: 1, planned: 1 });
  await sound();
});
