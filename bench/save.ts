import { Agent, createServer, request as sendRequest } from 'node:http';
import type { AddressInfo } from 'node:net';
import { saveEdits } from '@/server/actions/records/save-edits';
import { sessionCookie } from '@/app/api/asking';
import { answer } from '@/app/api/endpoint';
import { POST } from '@/app/api/v1/workspaces/[w]/changes/route';
import { asSeen, readInput } from '@/server/forms/input';
import { beginSession } from '@/server/sign-in/sessions';
import { forgetSettings } from '@/server/settings';
import { type Client, Pool, type PoolClient } from 'pg';
import {
  COUNT,
  firstLoanOf,
  goLive,
  LARGE_AT,
  loanId,
  ONE_LARGE,
  SMALL,
  SUM,
  TESTER,
  workspaceOf,
} from './data';
import { compare, type Figure, timed } from './measure';

const KEY = 'bench-save';
const SCHEMA = 'w_bench_save';
/** The same data once more, for what is written by hand: neither side finds its records changed by the other. */
const BY_HAND = { key: 'bench-save-by-hand', schema: 'w_bench_save_by_hand' };

interface Edit {
  readonly loan: number;
  readonly amount: string;
}

let counter = 0;

/** Every fourth loan is agreed, so that the totals change; no amount comes twice, so that each edit is one. */
function editAt(exhibition: number, at: number): Edit {
  counter += 1;
  return {
    loan: firstLoanOf(exhibition) + ((at * 4) % SMALL),
    amount: `${1000 + counter}.${10 + (counter % 90)}`,
  };
}

const ours = async ({ loan, amount }: Edit): Promise<void> => {
  const values = { insuredValue: { amount, currency: 'GBP' } };
  await saveEdits({
    ...{ workspace: KEY, person: TESTER.id },
    edits: [{ kind: 'edit', type: 'loan', id: loanId(loan), values }],
  });
};

const ledgerIn = (
  schema: string,
): string => `WITH r AS (INSERT INTO ${schema}._run (kind, person) VALUES ('save', $1) RETURNING id)
  INSERT INTO ${schema}._ledger (run, type, record, event, changes, sources)
  SELECT r.id, x.type, x.record, 'changed', x.changes, x.sources
  FROM r, (VALUES ('loan', $2::uuid, $3::jsonb, '{}'::jsonb), ('exhibition', $4::uuid, $5::jsonb, $6::jsonb)) AS x(type, record, changes, sources)`;

const gbp = (amount: string) => ({ amount, currency: 'GBP' });
const sourceOf = (loan: string) => ({
  ...{ wave: 1, ruleVersion: TESTER.id },
  causes: [{ type: 'loan', id: loan, field: 'insuredValue' }],
});

/** The same by hand: eight round trips, as a service would write it. */
async function byHand(
  client: Client | PoolClient,
  { loan, amount }: Edit,
  schema = BY_HAND.schema,
): Promise<void> {
  const id = loanId(loan);
  await client.query('BEGIN');
  const child = await client.query<{ exhibition: string; insured_value: string }>(
    `SELECT exhibition, insured_value FROM ${schema}.loan WHERE id = $1 FOR NO KEY UPDATE`,
    [id],
  );
  const { exhibition, insured_value: before } = child.rows[0]!;
  const parent = await client.query<{ insured_total: string; loan_count: string }>(
    `SELECT insured_total, loan_count FROM ${schema}.exhibition WHERE id = $1 FOR NO KEY UPDATE`,
    [exhibition],
  );
  await client.query(`UPDATE ${schema}.loan SET insured_value = $2, version = version + 1 WHERE id = $1`, [
    id,
    amount,
  ]);
  const totals = await client.query<{ sum: string; count: string }>(
    `SELECT COALESCE(sum(insured_value) FILTER (WHERE stage = 'agreed'), 0) AS sum, count(*) FILTER (WHERE stage = 'agreed') AS count
      FROM ${schema}.loan WHERE exhibition = $1 AND deleted_run IS NULL`,
    [exhibition],
  );
  const { sum, count } = totals.rows[0]!;
  await client.query(`UPDATE ${schema}.exhibition SET insured_total = $2, loan_count = $3 WHERE id = $1`, [
    exhibition,
    sum,
    count,
  ]);
  const was = parent.rows[0]!;
  await client.query(ledgerIn(schema), [
    TESTER.id,
    id,
    JSON.stringify({ insuredValue: [gbp(before), gbp(amount)] }),
    exhibition,
    JSON.stringify({ insuredTotal: [gbp(was.insured_total), gbp(sum)] }),
    JSON.stringify({ insuredTotal: sourceOf(id) }),
  ]);
  await client.query('COMMIT');
}

