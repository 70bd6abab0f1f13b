import { type APIRequestContext, expect, test } from './test';
import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { createServer } from 'node:net';

const API = '/api/v1/workspaces/wrenfield';

interface Stored {
  readonly id: string;
  readonly version: number;
  readonly values: Record<string, unknown>;
}

const listed = async (request: APIRequestContext, base: string, type: string): Promise<Stored[]> =>
  ((await (await request.get(`${base}${API}/records/${type}?limit=200`)).json()) as { records: Stored[] })
    .records;

/** Every kept total is what its opened value comes to: nothing is half-saved. */
async function expectTotals(request: APIRequestContext, base: string): Promise<void> {
  for (const { id } of await listed(request, base, 'exhibition')) {
    const opened = await request.get(`${base}${API}/records/exhibition/${id}/explanations/artefactCount`);
    const { result, stored } = (await opened.json()) as { result: object; stored: object };
    expect(result).toEqual(stored);
  }
  for (const { id } of (await listed(request, base, 'loan')).slice(0, 12)) {
    const opened = await request.get(`${base}${API}/records/loan/${id}/explanations/agreedTotal`);
    const { result, stored } = (await opened.json()) as { result: object; stored: object };
    expect(result).toEqual(stored);
  }
}

/** Edits of artefacts at random, several at once, until it is told to stop; answers the statuses that came back, also as they come. */
async function busy(
  request: APIRequestContext,
  base: string,
  isOver: () => boolean,
  statuses: number[] = [],
): Promise<number[]> {
  const { people } = (await (await request.get(`${base}${API}/people`)).json()) as {
    people: { id: string }[];
  };
  const [artefacts, loans] = [await listed(request, base, 'artefact'), await listed(request, base, 'loan')];
  const writer = async (number: number) => {
    for (let at = 0; !isOver(); at += 1) {
      const { id } = artefacts[(at * 7 + number * 31) % artefacts.length]!;
      const values = {
        loan: loans[(at * 3 + number) % loans.length]!.id,
        agreedValue: { amount: `${at + 1}.${10 + number}`, currency: 'GBP' },
      };
      const answer = await request
        .post(`${base}${API}/changes`, {
          headers: { 'Oikon-Person': people[0]!.id },
          data: { edits: [{ kind: 'edit', type: 'artefact', id, version: '*', values }] },
          timeout: 120_000,
        })
        .catch(() => null);
      statuses.push(answer?.status() ?? 0);
    }
  };
  await Promise.all([0, 1, 2, 3].map(writer));
  return statuses;
}

/** Makes artefacts one after the other, each with a key of its own with which it is sent until it is answered; answers how many were. */
async function makingOnce(
  request: APIRequestContext,
  base: string,
  name: string,
  isOver: () => boolean,
): Promise<number> {
  const { people } = (await (await request.get(`${base}${API}/people`)).json()) as {
    people: { id: string }[];
  };
  for (let at = 0; ; at += 1) {
    if (isOver()) return at;
    const headers = { 'Oikon-Person': people[0]!.id, 'Idempotency-Key': `"${name} ${at}"` };
    const data = { values: { title: `${name} ${at}` } };
    await expect
      .poll(
        async () => {
          const answer = await request
            .post(`${base}${API}/records/artefact`, { headers, data, timeout: 120_000 })
            .catch(() => null);
          const { code } = ((await answer?.json().catch(() => null)) ?? {}) as { code?: string };
          // Saved, by this try or by an earlier one of which nobody heard.
          return answer?.status() === 201 || code === 'save.before';
        },
        { timeout: 120_000, intervals: [100] },
      )
      .toBe(true);
  }
}

const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

async function startServer(request: APIRequestContext): Promise<{ base: string; process: ChildProcess }> {
  const port = await freePort();
  const started = spawn(process.execPath, ['--import', 'tsx', 'src/serve.ts', String(port)], {
    stdio: 'ignore',
    detached: true,
    env: { ...process.env, NODE_ENV: 'production' },
  });
  const base = `http://127.0.0.1:${port}`;
  await expect
    .poll(
      async () =>
        request.get(`${base}/health`).then(
          (answer) => answer.status(),
          () => 0,
        ),
      { timeout: 300_000 },
    )
    .toBe(200);
  return { base, process: started };
}

const kill = (started: ChildProcess): void => void process.kill(-started.pid!, 'SIGKILL');

test('a server that is killed in the middle of saves leaves nothing half-saved, and another goes on', async ({
  request,
}) => {
  for (let round = 0; round < 2; round += 1) {
    const { base, process: started } = await startServer(request);
    let isOver = false;
    const working = busy(request, base, () => isOver);
    await expect
      .poll(async () => request.get(`${base}${API}/runs?limit=1`).then((answer) => answer.status()))
      .toBe(200);
    const runs = async () => {
      const list = (await (await request.get(`${base}${API}/runs?limit=1`)).json()) as {
        runs: { run: string }[];
      };
      return Number(list.runs[0]!.run);
    };
    const first = await runs();
    await expect.poll(runs).toBeGreaterThan(first + 40);
    kill(started);
    isOver = true;
    expect(await working).toContain(200);
    const next = await startServer(request);
    try {
      await expectTotals(request, next.base);
    } finally {
      kill(next.process);
    }
  }
});

test('when PostgreSQL is restarted under a running server, saves are refused for a while, and then go on by themselves', async ({
  request,
  baseURL,
}) => {
  const cluster = process.env.OIKON_TEST_CLUSTER;
  expect(cluster, 'bin/test names its cluster').toBeTruthy();
  const base = baseURL!;
  let isOver = false;
  const seen: number[] = [];
  const working = busy(request, base, () => isOver, seen);
  const name = `Once ${Date.now()}`;
  const making = makingOnce(request, base, name, () => isOver);
  await expect.poll(() => seen.length).toBeGreaterThan(10);
  const command =
    '. bin/lib/setup.sh; as_database_user "$(postgres_programs)/pg_ctl" -D "$OIKON_TEST_CLUSTER" -m immediate -w restart';
  // Saves go on meanwhile.
  await once(spawn('bash', ['-c', command], { stdio: 'ignore' }), 'exit');
  await expect
    .poll(async () => request.get(`${base}/health`).then((answer) => answer.status()), { timeout: 300_000 })
    .toBe(200);
  const before = (await listed(request, base, 'artefact')).length;
  expect(before).toBeGreaterThan(0);
  isOver = true;
  const statuses = await working;
  expect(statuses.filter((status) => status !== 200 && status !== 503)).toEqual([]);
  // What was sent again with its key was saved once, whatever was answered.
  const made = await making;
  expect(made).toBeGreaterThan(0);
  const found = await request.get(
    `${base}${API}/records/artefact?search=${encodeURIComponent(name)}&limit=500`,
  );
  const { records } = (await found.json()) as { records: Stored[] };
  expect(new Set(records.map(({ values }) => values.title)).size).toBe(records.length);
  expect(records).toHaveLength(made);
  await expectTotals(request, base);
  isOver = false;
  const again = busy(request, base, () => isOver);
  await expect.poll(async () => (await request.get(`${base}${API}/runs?limit=1`)).status()).toBe(200);
  isOver = true;
  expect((await again).filter((status) => status !== 200)).toEqual([]);
});
