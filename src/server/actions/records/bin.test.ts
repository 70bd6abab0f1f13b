import type { WireEdit } from '@/core/engine';
import { ALL_RULES, galleries, gbp, rowOf, uuid } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { getDependants } from '@/server/queries/records/dependants';
import { getHistory } from '@/server/queries/ledger/history';
import { listRecords } from '@/server/queries/records/list-records';
import { getRecord } from '@/server/queries/records/records';
import { getRun, listRuns } from '@/server/queries/ledger/runs';
import type { RunView } from '@/core/api';
import { driftIn } from '@/server/testing/drift';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { importRecords } from '@/server/actions/imports/import-records';
import { rehearseOnData } from './rehearse';
import { saveEdits } from './save-edits';

const model = galleries();
const [museum, silk, maps, loan, other, fan] = ['1', '11', '12', '21', '22', '31'].map(uuid) as [
  ...[string, string, string, string, string, string],
];
let workspace: TestWorkspace;

beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: ALL_RULES },
    rows: [
      rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', venue: museum, open: true }),
      rowOf(model, 'exhibition', maps, { title: 'The Mapmaker’s Table' }),
      rowOf(model, 'loan', loan, {
        title: 'Robes',
        exhibition: silk,
        stage: 'agreed',
        insuredValue: gbp(100),
      }),
      rowOf(model, 'loan', other, { title: 'Pots', exhibition: silk, stage: 'agreed', insuredValue: gbp(7) }),
      rowOf(model, 'artefact', fan, { title: 'Fan', loan }),
    ],
  });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const save = (...edits: WireEdit[]) => saveEdits({ ...by(), edits });
const historyOf = async (type: string, id: string) =>
  (await getHistory(await workspace.load(), { type, id })).entries;
const row = async (id: string) => (await workspace.rows()).find((one) => one.id === id)!;

describe('deleting', () => {
  test('is refused while a link says so, with the number of what is in the way', async () => {
    expect(await refusal(save({ kind: 'delete', type: 'exhibition', id: silk }))).toMatchObject({
      ...{ status: 409, code: 'delete.children' },
      message:
        '“Rivers of Silk” can’t be deleted: 2 Loans still name it as Exhibition. Move or delete them first.',
    });
  });

  test('takes along what its links say, and restoring brings back exactly that', async () => {
    await save({ kind: 'delete', type: 'loan', id: loan });
    expect([(await row(loan)).deleted, (await row(fan)).deleted]).toEqual([true, true]);
    expect((await row(silk)).values.insuredTotal).toEqual(gbp(7));
    const loaded = await workspace.load();
    expect(await getRecord(loaded, 'artefact', fan, true)).toMatchObject({
      deletion: { person: TESTER.name, with: { type: 'loan', title: 'Robes' } },
    });
    const bin = await listRecords(loaded, {
      type: 'loan',
      filter: {},
      descending: false,
      limit: 10,
      isBin: true,
    });
    expect(bin.records.map(({ id }) => id)).toEqual([loan]);
    await save({ kind: 'restore', type: 'loan', id: loan });
    expect([(await row(loan)).deleted, (await row(fan)).deleted]).toEqual([false, false]);
    expect((await row(silk)).values.insuredTotal).toEqual(gbp(107));
    expect(await driftIn(workspace)).toEqual([]);
    const history = await historyOf('artefact', fan);
    expect(history.map(({ event }) => event)).toEqual(['restored', 'deleted', 'created']);
  });

  test('what was in the bin before stays there when its parent is restored', async () => {
    await save({ kind: 'delete', type: 'artefact', id: fan });
    await save({ kind: 'delete', type: 'loan', id: loan });
    await save({ kind: 'restore', type: 'loan', id: loan });
    expect((await row(fan)).deleted).toBe(true);
  });

  test('clears links where they say so; restoring fills them again where they are still empty', async () => {
    await save({ kind: 'delete', type: 'institution', id: museum });
    expect((await row(silk)).values.venue).toBeNull();
    const history = await historyOf('exhibition', silk);
    expect(history[0]!.changes[0]).toMatchObject({
      ...{ fieldName: 'Venue', rule: null, causes: ['Institution Kestrel Museum'] },
    });
    await save({ kind: 'restore', type: 'institution', id: museum });
    expect((await row(silk)).values.venue).toBe(museum);
  });

  test('a record can’t come back under a parent that is in the bin', async () => {
    await save({ kind: 'delete', type: 'artefact', id: fan });
    await save({ kind: 'delete', type: 'loan', id: loan });
    expect(await refusal(save({ kind: 'restore', type: 'artefact', id: fan }))).toMatchObject({
      ...{ status: 422, code: 'link.deleted', message: /Loan “Robes” has been deleted. Restore that first/ },
    } as never);
  });

  test('shows first what it would touch, and touches nothing', async () => {
    const { ripple } = await rehearseOnData({
      ...{ workspace: workspace.key, drafts: [], edits: [{ kind: 'delete', type: 'loan', id: loan }] },
    });
    expect(ripple.waves[0]!.changes.map(({ kind, title }) => [kind, title])).toEqual([
      ['deleted', 'Robes'],
      ['deleted', 'Fan'],
    ]);
    expect((await row(fan)).deleted).toBe(false);
  });
});

