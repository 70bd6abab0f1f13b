import { readdirSync } from 'node:fs';
import { join, sep } from 'node:path';
import { galleries, rowOf, uuid } from '@/core/testing/galleries';
import { asSeen, readInput } from '@/server/forms/input';
import { saveEdits } from '@/server/actions/records/save-edits';
import { database, disconnect } from '@/server/database/connection';
import { settleDays } from '@/server/jobs/settle-days';
import { Refusal } from '@/server/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { ACCESS, type Method } from './access';
import { streamOf } from './answer';
import { endpoint } from './endpoint';
import { POST as imports } from './v1/workspaces/[w]/imports/[type]/route';
import { POST as changes } from './v1/workspaces/[w]/changes/route';
import { GET as exportList } from './v1/workspaces/[w]/records/[type]/export/route';
import { GET as listRecords } from './v1/workspaces/[w]/records/[type]/route';
import { GET as unknown } from './[[...path]]/route';

const model = galleries();
const [loan, other] = [uuid('21'), uuid('22')];
let workspace: TestWorkspace;
beforeEach(async () => {
  const rows = [
    rowOf(model, 'loan', loan, { title: 'Robes' }),
    rowOf(model, 'loan', other, { title: 'Pots' }),
  ];
  workspace = await testWorkspace({ model, rules: [], rows });
});
afterEach(async () => {
  delete process.env.OIKON_IDLE_SECONDS;
  delete process.env.OIKON_UPLOAD_MB;
  await workspace.remove();
});
afterAll(disconnect);

type Called = (request: Request, context: { params: Promise<never> }) => Promise<Response>;
interface Asked extends Omit<RequestInit, 'body'> {
  readonly json?: unknown;
  readonly body?: unknown;
  readonly query?: string;
  readonly params?: object;
}

const ask = (handler: unknown, { json, body, query = '', params, headers, ...more }: Asked = {}) => {
  const request = new Request(`http://127.0.0.1:4410/api/v1/x${query}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'oikon-person': TESTER.id, ...headers },
    body: (body ?? JSON.stringify(json ?? {})) as BodyInit,
    ...({ duplex: 'half' } as object),
    ...more,
  });
  request.headers.set('host', '127.0.0.1:4410');
  return (handler as Called)(request, {
    params: Promise.resolve({ w: workspace.key, type: 'loan', ...params } as never),
  });
};
const told = async (response: Response): Promise<Record<string, unknown>> => ({
  ...((await response.json()) as object),
  status: response.status,
});
const title = (text: string) => ({
  edits: [{ kind: 'edit', type: 'loan', id: loan, version: '*', values: { title: text } }],
});
const titles = async () => (await workspace.rows()).map(({ values }) => values.title).sort();
const runs = async () => {
  const { schema } = await workspace.load();
  const [rows] = await database().query(
    `SELECT count(*)::int AS n FROM "${schema}"._run WHERE kind = 'save'`,
  );
  return (rows as { n: number }[])[0]!.n;
};
const keyed = (key: string) => ({ 'idempotency-key': `"${key}"` });

function* routesIn(folder: string): Generator<string> {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.isDirectory()) yield* routesIn(join(folder, entry.name));
    else if (entry.name === 'route.ts') yield folder;
  }
}

test('who may call what is told of every route and method that there is, and of no other', async () => {
  const app = join(__dirname, '..');
  const found: Record<string, string[]> = {};
  for (const folder of routesIn(app)) {
    if (folder.includes('[[...path]]')) continue;
    const path = folder
      .slice(app.length)
      .split(sep)
      .join('/')
      .replace(/\[(\w+)\]/g, '{$1}');
    const routed = (await import(join(folder, 'route'))) as Record<Method, Called>;
    found[path] = [];
    for (const method of ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const) {
      // A method that isn't there is answered so whoever asks, before anything else.
      const request = new Request('http://127.0.0.1/', { method: 'POST', headers: { host: 'elsewhere' } });
      const { status } = await routed[method](request, { params: Promise.resolve({} as never) });
      if (status !== 405) found[path].push(method);
    }
  }
  const known = Object.entries(ACCESS).map(([path, methods]) => [path, Object.keys(methods).sort()]);
  expect(Object.fromEntries(Object.entries(found).map(([path, methods]) => [path, methods.sort()]))).toEqual(
    Object.fromEntries(known),
  );
});

test('a route that isn’t in the table is closed to everybody', async () => {
  const { GET } = endpoint('/api/v1/workspaces/{w}/nowhere' as '/health', {
    GET: () => Promise.resolve({ body: { status: 'secret' } }),
  });
  const request = new Request('http://127.0.0.1/');
  request.headers.set('host', '127.0.0.1');
  await expect(GET(request, { params: Promise.resolve({}) }).then(told)).resolves.toMatchObject({
    ...{ status: 403, code: 'route.closed' },
  });
});

test('what isn’t a route, and a method that isn’t one of it, are told as problems', async () => {
  expect(await told(await ask(unknown))).toMatchObject({ status: 404, code: 'route.unknown' });
  const { PUT } = (await import('./v1/workspaces/[w]/changes/route')) as unknown as Record<string, Called>;
  const response = await ask(PUT);
  expect(response.headers.get('allow')).toBe('POST');
  expect(await told(response)).toMatchObject({ status: 405, code: 'method.unknown' });
});

test('an address with a parameter that isn’t known, or a number out of its bounds, is refused by name', async () => {
  const get = (query: string) => {
    const request = new Request(`http://127.0.0.1/x${query}`);
    request.headers.set('host', '127.0.0.1');
    const params = Promise.resolve({ w: workspace.key, type: 'loan' } as never);
    return (listRecords as Called)(request, { params }).then(told);
  };
  const misspelt = await get('?limti=5');
  expect(misspelt).toMatchObject({ status: 422, code: 'query.unknown' });
  expect(misspelt.detail).toMatch(/“limti”.*Known: limit/);
  expect(await get('?limit=0')).toMatchObject({ status: 422, code: 'query.number' });
});

