import { galleries, gbp, INSURED_TOTAL, rowOf, uuid } from '@/core/testing/galleries';
import { saveEdits } from '@/server/actions/records/save-edits';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';
import { QueryTypes } from 'sequelize';
import { database, disconnect } from '@/server/database/connection';
import { type TestWorkspace, TESTER, testWorkspace } from '@/server/testing/workspace';
import { quote, run } from '@/server/store/sql/sql';
import { inChange, inSave, inSnapshot, withExclusiveLockAfter } from './transactions';
import type { LoadedWorkspace } from './workspace';

const model = galleries();
const [silk, loan] = [uuid('11'), uuid('21')];
let workspace: TestWorkspace;

beforeEach(async () => {
  const rows = [
    rowOf(model, 'exhibition', silk, {}),
    rowOf(model, 'loan', loan, { exhibition: silk, stage: 'agreed', insuredValue: gbp(100) }),
  ];
  workspace = await testWorkspace({ model, rows, rules: [] });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const caches = globalThis as { oikonWorkspaces?: Map<string, LoadedWorkspace> };
const by = () => ({ workspace: workspace.key, person: TESTER.id });
const total = async () => (await workspace.rows()).find(({ id }) => id === silk)!.values.insuredTotal;

test('a process that compiled the workspace before a rule went live saves with that rule all the same', async () => {
  const stale = await workspace.load();
  const id = await createRule({ ...by(), definition: INSURED_TOTAL });
  await changeState({ ...by(), id, state: 'live' });
  // As another process would, which has heard nothing of the change.
  caches.oikonWorkspaces!.set(workspace.key, stale);
  await saveEdits({
    ...by(),
    edits: [
      { kind: 'edit', type: 'loan', id: loan, values: { insuredValue: { amount: '7', currency: 'GBP' } } },
    ],
  });
  expect(await total()).toEqual(gbp(7));
});

/** Until a session waits for a workspace's lock. */
async function untilSomebodyWaits(): Promise<void> {
  const waiting = "SELECT 1 FROM pg_locks WHERE locktype = 'advisory' AND classid = 4410 AND NOT granted";
  while ((await database().query(waiting, { type: QueryTypes.SELECT })).length === 0);
}

test('a change of rules waits for saves that are under way', async () => {
  const order: string[] = [];
  let changing: Promise<unknown> = Promise.resolve();
  await inSave(
    workspace.key,
    () => false,
    async () => {
      changing = inChange(workspace.key, async () => void order.push('change'));
      await untilSomebodyWaits();
      order.push('save');
    },
  );
  await changing;
  expect(order).toEqual(['save', 'change']);
});

test('a deadlock is tried again, other errors are not', async () => {
  let tries = 0;
  const result = await inSave(
    workspace.key,
    () => false,
    async () => {
      tries += 1;
      if (tries < 3) throw Object.assign(new Error('deadlock detected'), { code: '40P01' });
      return 'saved';
    },
  );
  expect([result, tries]).toEqual(['saved', 3]);
  await expect(
    inSave(
      workspace.key,
      () => false,
      () => Promise.reject(new Error('no')),
    ),
  ).rejects.toThrow('no');
});

test('a save that never gets through is told, after it had the workspace to itself', async () => {
  const alone: boolean[] = [];
  const busy = inSave(
    workspace.key,
    () => true,
    async ({ isAlone }) => {
      alone.push(isAlone);
      throw new Error('again');
    },
  );
  await expect(busy).rejects.toMatchObject({ status: 503, code: 'save.busy' });
  expect(alone).toEqual([false, false, false, true, true, true, true, true]);
});

const deadlock = () => Object.assign(new Error('deadlock detected'), { code: '40P01' });

test('a change of rules is tried again after a deadlock; what never gets through, or can’t read again, is told', async () => {
  let tries = 0;
  const result = await inChange(workspace.key, async () => {
    tries += 1;
    if (tries < 3) throw deadlock();
    return 'changed';
  });
  expect([result, tries]).toEqual(['changed', 3]);
  const busy = { status: 503, code: 'change.busy' };
  await expect(inChange(workspace.key, () => Promise.reject(deadlock()))).rejects.toMatchObject(busy);
  let prepared = 0;
  const prepare = async () => (prepared += 1);
  const after = withExclusiveLockAfter(workspace.key, prepare, () => Promise.reject(deadlock()));
  await expect(after).rejects.toMatchObject(busy);
  expect(prepared).toBe(1);
});

test('a rule that was live goes live again while somebody reads its records: nothing needs to be altered', async () => {
  const id = await createRule({ ...by(), definition: INSURED_TOTAL });
  await changeState({ ...by(), id, state: 'live' });
  await changeState({ ...by(), id, state: 'paused' });
  await inSnapshot(async (transaction) => {
    const { schema } = await workspace.load();
    await run(transaction, `SELECT FROM ${quote(schema)}.exhibition`);
    await changeState({ ...by(), id, state: 'live' });
  });
  expect(await total()).toEqual(gbp(100));
});