test('a record that moves is in the ripple of both parents', async () => {
  const { ripple } = await save({ kind: 'edit', type: 'loan', id: loan, values: { exhibition: maps } });
  const totals = ripple.waves
    .flatMap(({ changes }) => changes)
    .filter(({ field }) => field === 'insuredTotal');
  expect(totals.map(({ title, after }) => [title, after!.text]).sort()).toEqual([
    ['Rivers of Silk', '7.00 GBP'],
    ['The Mapmaker’s Table', '100.00 GBP'],
  ]);
});

test('thousands of edits go in one run', async () => {
  const edits = Array.from({ length: 4_000 }, (_, at): WireEdit => ({
    ...{
      kind: 'create',
      type: 'artefact',
      values: { title: `Piece ${at}`, loan: at % 2 === 0 ? loan : other },
    },
  }));
  const { run } = await save(...edits);
  expect((await row(loan)).values.artefactCount?.toString()).toBe('2001');
  expect((await row(silk)).values.artefactCount?.toString()).toBe('4001');
  expect(await driftIn(workspace)).toEqual([]);
  // The run is larger than a page: each record that it changed and made is on one of them, once.
  const seen = new Map<string, number>();
  let after: string | null = null;
  do {
    const page: RunView = await getRun(await workspace.load(), run!, after);
    for (const { changes } of page.waves)
      for (const { id, kind, field } of changes) {
        const key = `${kind} ${id} ${field}`;
        seen.set(key, (seen.get(key) ?? 0) + 1);
      }
    after = page.next;
  } while (after !== null);
  expect([...seen.keys()].filter((key) => key.startsWith('created '))).toHaveLength(4_000);
  for (const id of [loan, other, silk]) expect(seen.has(`field ${id} artefactCount`)).toBe(true);
  expect([...seen.values()].every((times) => times === 1)).toBe(true);
});

test('a run opens as its ripple, and the ledger lists it; what follows from a record is known beforehand', async () => {
  const { run } = await save({ kind: 'edit', type: 'artefact', id: fan, values: { loan: other } });
  const loaded = await workspace.load();
  const opened = await getRun(loaded, run!);
  expect(opened.waves.map(({ number, changes }) => [number, changes.length])).toEqual([
    [0, 1],
    [1, 2],
  ]);
  expect(opened.waves[1]!.changes[0]).toMatchObject({
    ...{ fieldName: 'Artefact count', causes: [{ fieldName: 'Loan', title: 'Fan' }] },
  });
  const { runs, next } = await listRuns(loaded, null, 1);
  expect(runs).toMatchObject([{ run, person: TESTER.name, changed: { number: 3, isExact: true } }]);
  expect((await listRuns(loaded, next, 1)).runs[0]!.kind).toBe('live');
  const followers = await getDependants(loaded, 'artefact', fan);
  expect(followers.map(({ fieldName, targets }) => [fieldName, targets[0]!.title])).toEqual([
    ['Artefact count', 'Pots'],
    ['Artefact count', 'Rivers of Silk'],
    ['Grade', 'Rivers of Silk'],
  ]);
});

describe('importing', () => {
  const into = (records: Iterable<Record<string, unknown>>, type = 'loan') =>
    importRecords({ ...by(), type, records });
  const pots = (at: number, more = {}) => ({
    ...{ title: `Pot ${at}`, exhibition: at % 2 === 0 ? silk : maps, stage: 'agreed' },
    ...{ insuredValue: { amount: '2.50', currency: 'GBP' }, ...more },
  });

  test('makes all records in one run, and rules are right afterwards', async () => {
    const { created, run } = await into(Array.from({ length: 500 }, (_, at) => pots(at)));
    expect(created).toBe(500);
    expect((await row(silk)).values.insuredTotal).toEqual(gbp('732'));
    const made = (await workspace.rows()).find(({ values }) => values.title === 'Pot 3')!;
    expect(made.values.artefactCount?.toString()).toBe('0');
    expect(await driftIn(workspace)).toEqual([]);
    await save({ kind: 'create', type: 'artefact', values: { title: 'Lid', loan: made.id } });
    expect((await row(made.id)).values.artefactCount?.toString()).toBe('1');
    expect(await driftIn(workspace)).toEqual([]);
    expect((await historyOf('loan', made.id)).at(-1)).toMatchObject({
      run,
      kind: 'import',
    });
  });

  test('is refused whole, with the place of each flaw', async () => {
    const before = await workspace.rows();
    const flawed = [
      pots(1),
      pots(2, { stage: 'lost' }),
      pots(3, { artefactCount: '4' }),
      pots(4, { title: null }),
    ];
    const { parts, status } = await refusal(into(flawed));
    expect([status, ...parts.map(({ index, place }) => `${index} ${place}`)]).toEqual([
      ...[422, '1 stage', '2 artefactCount', '3 title'],
    ]);
    expect(await refusal(into([pots(1, { exhibition: uuid('99') })]))).toMatchObject({ code: 'link.gone' });
    expect(await refusal(into([]))).toMatchObject({ code: 'import.empty' });
    expect(await refusal(into([pots(1)], 'crate'))).toMatchObject({ code: 'type.unknown' });
    expect(await workspace.rows()).toEqual(before);
  });
});