/** The same by a trigger, with the same ledger; who saves it can't know. */
const TRIGGER = `
  CREATE OR REPLACE FUNCTION ${BY_HAND.schema}.by_trigger() RETURNS trigger LANGUAGE plpgsql AS $$
  DECLARE was record; now record; number bigint;
  BEGIN
    SELECT insured_total, loan_count INTO was FROM ${BY_HAND.schema}.exhibition WHERE id = NEW.exhibition FOR NO KEY UPDATE;
    SELECT COALESCE(sum(insured_value) FILTER (WHERE stage = 'agreed'), 0) AS s, count(*) FILTER (WHERE stage = 'agreed') AS c
      INTO now FROM ${BY_HAND.schema}.loan WHERE exhibition = NEW.exhibition AND deleted_run IS NULL;
    UPDATE ${BY_HAND.schema}.exhibition SET insured_total = now.s, loan_count = now.c WHERE id = NEW.exhibition;
    INSERT INTO ${BY_HAND.schema}._run (kind) VALUES ('save') RETURNING id INTO number;
    INSERT INTO ${BY_HAND.schema}._ledger (run, type, record, event, changes, sources) VALUES
      (number, 'loan', NEW.id, 'changed', jsonb_build_object('insuredValue', jsonb_build_array(
        jsonb_build_object('amount', OLD.insured_value::text, 'currency', 'GBP'), jsonb_build_object('amount', NEW.insured_value::text, 'currency', 'GBP'))), '{}'),
      (number, 'exhibition', NEW.exhibition, 'changed', jsonb_build_object('insuredTotal', jsonb_build_array(
        jsonb_build_object('amount', was.insured_total::text, 'currency', 'GBP'), jsonb_build_object('amount', now.s::text, 'currency', 'GBP'))),
        jsonb_build_object('insuredTotal', jsonb_build_object('wave', 1, 'ruleVersion', '${TESTER.id}', 'causes',
          jsonb_build_array(jsonb_build_object('type', 'loan', 'id', NEW.id, 'field', 'insuredValue')))));
    RETURN NULL;
  END $$`;

/** So many saves one after the other on each of so many connections, each connection under exhibitions of its own. */
async function many(
  connections: number,
  each: number,
  round: number,
  save: (at: number, edit: Edit) => Promise<void>,
): Promise<number> {
  const share = Math.floor(LARGE_AT / connections);
  return timed(() =>
    Promise.all(
      Array.from({ length: connections }, async (_, connection) => {
        for (let at = 0; at < each; at += 1)
          await save(connection, editAt(connection * share + (at % share), round * each + at));
      }),
    ),
  );
}

const CHANGES = '/api/v1/workspaces/{w}/changes';
const versions = new Map<number, number>();

/** The body of the request that saves an edit. */
function bodyOf({ loan, amount }: Edit): string {
  const version = (versions.get(loan) ?? 0) + 1;
  versions.set(loan, version);
  const values = { insuredValue: gbp(amount) };
  return JSON.stringify({ edits: [{ kind: 'edit', type: 'loan', id: loanId(loan), version, values }] });
}

