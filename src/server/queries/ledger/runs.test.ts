import {
  EXHIBITION_ARTEFACTS,
  galleries,
  gbp,
  INSURED_TOTAL,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import { importRecords } from '@/server/actions/imports/import-records';
import { saveEdits } from '@/server/actions/records/save-edits';
import { database, disconnect } from '@/server/database/connection';
import { inSnapshot } from '@/server/store/session/transactions';
import { run as query } from '@/server/store/sql/sql';
import { countLater, countWaiting } from '@/server/store/write/run-counts';
import type { Transaction } from 'sequelize';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { getRun, listRuns, type RunFilter } from './runs';

const model = galleries();
const exhibitions = Array.from({ length: 4 }, (_, at) => uuid(String(11 + at)));
let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await testWorkspace({
    model,
    rules: [ruleOf(INSURED_TOTAL, 1, 'Total'), ruleOf(EXHIBITION_ARTEFACTS, 2, 'Artefacts')],
    rows: [
      ...exhibitions.map((id, at) => rowOf(model, 'exhibition', id, { title: `Exhibition ${at}` })),
      rowOf(model, 'loan', uuid('21'), {
        exhibition: exhibitions[0]!,
        stage: 'agreed',
        insuredValue: gbp('1'),
      }),
    ],
  });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});
const by = () => ({ workspace: workspace.key, person: TESTER.id });
const counts = async (run: string) =>
  (await getRun(await workspace.load(), run)).counts!.map(({ plural, kind, rule, records }) =>
    [records, plural, kind, rule?.name ?? null].join(' '),
  );

test('a run is counted exactly, by whom or which rule, by type and by what was done', async () => {
  const records = Array.from({ length: 1_500 }, (_, at) => ({
    ...{ title: `Loan ${at}`, exhibition: exhibitions[at % 4]!, stage: 'agreed', artefactCount: '1' },
    insuredValue: { amount: '2', currency: 'GBP' },
  }));
  const { run } = await importRecords({ ...by(), type: 'loan', records });
  expect(await counts(run)).toEqual([
    '1500 Loans created ',
    '4 Exhibitions changed Artefacts',
    '4 Exhibitions changed Total',
  ]);
  const { runs } = await listRuns(await workspace.load(), null, 1);
  expect(runs[0]!.changed).toEqual({ number: 4, isExact: true });
  const saved = await saveEdits({
    ...by(),
    edits: [
      { kind: 'delete', type: 'loan', id: uuid('21') },
      { kind: 'edit', type: 'exhibition', id: exhibitions[1]!, values: { title: 'Salt' } },
    ],
  });
  expect(await counts(saved.run!)).toEqual([
    '1 Exhibitions changed ',
    '1 Loans deleted ',
    '1 Exhibitions changed Total',
  ]);
});

test('a run over many is counted once, and told by what was kept of it', async () => {
  const { model, schema } = await workspace.load();
  const { runs } = await listRuns(await workspace.load(), null, 20);
  const { run } = runs.find(({ kind }) => kind === 'import')!;
  const told = await counts(run);
  const kept = () =>
    inSnapshot(async (transaction) => {
      const [row] = await query<{ counted: object | null }>(
        transaction,
        `SELECT counted FROM "${schema}"._run WHERE id = $1`,
        [run],
      );
      return row!.counted;
    });
  const write = (work: (transaction: Transaction) => Promise<unknown>) => database().transaction(work);
  expect(await kept()).toBeNull();
  await write((transaction) => countLater(transaction, schema, run));
  expect([await kept(), await counts(run)]).toEqual([{}, told]);
  await write((transaction) => countWaiting(transaction, { model, schema }));
  expect(await kept()).toMatchObject({
    entries: 4,
    counts: [{ kind: 'created' }, { records: 4 }, { records: 4 }],
  });
  expect(await counts(run)).toEqual(told);
  const listed = async () =>
    (await listRuns(await workspace.load(), null, 20)).runs.find((one) => one.run === run)!.changed;
  expect(await listed()).toEqual({ number: 4, isExact: true });
});

test('its pages are as long as is asked for, and together all of it', async () => {
  const { runs } = await listRuns(await workspace.load(), null, 10);
  const { run } = runs.find(({ kind }) => kind === 'import')!;
  const seen = new Set<string>();
  let after: string | null = null;
  let pages = 0;
  do {
    const page: Awaited<ReturnType<typeof getRun>> = await getRun(await workspace.load(), run, after, 200);
    const ids = page.waves.flatMap(({ changes }) => changes.map(({ id }) => id));
    expect(new Set(ids).size).toBeLessThanOrEqual(200);
    ids.forEach((id) => seen.add(id));
    after = page.next;
    pages += 1;
  } while (after !== null);
  expect([pages, seen.size]).toEqual([8, 1_504]);
});

test('the ledger is narrowed by who, what, rule, type, days and words', async () => {
  const saved = await saveEdits({
    ...by(),
    edits: [{ kind: 'edit', type: 'exhibition', id: exhibitions[2]!, values: { title: '100 % silk' } }],
    note: 'Named after 100 % of it',
  });
  const runs = async (filter: RunFilter) =>
    (await listRuns(await workspace.load(), null, 200, filter)).runs.map(({ run }) => run);
  const all = await runs({});
  expect(await runs({ person: TESTER.id })).toEqual(all);
  expect(await runs({ person: 'none' })).toEqual([]);
  expect(await runs({ kind: 'import' })).toHaveLength(1);
  expect(await runs({ search: '100 % OF' })).toEqual([saved.run]);
  expect(await runs({ search: saved.run! })).toContain(saved.run);
  const [total] = workspace.rules;
  const ofTotal = await runs({ rule: total! });
  expect(ofTotal).not.toContain(saved.run);
  expect(ofTotal.length).toBeGreaterThan(0);
  expect(await runs({ type: 'artefact' })).toEqual([]);
  expect(await runs({ type: 'exhibition' })).toContain(saved.run);
  const { runs: heads } = await listRuns(await workspace.load(), null, 1);
  const day = heads[0]!.at.slice(0, 10);
  const next = new Date(Date.parse(day) + 2 * 86_400_000).toISOString().slice(0, 10);
  expect(await runs({ from: next })).toEqual([]);
  expect(await runs({ to: next })).toEqual(all);
});
