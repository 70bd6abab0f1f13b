import { CASCADES, touring } from '@/core/testing/touring';
import { rowOf, uuid } from '@/core/testing/galleries';
import { numbered } from '@/core/testing/rule-desk';
import { disconnect } from '@/server/database/connection';
import { keepPaces } from '@/server/jobs/slower-paces';
import { getRecord } from '@/server/queries/records/records';
import { listQueued } from '@/server/queries/today/queued-saves';
import { edit } from '@/server/testing/edits';
import { flawsIn } from '@/server/testing/flaws';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { decideQueued, queueSave, saveQueued } from './queued-saves';
import { saveEdits } from './save-edits';

const model = touring();
const silk = uuid('11');
const MANY = 1_300;
const ROWS = [
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', coordinator: 'Farid' }),
  ...Array.from({ length: MANY }, (_, at) =>
    rowOf(model, 'loan', uuid(String(1_000 + at)), { exhibition: silk, coordinator: 'Farid' }),
  ),
];
let workspace: TestWorkspace;
beforeEach(async () => {
  workspace = await testWorkspace({ model, rows: ROWS, rules: numbered([CASCADES.coordinator]) });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const to = (coordinator: string, version?: number) => ({
  ...edit('exhibition', silk, { coordinator }),
  ...(version ? { version } : {}),
});
const coordinators = async () =>
  new Set(
    (await workspace.rows()).filter(({ type }) => type === 'loan').map(({ values }) => values.coordinator),
  );
const queued = async () => listQueued(await workspace.load());

test('where very many follow it is asked first, also the second time, and nothing is saved', async () => {
  const asked = (coordinator: string) =>
    refusal(saveEdits({ ...by(), edits: [to(coordinator)], asksWhereMany: true }));
  const { code, message, data } = await asked('Priya');
  expect([code, data]).toMatchObject(['save.many', { records: MANY }]);
  expect(message).toContain('“Rule 1” would go over 1,300 Loans. Nothing is saved yet');
  expect(await coordinators()).toEqual(new Set(['Farid']));
  await saveEdits({ ...by(), edits: [to('Priya')] });
  expect(await coordinators()).toEqual(new Set(['Priya']));
  expect((await asked('Zoe')).code).toBe('save.many');
  const few = edit('exhibition', silk, { title: 'Silk' });
  await saveEdits({ ...by(), edits: [few], asksWhereMany: true });
  expect(await flawsIn(workspace)).toEqual([]);
});

test('put off, it waits with its name, and is saved once by its person, however many processes look', async () => {
  await queueSave({ ...by(), edits: [to('Priya', 1)], note: 'As agreed' });
  expect(await queued()).toEqual([
    expect.objectContaining({
      ...{ person: TESTER.name, edits: 1, problem: null, note: 'As agreed' },
      record: { type: 'exhibition', id: silk, title: 'Rivers of Silk', fieldNames: ['Coordinator'] },
    }),
  ]);
  const saved = await Promise.all([saveQueued(workspace.key), saveQueued(workspace.key)]);
  expect(saved.reduce((sum, one) => sum + one, 0)).toBe(1);
  expect(await queued()).toEqual([]);
  expect(await coordinators()).toEqual(new Set(['Priya']));
  const { record } = await getRecord(await workspace.load(), 'exhibition', silk);
  expect(record.version).toBe(2);
  expect(await flawsIn(workspace)).toEqual([]);
});

test('what has changed by then stays, with why, until it is tried again or dropped', async () => {
  await queueSave({ ...by(), edits: [to('Priya', 1)] });
  await saveEdits({ ...by(), edits: [edit('exhibition', silk, { title: 'Silk' })] });
  await keepPaces(workspace.key, new Date());
  const [stuck] = await queued();
  expect(stuck!.problem).toContain('was changed by somebody else');
  expect(await coordinators()).toEqual(new Set(['Farid']));
  await decideQueued({ ...by(), id: stuck!.id, decision: 'again' });
  expect((await queued())[0]!.problem).toBeNull();
  await decideQueued({ ...by(), id: stuck!.id, decision: 'drop' });
  expect(await queued()).toEqual([]);
  expect((await refusal(decideQueued({ ...by(), id: stuck!.id, decision: 'again' }))).code).toBe(
    'queue.gone',
  );
});

test('what could never be saved is refused at once', async () => {
  const wrong = edit('exhibition', silk, { coordinator: 7 });
  expect((await refusal(queueSave({ ...by(), edits: [wrong] }))).message).toContain('Coordinator');
  expect(await queued()).toEqual([]);
  await queueSave({ ...by(), edits: [to('Priya')] });
  await keepPaces(workspace.key, new Date());
  expect(await coordinators()).toEqual(new Set(['Priya']));
});

test('a dozen that wait are saved in the order in which they were put off', async () => {
  const titles = Array.from({ length: 12 }, (_, at) => `Title ${at + 1}`);
  for (const title of titles)
    await queueSave({ ...by(), edits: [edit('exhibition', silk, { title })], note: title });
  expect((await queued()).map(({ note }) => note)).toEqual(titles);
  expect(await saveQueued(workspace.key)).toBe(titles.length);
  expect((await getRecord(await workspace.load(), 'exhibition', silk)).record.values.title).toBe('Title 12');
});
