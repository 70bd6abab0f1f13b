import type { Pace } from '@/core/model';
import {
  ALL_RULES,
  AVERAGE_INSURED,
  EXHIBITION_ARTEFACTS,
  fieldOf,
  galleries,
  GRADE,
  gbp,
  INSURED_TOTAL,
  rollUp,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import type { Rule } from '@/core/rules';
import { bringUpToDate, workOutNow } from '@/server/actions/rules/bring-up-to-date';
import { editList, rehearseListEdit } from '@/server/actions/records/edit-list';
import { importRecords } from '@/server/actions/imports/import-records';
import { addWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { saveEdits } from '@/server/actions/records/save-edits';
import { changeRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';
import { disconnect } from '@/server/database/connection';
import { getRecord } from '@/server/queries/records/records';
import { getRule } from '@/server/queries/rules/rules';
import { getRun } from '@/server/queries/ledger/runs';
import { loadWorkspace } from '@/server/store/session/workspace';
import { driftIn } from '@/server/testing/drift';
import { flawsIn } from '@/server/testing/flaws';
import { ledgerFlaws } from '@/server/testing/ledger';
import { refusal } from '@/server/testing/refusal';
import { EXHIBITIONS, fewParents, numbersFrom, someEdits } from '@/server/testing/traffic';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { listRecords } from '@/server/queries/records/list-records';
import { keepPaces } from './slower-paces';

const model = galleries();
const [silk, one, two] = [uuid('11'), uuid('21'), uuid('22')];
const ROWS = [
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
  ...[one, two].map((id, at) =>
    rowOf(model, 'loan', id, { exhibition: silk, stage: 'agreed', insuredValue: gbp(5 + at) }),
  ),
];
const total = (pace: Pace) => ruleOf({ ...INSURED_TOTAL, pace }, 1, 'Total');
let workspace: TestWorkspace;
const begin = async (rules: readonly Rule[], rows = ROWS) => {
  workspace = await testWorkspace({ model, rows, rules });
};
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const value = (amount: string, id = one) =>
  saveEdits({
    ...by(),
    edits: [{ kind: 'edit', type: 'loan', id, values: { insuredValue: { amount, currency: 'GBP' } } }],
  });
const record = async () => getRecord(await workspace.load(), 'exhibition', silk);
const amount = async () => (await record()).record.values.insuredTotal;
const rule = async (at = 0) => getRule(await workspace.load(), workspace.rules[at]!);
const noon = new Date('2026-11-26T12:00:00Z');

/** What isn't up to date in the list of exhibitions, record by record. */
const listed = async () => {
  const list = { type: 'exhibition', filter: {}, descending: false, limit: 10 };
  return Object.values((await listRecords(await workspace.load(), list)).asOf);
};

test('soon after: the value says as of when it is, waits, and is brought up to date in a run of Oikon’s own', async () => {
  await begin([total('soonAfter')]);
  expect(await rule()).toMatchObject({ later: { values: 0, since: null, next: null, problem: null } });
  await value('6');
  await value('7');
  expect(await amount()).toEqual({ amount: '11.00', currency: 'GBP' });
  expect((await record()).asOf).toEqual({ insuredTotal: expect.any(String) });
  expect(await listed()).toEqual([{ insuredTotal: (await record()).asOf.insuredTotal }]);
  expect((await rule()).later).toMatchObject({ values: 1, since: (await record()).asOf.insuredTotal });
  await keepPaces(workspace.key, noon);
  expect(await amount()).toEqual({ amount: '13.00', currency: 'GBP' });
  expect((await record()).asOf).toEqual({});
  expect(await listed()).toEqual([]);
  expect((await rule()).later).toMatchObject({ values: 0, since: null });
  const runs = await flawsIn(workspace);
  expect(runs).toEqual([]);
  // Nothing waits: nothing is written.
  expect(await bringUpToDate({ ...by(), rules: workspace.rules })).toEqual({ run: null, values: 0 });
});

test('on a timetable: it comes round at its time, and then the next', async () => {
  await begin([total({ kind: 'timetable', every: 'day', at: '06:00' })]);
  const at = (time: string) => keepPaces(workspace.key, new Date(time));
  await at('2026-11-26T05:00:00Z');
  expect((await rule()).later!.next).toBe('2026-11-26T06:00:00.000Z');
  await value('6');
  await at('2026-11-26T05:59:59Z');
  expect(await amount()).toEqual({ amount: '11.00', currency: 'GBP' });
  await at('2026-11-26T06:00:10Z');
  expect(await amount()).toEqual({ amount: '12.00', currency: 'GBP' });
  expect((await rule()).later!.next).toBe('2026-11-27T06:00:00.000Z');
});

test('on request: by the button on the record, or a field that turns yes', async () => {
  await begin([total({ kind: 'onRequest', field: 'open' })]);
  await value('6');
  await keepPaces(workspace.key, noon);
  expect(await amount()).toEqual({ amount: '11.00', currency: 'GBP' });
  const at = { type: 'exhibition', id: silk, field: 'insuredTotal' };
  const { run, values } = await workOutNow({ ...by(), at });
  expect(values).toBe(1);
  expect(await getRun(await workspace.load(), run!)).toMatchObject({
    ...{ kind: 'pace', person: TESTER.name, note: 'Total' },
  });
  expect(await record()).toMatchObject({
    asOf: {},
    record: { values: { insuredTotal: { amount: '12.00' } } },
  });
  await value('7');
  const asked = await saveEdits({
    ...by(),
    edits: [{ kind: 'edit', type: 'exhibition', id: silk, values: { open: true } }],
  });
  expect(asked.ripple.waves[1]!.changes).toMatchObject([
    { field: 'insuredTotal', after: { text: '13.00 GBP' } },
  ]);
  expect((await record()).asOf).toEqual({});
});

test('what is with the save, or kept by nobody, can’t be worked out now', async () => {
  await begin([total('withTheSave')]);
  const now = (field: string) =>
    refusal(workOutNow({ ...by(), at: { type: 'exhibition', id: silk, field } }));
  expect((await now('insuredTotal')).message).toContain('is worked out with every save');
  expect((await now('grade')).message).toContain('No live rule keeps Grade');
  expect((await now('nothing')).message).toContain('No live rule keeps nothing');
  expect((await rule()).later).toBeNull();
});

test('taking it live fills it whatever its pace; pausing it lets go of what waits', async () => {
  await begin([total('soonAfter')]);
  expect(await amount()).toEqual({ amount: '11.00', currency: 'GBP' });
  await value('6');
  const id = workspace.rules[0]!;
  await changeState({ ...by(), id, state: 'paused' });
  expect(await amount()).toEqual({ amount: '11.00', currency: 'GBP' });
  expect((await record()).asOf).toEqual({});
  await changeState({ ...by(), id, state: 'live' });
  expect(await amount()).toEqual({ amount: '12.00', currency: 'GBP' });
  // Back with the save: what is kept beside it holds from the fill on.
  const { version, definition } = await rule();
  await changeRule({ ...by(), id, version, definition: { ...definition, pace: 'withTheSave' } });
  await changeState({ ...by(), id, state: 'live' });
  await value('8');
  expect(await amount()).toEqual({ amount: '14.00', currency: 'GBP' });
  expect(await driftIn(workspace)).toEqual([]);
});

test('an import leaves its parents waiting; more than go record by record are filled in sets', async () => {
  await begin([total('soonAfter'), ruleOf({ ...AVERAGE_INSURED, pace: 'withTheSave' }, 2)]);
  const names = Array.from({ length: 5_200 }, (_, at) => ({ title: `Exhibition ${at}`, id: uuid(`e${at}`) }));
  await importRecords({ ...by(), type: 'exhibition', records: names.map(({ title }) => ({ title })) });
  const all = (await workspace.rows()).filter(({ type }) => type === 'exhibition');
  const records = all.map(({ id }) => ({
    ...{ title: 'Loan', exhibition: id, stage: 'agreed', insuredValue: { amount: '3', currency: 'GBP' } },
  }));
  await importRecords({ ...by(), type: 'loan', records });
  expect((await rule()).later).toMatchObject({ values: null });
  expect(await amount()).toEqual({ amount: '11.00', currency: 'GBP' });
  const { values } = await bringUpToDate({ ...by(), rules: workspace.rules });
  expect(values).toBe(5_201);
  expect(await amount()).toEqual({ amount: '14.00', currency: 'GBP' });
  expect((await rule()).later).toMatchObject({ values: 0 });
  expect(await driftIn(workspace)).toEqual([]);
});

test('an edit of a whole list is rehearsed as it comes out in the end, and saved with what waits', async () => {
  await begin([total('soonAfter')]);
  const edit = { type: 'loan', values: { insuredValue: { amount: '50', currency: 'GBP' } } };
  const rehearsed = await rehearseListEdit({ ...by(), ...edit });
  expect(rehearsed.effects).toMatchObject([{ fieldName: 'Insured total', records: 1 }]);
  expect((await record()).asOf).toEqual({});
  expect((await editList({ ...by(), ...edit, expected: 2 })).effects).toEqual([]);
  expect((await rule()).later).toMatchObject({ values: 1 });
  await keepPaces(workspace.key, noon);
  expect(await amount()).toEqual({ amount: '100.00', currency: 'GBP' });
});

test('one that can’t be brought up to date says why at its rule, waits on, and doesn’t hold up the others', async () => {
  const reacting = rollUp({
    ...{ type: 'institution', target: 'partCount', aggregate: 'maximum', value: fieldOf('grade') },
    route: [{ direction: 'down', type: 'exhibition', link: 'venue' }],
    map: { rows: [{ operator: '>', than: '3', writes: '1' }], otherwise: { kind: 'asItIs' } },
  });
  const venue = uuid('1');
  const rows = ROWS.map((row) => (row.id === silk ? { ...row, values: { ...row.values, venue } } : row));
  const rules = [
    ruleOf({ ...GRADE, pace: 'soonAfter' }, 2, 'Grade'),
    total('soonAfter'),
    ruleOf(reacting, 3, 'Reacts'),
  ];
  await begin(rules, [rowOf(model, 'institution', venue, {}), ...rows]);
  const counts = (number: string) =>
    saveEdits({
      ...by(),
      edits: [{ kind: 'edit', type: 'loan', id: one, values: { artefactCount: number } }],
    });
  await counts('99');
  await value('6');
  await keepPaces(workspace.key, noon);
  expect((await rule(0)).later!.problem).toContain('“Reacts” can’t tell what to do on “institution 001”');
  expect(await amount()).toEqual({ amount: '12.00', currency: 'GBP' });
  await counts('5');
  await keepPaces(workspace.key, noon);
  expect((await rule(0)).later).toMatchObject({ values: 0, problem: null });
  expect(await driftIn(workspace)).toEqual([]);
});

test('many writers at once beside it: nothing that waits is lost', async () => {
  const paced = ALL_RULES.map((one, at) =>
    at % 2 === 0
      ? { ...one, definition: { ...one.definition, pace: 'soonAfter' } as Rule['definition'] }
      : one,
  );
  await begin(paced, fewParents());
  let isDone = false;
  const keeping = (async () => {
    while (!isDone) await bringUpToDate({ ...by(), rules: workspace.rules });
  })();
  const writers = Array.from({ length: 6 }, async (_, at) => {
    const number = numbersFrom(at + 7);
    for (let saved = 0; saved < 25; saved += 1)
      await saveEdits({ ...by(), edits: someEdits(number) }).catch(() => undefined);
  });
  await Promise.all(writers);
  isDone = true;
  await keeping;
  for (let round = 0; round < paced.length; round += 1)
    await bringUpToDate({ ...by(), rules: workspace.rules });
  expect(await driftIn(workspace)).toEqual([]);
  expect(await ledgerFlaws(workspace)).toEqual([]);
  expect((await getRecord(await workspace.load(), 'exhibition', EXHIBITIONS[0]!)).asOf).toEqual({});
});

test('a copy of a workspace takes along what waits', async () => {
  await begin([total('soonAfter'), ruleOf({ ...EXHIBITION_ARTEFACTS, pace: 'withTheSave' }, 2)]);
  await value('6');
  const name = `${workspace.key} copy`;
  const { key: copy } = await addWorkspace({ name, copyOf: workspace.key, withRecords: true }, TESTER.id);
  try {
    await keepPaces(copy, noon);
    const stored = await getRecord(await loadWorkspace(copy), 'exhibition', silk);
    expect(stored.record.values.insuredTotal).toEqual({ amount: '12.00', currency: 'GBP' });
  } finally {
    await removeWorkspace(copy);
  }
});
