import { type Expression } from '@/core/expression';
import { readModel } from '@/core/model';
import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { applyModelChanges, rehearseModel } from '@/server/actions/model/change-model';
import { removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { saveEdits } from '@/server/actions/records/save-edits';
import { addList, changeList, removeList, savedLists } from '@/server/actions/records/saved-lists';
import { disconnect } from '@/server/database/connection';
import { listRecords } from '@/server/queries/records/list-records';
import { listKeepers } from '@/server/queries/rules/rules';
import { getRun } from '@/server/queries/ledger/runs';
import { loadWorkspace } from '@/server/store/session/workspace';
import { driftIn } from '@/server/testing/drift';
import { ledgerFlaws } from '@/server/testing/ledger';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { settleDay } from './settle-days';

/** Loans that are due back in this year. */
const DUE: Expression = {
  kind: 'group',
  operator: 'all',
  of: [
    {
      ...{ kind: 'compare', operator: '>=', left: { kind: 'field', route: [], field: 'dueBack' } },
      right: { kind: 'day', from: 'yearStart', plus: 0, unit: 'day' },
    },
    {
      ...{ kind: 'compare', operator: '<', left: { kind: 'field', route: [], field: 'dueBack' } },
      right: { kind: 'day', from: 'yearStart', plus: 1, unit: 'year' },
    },
  ],
};
const IN_DUE: Expression = { kind: 'selection', operator: 'isIn', route: [], selection: 'due' };
const model = readModel(
  {
    types: galleries().types,
    selections: [{ key: 'due', name: 'Due this year', type: 'loan', condition: DUE }],
  },
  '2026-12-31',
);
const [silk, old, next] = [uuid('11'), uuid('21'), uuid('22')];
const loan = (id: string, title: string, dueBack: string, amount: number) =>
  rowOf(model, 'loan', id, { title, exhibition: silk, dueBack, insuredValue: gbp(amount) });
let workspace: TestWorkspace;

beforeEach(async () => {
  workspace = await testWorkspace({
    model,
    rules: [ruleOf({ ...INSURED_TOTAL, condition: IN_DUE }, 1)],
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
      loan(old, 'Robes', '2026-12-31', 100),
      loan(next, 'Pots', '2027-01-01', 7),
    ],
  });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const total = async () => (await workspace.rows()).find(({ id }) => id === silk)!.values.insuredTotal;
const edit = (id: string, amount: string) =>
  saveEdits({
    ...by(),
    edits: [{ kind: 'edit', type: 'loan', id, values: { insuredValue: { amount, currency: 'GBP' } } }],
  });
const dueTitles = async () =>
  (
    await listRecords(await loadWorkspace(workspace.key), {
      ...{ type: 'loan', filter: {}, condition: IN_DUE, descending: false, limit: 10 },
    })
  ).records.map(({ values }) => values.title);

test('five past midnight on 1 January: saves go by the settled day until it is brought forward, and no contribution is taken twice', async () => {
  expect(await total()).toEqual(gbp(100));
  // The calendar has turned, the settled day hasn't: 2026 still counts, wholly.
  await edit(old, '150.00');
  await edit(next, '9.00');
  expect([await total(), await dueTitles()]).toEqual([gbp(150), ['Robes']]);

  const settled = await settleDay(workspace.key, '2027-01-01');
  expect(settled).toMatchObject({ from: '2026-12-31', to: '2027-01-01', written: [{ records: 1 }] });
  expect([await total(), await dueTitles()]).toEqual([gbp(9), ['Pots']]);
  await edit(old, '1.00');
  await edit(next, '11.00');
  expect(await total()).toEqual(gbp(11));

  const run = await getRun(await loadWorkspace(workspace.key), settled!.run!);
  expect(run).toMatchObject({ kind: 'day', person: null });
  expect(await driftIn(workspace)).toEqual([]);
  expect(await ledgerFlaws(workspace)).toEqual([]);
});

test('until a day is settled, values that hang on it say as of when they are; others don’t', async () => {
  const asOf = async (moment: string) =>
    (await listKeepers(await loadWorkspace(workspace.key), new Date(moment))).map((keeper) => keeper.asOf);
  expect(await asOf('2026-12-31T12:00:00Z')).toEqual([null]);
  expect(await asOf('2027-01-01T12:00:00Z')).toEqual(['2026-12-31']);
  await settleDay(workspace.key, '2027-01-01');
  expect(await asOf('2027-01-01T12:00:00Z')).toEqual([null]);
});

test('a day that isn’t later, or with no dated rule, has no run', async () => {
  expect(await settleDay(workspace.key, '2026-12-31')).toBeNull();
  expect(await settleDay(workspace.key, '2026-12-30')).toBeNull();
  const plain = await testWorkspace({ model, rules: [], rows: [] });
  expect(await settleDay(plain.key, '2027-05-01')).toMatchObject({ run: null });
  expect((await loadWorkspace(plain.key)).settledDay).toBe('2027-05-01');
  await removeWorkspace(plain.key);
});

test('changing a selection shows how many records it has, and works the rules that use it out again', async () => {
  const to = { ...model.selection('due')!, name: 'Ever due', condition: { ...presence('isNotEmpty') } };
  const told = await rehearseModel(workspace.key, [{ kind: 'changeSelection', to }]);
  expect(told).toMatchObject({
    ...{ isPossible: true, again: [workspace.rules[0]] },
    selections: [{ name: 'Ever due', before: 1, after: 2 }],
  });
  expect(told.touched[0]!.after).toContain('is in “Ever due”');
  const { modelVersion: version } = await loadWorkspace(workspace.key);
  await applyModelChanges({ ...by(), version, changes: [{ kind: 'changeSelection', to }] });
  expect(await total()).toEqual(gbp(107));
  expect(await driftIn(workspace)).toEqual([]);
});

test('a selection that a rule, a list or another selection uses can’t be removed; nor can it build upon itself', async () => {
  const gone = await rehearseModel(workspace.key, [{ kind: 'removeSelection', key: 'due' }]);
  expect(gone).toMatchObject({
    isPossible: false,
    blocked: [{ problems: [{ code: 'expression.selection' }] }],
  });
  const circle = { ...model.selection('due')!, condition: IN_DUE };
  const told = await rehearseModel(workspace.key, [{ kind: 'changeSelection', to: circle }]);
  expect(told.unreadable[0]).toMatchObject({ code: 'expression.circle', place: 'selection due' });
  const other = { key: 'other', name: 'Other', type: 'loan', condition: presence('isEmpty') };
  const { modelVersion: version } = await loadWorkspace(workspace.key);
  await applyModelChanges({ ...by(), version, changes: [{ kind: 'addSelection', selection: other }] });
  await addList(by(), { name: 'Both', definition: { kind: 'joined', selections: ['due', 'other'] } });
  const used = await rehearseModel(workspace.key, [{ kind: 'removeSelection', key: 'other' }]);
  expect(used.unreadable[0]!.message).toBe(
    'The list “Both” couldn’t be read afterwards: There is no selection “other”. Change or remove the list first.',
  );
});

test('lists are kept with a name, changed by those who saw them last, and refused where they can’t be read', async () => {
  const definition = {
    kind: 'list',
    type: 'loan',
    columns: ['stage'],
    sort: '-dueBack',
    condition: IN_DUE,
  } as const;
  const made = await addList(by(), { name: ' Due ', definition });
  expect(made).toMatchObject({ name: 'Due', definition, version: 1 });
  const changed = await changeList(by(), made.id, { version: 1, name: 'Due now' });
  expect(await savedLists(workspace.key)).toEqual([changed]);
  const codes = async (work: Promise<unknown>) => (await refusal(work)).code;
  expect(await codes(changeList(by(), made.id, { version: 1, name: 'Late' }))).toBe('list.version');
  expect(await codes(addList(by(), { name: 'DUE NOW', definition }))).toBe('list.taken');
  expect(await codes(addList(by(), { name: '', definition }))).toBe('list.name');
  expect(await codes(addList(by(), { name: 'X', definition: { ...definition, columns: ['none'] } }))).toBe(
    'list.field',
  );
  expect(await codes(addList(by(), { name: 'X', definition: { ...definition, type: 'none' } }))).toBe(
    'list.type',
  );
  await removeList(by(), made.id);
  expect(await codes(removeList(by(), made.id))).toBe('list.unknown');
});

function presence(operator: 'isEmpty' | 'isNotEmpty'): Expression {
  return { kind: 'presence', operator, operand: { kind: 'field', route: [], field: 'dueBack' } };
}

test('moments of the last 36 hours before the day began, by the clocks of the workspace, leave as it turns', async () => {
  const types = galleries().types.map((type) =>
    type.key === 'loan'
      ? {
          ...type,
          fields: [...type.fields, { key: 'seen', name: 'Seen', type: { kind: 'dateTime' } } as const],
        }
      : type,
  );
  const timed = readModel({ types, timeZone: 'Europe/London' }, '2027-07-15');
  const seen = (id: string, at: string, amount: number) =>
    rowOf(timed, 'loan', id, { title: at, exhibition: silk, seen: at, insuredValue: gbp(amount) });
  const condition: Expression = {
    ...{ kind: 'compare', operator: '>=', left: { kind: 'field', route: [], field: 'seen' } },
    right: { kind: 'day', from: 'today', plus: -36, unit: 'hour' },
  };
  const of = await testWorkspace({
    model: timed,
    rules: [ruleOf({ ...INSURED_TOTAL, condition }, 1)],
    rows: [
      rowOf(timed, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
      // Midnight in London is 23:00 in Greenwich in summer.
      seen(uuid('21'), '2027-07-13T10:59:59.999Z', 1),
      seen(uuid('22'), '2027-07-13T11:00:00.000Z', 10),
      seen(uuid('23'), '2027-07-14T11:00:00.000Z', 100),
    ],
  });
  const totalOf = async () => (await of.rows()).find(({ id }) => id === silk)!.values.insuredTotal;
  expect(await totalOf()).toEqual(gbp(110));
  expect(await settleDay(of.key, '2027-07-16')).toMatchObject({ written: [{ records: 1 }] });
  expect(await totalOf()).toEqual(gbp(100));
  expect(await driftIn(of)).toEqual([]);
  await of.remove();
});