/** A server on loopback that answers each request by the function of its first segment. */
async function serving(by: Readonly<Record<string, (request: Request) => Promise<Response>>>) {
  const server = createServer((request, response) => {
    void (async () => {
      const chunks: Buffer[] = [];
      for await (const chunk of request) chunks.push(chunk as Buffer);
      const { method = '', url = '', headers } = request;
      const [, which = '', ...path] = url.split('/');
      const asked = new Request(`http://${headers.host}/${path.join('/')}`, {
        ...{ method, headers: headers as Record<string, string>, body: Buffer.concat(chunks) },
      });
      const answered = await by[which]!(asked);
      response.writeHead(answered.status, Object.fromEntries(answered.headers));
      response.end(await answered.text());
    })();
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  const agent = new Agent({ keepAlive: true, maxSockets: 1 });
  const ask = (which: string, headers: Record<string, string>, body: string): Promise<void> =>
    new Promise((done, failed) => {
      const options = {
        port,
        agent,
        method: 'POST',
        path: `/${which}${CHANGES.replace('{w}', KEY)}`,
        headers,
      };
      const asking = sendRequest(options, (response) => {
        let text = '';
        response.on('data', (chunk: Buffer) => (text += chunk.toString()));
        response.on('end', () => (response.statusCode === 200 ? done() : failed(new Error(text))));
      });
      asking.on('error', failed);
      asking.end(body);
    });
  return { ask, close: () => (agent.destroy(), server.close()) };
}

/**
 * What it costs that somebody is signed in: who they are, what they may and see, and how often they ask. Both sides are requests on one connection of a
 * server that does nothing else; the other route asks nobody, and leaves out what heeds what somebody sees.
 */
async function bySomebody(client: PoolClient): Promise<Figure> {
  // Signed in one is where it isn't a demo.
  const { OIKON_DEMO } = process.env;
  const as = { OIKON_DEMO: '', OIKON_ORIGIN: 'http://localhost:4410', OIKON_RATE_PERSON: '999999' };
  Object.assign(process.env, as);
  forgetSettings();
  const by = { address: '192.0.2.1', agent: 'Bench' };
  const secret = await beginSession(TESTER.id, by, { way: 'password', factors: 2 });
  const rows = await client.query<{ id: string; version: number }>(`SELECT id, version FROM ${SCHEMA}.loan`);
  const versionOf = new Map(rows.rows.map(({ id, version }) => [id, version]));
  for (let loan = 0; loan < firstLoanOf(LARGE_AT); loan += 1)
    versions.set(loan, (versionOf.get(loanId(loan)) ?? 1) - 1);
  const nobody = () =>
    Promise.resolve({
      ...{ person: TESTER.id, signedIn: null, client: by, sight: null, tells: {}, proof: null },
    });
  const handler: Parameters<typeof answer<{ w: string }>>[2]['handler'] = async ({
    params,
    person,
    json,
  }) => {
    const { edits, note } = readInput('changes', await json());
    const save = { workspace: params.w, person, edits: edits.map(asSeen), ...(note ? { note } : {}) };
    return { body: await saveEdits(save) };
  };
  const called = { path: CHANGES, method: 'POST', handler } as const;
  const context = () => ({ params: Promise.resolve({ w: KEY }) });
  const { ask, close } = await serving({
    somebody: (request) => POST(request, context()),
    nobody: (request) => answer(request, context(), called, nobody),
  });
  const headers = {
    ...{ host: 'localhost:4410', 'content-type': 'application/json' },
    ...{ cookie: `${sessionCookie()}=${secret}`, 'oikon-person': TESTER.id },
  };
  const asked = (which: string) => async (round: number) =>
    (await many(1, 60, round, (_, edit) => ask(which, headers, bodyOf(edit)))) / 60;
  const figure = await compare({
    work: 'the same as a request over HTTP of somebody who is signed in, with who they are, what they may and what they see',
    ...{ must: 1.05, goal: 1.02, rounds: 121, warmUp: 8, ours: asked('somebody'), theirs: asked('nobody') },
  });
  close();
  Object.assign(process.env, { OIKON_DEMO });
  forgetSettings();
  return figure;
}

export async function benchSave(url: string): Promise<Figure[]> {
  for (const key of [KEY, BY_HAND.key]) {
    const { by, rules } = await workspaceOf({ ...{ key, ...ONE_LARGE }, rules: [SUM, COUNT] });
    await goLive(by, rules);
  }
  const pool = new Pool({ connectionString: url, max: 8 });
  const clients = await Promise.all(Array.from({ length: 8 }, () => pool.connect()));
  for (const schema of [SCHEMA, BY_HAND.schema])
    await clients[0]!.query(`VACUUM ANALYZE ${schema}.loan, ${schema}.exhibition`);
  // A server that has been up for a while has its code compiled: both sides start like that.
  for (let at = 0; at < 4_000; at += 1) {
    await ours(editAt(at % LARGE_AT, at));
    await byHand(clients[0]!, editAt(at % LARGE_AT, at));
  }
  const figures: Figure[] = [];
  for (const [connections, each] of [
    [1, 60],
    [8, 20],
  ] as const) {
    figures.push(
      await compare({
        work: `one saved edit with a sum and a count on its parent of 100 children, ${connections} ${connections === 1 ? 'connection' : 'connections'}`,
        ...{ must: 0.7, goal: 0.5, rounds: 41, warmUp: 2 },
        ours: async (round) => (await many(connections, each, round, (_, edit) => ours(edit))) / each,
        theirs: async (round) =>
          (await many(connections, each, round, (at, edit) => byHand(clients[at]!, edit))) / each,
      }),
    );
  }
  figures.push(
    await compare({
      work: 'the same where its records were changed meanwhile by another program: what was seen of them no longer holds',
      ...{ must: null, goal: null, rounds: 41, warmUp: 2 },
      ours: async (round) => (await many(1, 60, round, (_, edit) => ours(edit))) / 60,
      theirs: async (round) =>
        (await many(1, 60, round, (_, edit) => byHand(clients[0]!, edit, SCHEMA))) / 60,
    }),
  );
  figures.push(await bySomebody(clients[0]!));
  await clients[0]!.query(TRIGGER);
  const update = `UPDATE ${BY_HAND.schema}.loan SET insured_value = $2, version = version + 1 WHERE id = $1`;
  const triggered = async ({ loan, amount }: Edit) =>
    void (await clients[0]!.query(update, [loanId(loan), amount]));
  const trigger = `CREATE TRIGGER by_trigger AFTER UPDATE ON ${BY_HAND.schema}.loan FOR EACH ROW EXECUTE FUNCTION ${BY_HAND.schema}.by_trigger()`;
  figures.push(
    await compare({
      work: 'the same against a hand-written PL/pgSQL trigger in the database',
      ...{ must: 1.5, goal: 1, rounds: 21, warmUp: 1 },
      ours: async (round) => (await many(1, 100, round, (_, edit) => ours(edit))) / 100,
      theirs: async (round) => {
        await clients[0]!.query(trigger);
        const time = await many(1, 100, round, (_, edit) => triggered(edit));
        await clients[0]!.query(`DROP TRIGGER by_trigger ON ${BY_HAND.schema}.loan`);
        return time / 100;
      },
    }),
  );
  const under = async (exhibition: number) => {
    return (
      (await timed(async () => {
        for (let at = 0; at < 100; at += 1) await ours(editAt(exhibition, at));
      })) / 100
    );
  };
  figures.push(
    await compare({
      work: 'one saved edit under a parent of 10,000 children, against one under a parent of 100',
      ...{ must: 1.5, goal: 1.1, rounds: 9 },
      ours: () => under(LARGE_AT),
      theirs: async (round) => (await many(1, 100, round, (_, edit) => ours(edit))) / 100,
    }),
  );
  clients.forEach((client) => client.release());
  await pool.end();
  return figures;
}