/** A body that begins and then says nothing more, until it is given up. */
const stalled = (begin: string): ReadableStream<Uint8Array> =>
  new ReadableStream({
    start: (controller) => controller.enqueue(new TextEncoder().encode(begin)),
  });

test.each([
  ['JSON Lines', 'application/x-ndjson', '{"title": "New"}\n'],
  ['a plan and a file', 'application/octet-stream', '{"format": "csv", "columns": []}\nTitle\n'],
])('an import of %s whose client falls silent holds nobody up, and is dropped', async (_, type, begin) => {
  process.env.OIKON_IDLE_SECONDS = '2';
  const headers = { 'content-type': type };
  const dropped = ask(imports, { body: stalled(begin), headers }).then(told);
  let isDropped = false;
  void dropped.then(() => (isDropped = true));
  // Many saves, and a change of the whole workspace, go on meanwhile.
  for (const text of ['One', 'Two', 'Three'])
    expect((await ask(changes, { json: title(text) })).status).toBe(200);
  const whole = { headers, body: '{"title": "Fans"}\n' };
  if (type.includes('ndjson')) expect((await ask(imports, whole)).status).toBe(201);
  expect(isDropped).toBe(false);
  expect(await dropped).toMatchObject({ status: 408, code: 'body.stalled' });
  expect(await titles()).not.toContain('New');
});

test('a client that takes nothing more of a file is given up', async () => {
  process.env.OIKON_IDLE_SECONDS = '1';
  let isEnded = false;
  async function* endless() {
    try {
      for (;;) yield 'a line\n'.repeat(10_000);
    } finally {
      isEnded = true;
    }
  }
  const { GET } = endpoint('/api/v1/workspaces/{w}/records/{type}/export', {
    GET: () => Promise.resolve({ body: new Response(streamOf(endless())) }),
  });
  const request = new Request('http://127.0.0.1/x');
  request.headers.set('host', '127.0.0.1');
  const response = await GET(request, { params: Promise.resolve({ w: workspace.key, type: 'loan' }) });
  const reader = response.body!.getReader();
  await reader.read();
  const until = Date.now() + 10_000;
  while (!isEnded && Date.now() < until) await new Promise((resolve) => setTimeout(resolve, 20));
  expect(isEnded).toBe(true);
  await expect(
    (async () => {
      for (;;) await reader.read();
    })(),
  ).rejects.toThrow(/Nobody takes/);
});

test('what answers with a file does so whatever is accepted, and gives its turn back', async () => {
  for (let at = 0; at < 12; at += 1) {
    const request = new Request('http://127.0.0.1/x?format=csv', {
      headers: { accept: 'application/x-ndjson' },
    });
    request.headers.set('host', '127.0.0.1');
    const params = Promise.resolve({ w: workspace.key, type: 'loan' } as never);
    const response = await (exportList as Called)(request, { params });
    expect(response.headers.get('content-type')).toMatch(/^text\/csv/);
    expect(await response.text()).toContain('Robes');
  }
});

