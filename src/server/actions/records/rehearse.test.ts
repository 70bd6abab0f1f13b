import type { WireEdit } from '@/core/engine';
import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { database, disconnect } from '@/server/database/connection';
import { run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { rehearseIn, rehearseOnData } from './rehearse';
import { saveEdits } from './save-edits';

const model = galleries();
const [silk, robes] = [uuid('11'), uuid('21')];
let workspace: TestWorkspace;

beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: [ruleOf(INSURED_TOTAL, 1)] },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      rowOf(model, 'loan', robes, {
        ...{ title: 'Robes', exhibition: silk, stage: 'agreed', insuredValue: gbp(100) },
      }),
    ],
  });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const worth = (amount: string): WireEdit => ({
  ...{ kind: 'edit', type: 'loan', id: robes },
  values: { insuredValue: { amount, currency: 'GBP' } },
});
const input = () => ({ workspace: workspace.key, edits: [worth('7')], drafts: [] });
const totalNow = async () => {
  const row = (await workspace.rows()).find(({ id }) => id === silk)!;
  return String((row.values.insuredTotal as { amount: object }).amount);
};

test('while a rehearsal on the real data is under way nobody’s save waits for it, of the same records either', async () => {
  const known = await workspace.load();
  await inSnapshot(async (transaction) => {
    const { ripple } = await rehearseIn(transaction, known, input());
    expect(ripple.waves.flatMap(({ changes }) => changes.map(({ after }) => after?.text))).toEqual([
      ...['7.00 GBP', '7.00 GBP'],
    ]);
    // Its transaction is still open, and holds no lock that a save waits for.
    const pid = await pidOf(transaction);
    const [held] = await database().transaction((other) =>
      run<{ locks: number }>(
        other,
        `SELECT count(*)::int AS locks FROM pg_locks l JOIN pg_stat_activity a ON a.pid = l.pid
          WHERE l.mode NOT IN ('AccessShareLock', 'ShareLock', 'ExclusiveLock') AND l.pid = $1`,
        [pid],
      ),
    );
    expect(held!.locks).toBe(0);
    await saveEdits({ workspace: workspace.key, person: TESTER.id, edits: [worth('50')] });
    expect(await totalNow()).toBe('50');
    // What is rehearsed stands on the moment at which it began.
    const again = await rehearseIn(transaction, known, input());
    expect(again.ripple.waves[0]!.changes[0]!.before?.text).toBe('100.00 GBP');
  });
  expect(await totalNow()).toBe('50');
});

const pidOf = async (transaction: Parameters<typeof rehearseIn>[0]): Promise<number> => {
  const [found] = await run<{ pid: number }>(transaction, 'SELECT pg_backend_pid() AS pid');
  return found!.pid;
};

test('nothing of it is saved, and drafts take part', async () => {
  const draft = { definition: { ...INSURED_TOTAL, target: 'averageInsured', aggregate: 'average' } as const };
  const { filled, ripple } = await rehearseOnData({ ...input(), drafts: [draft] });
  expect(filled!.waves.flatMap(({ changes }) => changes)).toHaveLength(1);
  expect(ripple.waves.flatMap(({ changes }) => changes)).toHaveLength(3);
  expect(await totalNow()).toBe('100');
});

test('what was looked at and stays as it is is told with why, as on the bench', async () => {
  const edits: WireEdit[] = [
    { kind: 'edit', type: 'loan', id: robes, values: { stage: 'declined' } },
    { kind: 'create', type: 'loan', values: { title: 'Pots', exhibition: silk, stage: 'requested' } },
  ];
  const first = await rehearseOnData({ ...input(), edits: edits.slice(1) });
  expect(first.ripple.left).toMatchObject([
    {
      rule: { kind: 'rollUp' },
      kinds: [
        {
          why: 'what changed doesn’t count: fails “Stage is Agreed”: here Requested',
          records: [{ title: 'Rivers of Silk' }],
        },
      ],
    },
  ]);
  expect((await rehearseOnData({ ...input(), edits })).ripple.left).toEqual([]);
});
