import type { WireEdit } from '@/core/engine';
import type { RollUp } from '@/core/rules';
import { fieldOf, galleries, gbp, rollUp, rowOf, ruleOf, stageIs, uuid } from '@/core/testing/galleries';
import { fieldIn } from '@/core/model';
import { toWire } from '@/core/values';
import { disconnect } from '@/server/database/connection';
import { inSnapshot } from '@/server/store/session/transactions';
import { run } from '@/server/store/sql/sql';
import { listRules } from '@/server/queries/rules/rules';
import { driftIn } from '@/server/testing/drift';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { editList, rehearseListEdit } from '@/server/actions/records/edit-list';
import { saveEdits } from '@/server/actions/records/save-edits';
import { changeRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';

const model = galleries();
const [silk, maps] = ['11', '12'].map(uuid) as [string, string];
const [robes, pots, fans, charts] = ['21', '22', '23', '24'].map(uuid) as [string, string, string, string];
const route = [{ direction: 'down', type: 'loan', link: 'exhibition' }] as const;
const insured = fieldOf('insuredValue');

/** The lowest insured value of agreed loans, the highest of all, and when the most valuable of them is due back. */
const RULES: readonly RollUp[] = [
  rollUp({
    ...{ type: 'exhibition', target: 'insuredTotal', aggregate: 'minimum', route },
    ...{ value: insured, condition: stageIs('agreed') },
  }),
  rollUp({ type: 'exhibition', target: 'averageInsured', aggregate: 'maximum', route, value: insured }),
  rollUp({
    ...{ type: 'exhibition', target: 'lastDue', aggregate: 'last', route },
    ...{ value: fieldOf('dueBack'), order: [insured] },
  }),
];

let workspace: TestWorkspace;
beforeEach(async () => {
  const loan = (id: string, title: string, amount: string, dueBack: string) =>
    rowOf(model, 'loan', id, {
      ...{ title, exhibition: silk, stage: 'agreed', insuredValue: gbp(amount), dueBack },
    });
  workspace = await testWorkspace({
    ...{ model, rules: RULES.map((rule, at) => ruleOf(rule, at + 1)) },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      rowOf(model, 'exhibition', maps, { title: 'The Mapmaker’s Table' }),
      loan(robes, 'Robes', '100', '2027-01-15'),
      loan(pots, 'Pots', '200', '2027-02-15'),
      loan(fans, 'Fans', '300', '2027-03-15'),
    ],
  });
  // Nothing is known of a leader until all children were gone over once.
  await save(edit(robes, { title: 'Two robes', insuredValue: pounds('100.01') }));
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const pounds = (amount: string) => ({ amount, currency: 'GBP' });
const edit = (id: string, values: Record<string, unknown>): WireEdit => ({
  ...{ kind: 'edit', type: 'loan', id, values },
});
const save = (...edits: WireEdit[]) => saveEdits({ workspace: workspace.key, person: TESTER.id, edits });

const inSilk = async () => {
  const row = (await workspace.rows()).find(({ id }) => id === silk)!;
  return RULES.map(({ target }) => {
    const value = toWire(fieldIn(model, 'exhibition', target).type, row.values[target] ?? null);
    return value && typeof value === 'object' && 'amount' in value ? value.amount : value;
  });
};
const leaders = async () => {
  const { schema } = await workspace.load();
  return inSnapshot(async (transaction) => {
    const [row] = await run(
      transaction,
      `SELECT insured_total__l::text AS lowest, average_insured__l::text AS highest, last_due__l::text AS last
        FROM "${schema}".exhibition WHERE id = '${silk}'`,
    );
    return row;
  });
};

test('after a save it is known which child leads', async () => {
  expect(await inSilk()).toEqual(['100.01', '300.00', '2027-03-15']);
  expect(await leaders()).toEqual({ lowest: robes, highest: fans, last: fans });
});

test.each<[string, () => WireEdit[], readonly (string | null)[]]>([
  [
    'one that leads nothing changes',
    () => [edit(pots, { insuredValue: pounds('250') })],
    ['100.01', '300.00', '2027-03-15'],
  ],
  ['one goes ahead', () => [edit(pots, { insuredValue: pounds('400') })], ['100.01', '400.00', '2027-02-15']],
  [
    'one goes ahead downwards',
    () => [edit(pots, { insuredValue: pounds('1') })],
    ['1.00', '300.00', '2027-03-15'],
  ],
  [
    'the leader goes further ahead',
    () => [edit(fans, { insuredValue: pounds('900') })],
    ['100.01', '900.00', '2027-03-15'],
  ],
  [
    'the leader falls behind',
    () => [edit(fans, { insuredValue: pounds('150') })],
    ['100.01', '200.00', '2027-02-15'],
  ],
  [
    'what is taken of the leader changes',
    () => [edit(fans, { dueBack: '2028-01-01' })],
    ['100.01', '300.00', '2028-01-01'],
  ],
  ['the leader is emptied', () => [edit(fans, { insuredValue: null })], ['100.01', '200.00', '2027-02-15']],
  [
    'the leader no longer meets the condition',
    () => [edit(robes, { stage: 'declined' })],
    ['200.00', '300.00', '2027-03-15'],
  ],
  [
    'the leader goes, another takes its place',
    () => [edit(fans, { exhibition: maps }), edit(pots, { insuredValue: pounds('300') })],
    ['100.01', '300.00', '2027-02-15'],
  ],
  [
    'the leader is deleted',
    () => [{ kind: 'delete', type: 'loan', id: fans }],
    ['100.01', '200.00', '2027-02-15'],
  ],
  [
    'a new one leads',
    () => [
      {
        ...{ kind: 'create', type: 'loan', id: charts },
        values: { title: 'Charts', exhibition: silk, insuredValue: pounds('500'), dueBack: '2027-06-01' },
      },
    ],
    ['100.01', '500.00', '2027-06-01'],
  ],
  [
    'all change places in one run',
    () => [edit(robes, { insuredValue: pounds('300') }), edit(fans, { insuredValue: pounds('100') })],
    ['100.00', '300.00', '2027-01-15'],
  ],
  [
    'all go',
    () => [robes, pots, fans].map((id) => ({ kind: 'delete', type: 'loan', id })),
    [null, null, null],
  ],
])('%s', async (_, edits, expected) => {
  await save(...edits());
  expect(await inSilk()).toEqual(expected);
  expect(await driftIn(workspace)).toEqual([]);
  // And once more from there: what is known of the leader is right too.
  await save(edit(pots, { exhibition: silk, insuredValue: pounds('700'), dueBack: '2029-01-01' })).catch(
    () => null,
  );
  expect(await driftIn(workspace)).toEqual([]);
});

test('an edit of a whole list leaves the leaders unknown, and the next save learns them again', async () => {
  const given = { workspace: workspace.key, person: TESTER.id, type: 'loan', values: { stage: 'declined' } };
  await editList({ ...given, expected: (await rehearseListEdit(given)).changed });
  expect(await inSilk()).toEqual([null, '300.00', '2027-03-15']);
  expect(await leaders()).toMatchObject({ lowest: null });
  expect(await driftIn(workspace)).toEqual([]);
  await save(edit(pots, { stage: 'agreed', insuredValue: pounds('350') }));
  expect(await inSilk()).toEqual(['350.00', '350.00', '2027-02-15']);
  expect(await leaders()).toEqual({ lowest: pots, highest: pots, last: pots });
  expect(await driftIn(workspace)).toEqual([]);
});

test('what was known of a leader is forgotten while another rule keeps the field', async () => {
  const total = rollUp({
    ...{ type: 'exhibition', target: 'insuredTotal', aggregate: 'sum', route },
    ...{ value: insured, whenNone: { amount: '0', currency: 'GBP' } },
  });
  const by = { workspace: workspace.key, person: TESTER.id };
  const ruleOnTotal = async () =>
    (await listRules(await workspace.load())).find(
      ({ definition }) => 'target' in definition && definition.target === 'insuredTotal',
    )!;
  const { id, version } = await ruleOnTotal();
  await changeRule({ ...by, id, version, definition: total });
  await changeState({ ...by, id, state: 'live' });
  await save(edit(robes, { insuredValue: pounds('999') }));
  await changeRule({ ...by, id, version: (await ruleOnTotal()).version, definition: RULES[0]! });
  await changeState({ ...by, id, state: 'live' });
  expect(await leaders()).toMatchObject({ lowest: null });
  await save(edit(fans, { insuredValue: pounds('500') }));
  expect(await inSilk()).toEqual(['200.00', '999.00', '2027-01-15']);
  expect(await driftIn(workspace)).toEqual([]);
});

test('a leader that comes back from the bin leads again', async () => {
  await save(edit(pots, { insuredValue: pounds('250') }));
  expect(await leaders()).toEqual({ lowest: robes, highest: fans, last: fans });
  await save({ kind: 'delete', type: 'loan', id: fans });
  expect(await leaders()).toEqual({ lowest: robes, highest: pots, last: pots });
  await save({ kind: 'restore', type: 'loan', id: fans });
  expect(await inSilk()).toEqual(['100.01', '300.00', '2027-03-15']);
  expect(await driftIn(workspace)).toEqual([]);
});