test('a body is refused as soon as it is too long, whatever it says of its length', async () => {
  process.env.OIKON_UPLOAD_MB = '3';
  let sent = 0;
  const endless = () =>
    new ReadableStream<Uint8Array>({
      pull(controller) {
        sent += 1;
        controller.enqueue(new Uint8Array(100_000).fill(0x20));
      },
    });
  for (const [handler, type, most] of [
    [changes, 'application/json', 4],
    [imports, 'application/x-ndjson', 3],
  ] as const) {
    sent = 0;
    const answer = await told(await ask(handler, { body: endless(), headers: { 'content-type': type } }));
    expect(answer).toMatchObject({
      status: 413,
      code: 'body.size',
      detail: expect.stringContaining(`${most} MB`),
    });
    expect(sent).toBeLessThan(most * 10 + 5);
  }
});

test('a write that comes again with its key is saved once and answered as the first time', async () => {
  const first = await ask(changes, { json: title('Kimonos'), headers: keyed('a 1') });
  const answer = await told(first);
  expect(answer.status).toBe(200);
  await ask(changes, { json: title('Later') });
  expect(await told(await ask(changes, { json: title('Kimonos'), headers: keyed('a 1') }))).toEqual(answer);
  expect(await titles()).toEqual(['Later', 'Pots']);
  expect(await told(await ask(changes, { json: title('Other'), headers: keyed('a 1') }))).toMatchObject({
    ...{ status: 422, code: 'key.reused' },
  });
  expect(
    await told(await ask(changes, { json: title('x'), headers: { 'idempotency-key': 'no, not "this"' } })),
  ).toMatchObject({ status: 400, code: 'key.form' });
});

test('a key is known for a day', async () => {
  const { schema } = await workspace.load();
  const age = (hours: number) =>
    database().query(`UPDATE "${schema}"._request_key SET at = at - make_interval(hours => ${hours})`);
  const status = async (text: string) =>
    (await ask(changes, { json: title(text), headers: keyed('old') })).status;
  expect(await status('Kimonos')).toBe(200);
  await age(23);
  await settleDays(new Date(), [workspace.key]);
  expect(await status('Other')).toBe(422);
  await age(2);
  await settleDays(new Date(), [workspace.key]);
  expect(await status('Other')).toBe(200);
});

test('writes with one key that come at once are saved once', async () => {
  const before = await runs();
  const edit = { edits: [{ kind: 'create', type: 'loan', values: { title: 'Fans' } }] };
  const answers = await Promise.all(
    Array.from({ length: 8 }, () => ask(changes, { json: edit, headers: keyed('at-once') }).then(told)),
  );
  expect(answers).toEqual(answers.map(() => answers[0]));
  expect(await runs()).toBe(before + 1);
  expect(await titles()).toEqual(['Fans', 'Pots', 'Robes']);
});

/** What a process finds that hasn't the first's answer: the key was kept with what was saved. */
const savingThen = (fail: () => never) =>
  endpoint('/api/v1/workspaces/{w}/changes', {
    POST: async ({ params, person, json }) => {
      const edits = readInput('changes', await json()).edits.map(asSeen);
      await saveEdits({ workspace: params.w, person, edits });
      return fail();
    },
  }).POST as unknown as Called;

test('a failure after the commit never says that nothing was saved', async () => {
  const lost = savingThen(() => {
    throw Object.assign(new Error('Connection terminated unexpectedly'), { code: 'ECONNRESET' });
  });
  const answer = await told(await ask(lost, { json: title('Kimonos'), headers: keyed('k') }));
  expect(answer).toMatchObject({ status: 503, code: 'save.untold' });
  expect(answer.detail).not.toMatch(/nothing was saved/i);
  expect(await titles()).toContain('Kimonos');
  // Sent again it isn't saved again, and is told that it was.
  const again = await told(await ask(changes, { json: title('Kimonos'), headers: keyed('k') }));
  expect(again).toMatchObject({ status: 409, code: 'save.before' });
  const refused = savingThen(() => {
    throw new Refusal(404, 'record.unknown', 'It is gone.');
  });
  expect(await told(await ask(refused, { json: title('Fans') }))).toMatchObject({ code: 'save.untold' });
});

test('a failure before the commit leaves the key free', async () => {
  const wrong = {
    edits: [{ kind: 'edit', type: 'loan', id: uuid('99'), version: '*', values: { title: 'x' } }],
  };
  expect((await ask(changes, { json: wrong, headers: keyed('f') })).status).toBe(404);
  expect((await ask(changes, { json: title('Fans'), headers: keyed('f') })).status).toBe(200);
});
