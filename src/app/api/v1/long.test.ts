import { galleries, INSURED_TOTAL, rowOf, uuid } from '@/core/testing/galleries';
import { createRule } from '@/server/actions/rules/write-rules';
import { disconnect } from '@/server/database/connection';
import type { StrengthView } from '@/server/queries/rules/strength';
import { endThreads } from '@/server/workers/threads';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { POST as imports } from './workspaces/[w]/imports/[type]/route';
import { POST as listEdits } from './workspaces/[w]/list-edits/[type]/route';
import { GET as strengthOf } from './workspaces/[w]/rules/[id]/strength/route';
import { POST as listEditRehearsals } from './workspaces/[w]/list-edit-rehearsals/[type]/route';

const model = galleries();
let workspace: TestWorkspace;
beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: [] },
    rows: [
      rowOf(model, 'loan', uuid('21'), { title: 'Robes' }),
      rowOf(model, 'loan', uuid('22'), { title: 'Pots' }),
    ],
  });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

type Handler = typeof listEdits;
const LINES = 'application/x-ndjson';

async function ask(handler: Handler, body: unknown, more: RequestInit & { accept?: string } = {}) {
  const { accept = LINES, ...init } = more;
  const request = new Request('http://127.0.0.1/', {
    method: 'POST',
    headers: {
      ...{ Accept: accept, 'Content-Type': 'application/json', 'Oikon-Person': TESTER.id },
      ...(init.headers as Record<string, string>),
      Host: '127.0.0.1',
    },
    body: JSON.stringify(body),
    ...init,
  });
  request.headers.set('host', '127.0.0.1');
  return handler(request, { params: Promise.resolve({ w: workspace.key, type: 'loan' }) });
}
const lines = async (response: Response) =>
  (await response.text())
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, unknown>);

test('long work tells its steps line by line and ends with its answer; asked as usual, it answers as usual', async () => {
  const edit = { values: { stage: 'agreed' } };
  const response = await ask(listEditRehearsals, edit);
  expect(response.headers.get('content-type')).toBe(LINES);
  const told = await lines(response);
  expect(told.map(({ progress }) => (progress as { stage: string } | undefined)?.stage)).toEqual([
    ...['checking', 'writing', undefined],
  ]);
  expect(told.at(-1)).toMatchObject({ status: 200, body: { changed: 2, run: null } });
  const plain = await ask(listEdits, { ...edit, expected: 2 }, { accept: 'application/json' });
  expect(plain.status).toBe(201);
  expect(await plain.json()).toMatchObject({ changed: 2 });
});

test('what is refused on the way is the last line, as a problem detail', async () => {
  const [last] = (await lines(await ask(listEdits, { values: { stage: 'agreed' }, expected: 5 }))).slice(-1);
  expect(last).toMatchObject({ status: 409, problem: { code: 'list.moved', status: 409 } });
  const [shape] = (await lines(await ask(listEdits, { values: {} }))).slice(-1);
  expect(shape).toMatchObject({ status: 400, problem: { code: 'input.shape' } });
});

test('a client that goes away stops the work, and nothing of it is saved', async () => {
  const going = new AbortController();
  const plan = { format: 'csv', columns: [{ column: 'Title', field: 'title' }] };
  async function* file(): AsyncGenerator<Uint8Array> {
    yield Buffer.from(`${JSON.stringify(plan)}\nTitle\nNew one\n`);
    going.abort();
    yield Buffer.from('New two\n');
  }
  const response = await ask(imports, null, {
    headers: { 'Content-Type': 'application/octet-stream' },
    body: file() as unknown as BodyInit,
    signal: going.signal,
    ...({ duplex: 'half' } as object),
  });
  const [last] = (await lines(response)).slice(-1);
  expect(last).not.toMatchObject({ status: 201 });
  expect((await workspace.rows()).filter(({ type }) => type === 'loan')).toHaveLength(2);
});

test('how strong the proofs of a rule are is searched line by line, and told with cases that would notice the rest', async () => {
  const definition = INSURED_TOTAL;
  const id = await createRule({ workspace: workspace.key, person: TESTER.id, definition });
  const request = new Request('http://127.0.0.1/', { headers: { Accept: LINES, Host: '127.0.0.1' } });
  request.headers.set('host', '127.0.0.1');
  const told = await lines(await strengthOf(request, { params: Promise.resolve({ w: workspace.key, id }) }));
  const { status, body } = told.at(-1) as { status: number; body: StrengthView };
  expect([status, body.share, body.noticed]).toEqual([200, 0, 0]);
  expect(body.cases.flatMap(({ notices }) => notices).length).toBeGreaterThan(3);
  expect(
    told.slice(0, -1).every(({ progress }) => typeof (progress as { done: unknown }).done === 'number'),
  ).toBe(true);
  await endThreads();
});
