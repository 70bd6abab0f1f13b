import { cases } from '@/core/testing/cases';
import { ALL_RULES, galleries } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { driftIn } from '@/server/testing/drift';
import { ledgerFlaws } from '@/server/testing/ledger';
import { EXHIBITIONS, fewParents, numbersFrom, someEdits } from '@/server/testing/traffic';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { POST as changes } from './workspaces/[w]/changes/route';
import { POST as imports } from './workspaces/[w]/imports/[type]/route';
import { POST as listEdits } from './workspaces/[w]/list-edits/[type]/route';
import { POST as listEditRehearsals } from './workspaces/[w]/list-edit-rehearsals/[type]/route';
import { POST as modelChanges } from './workspaces/[w]/model-changes/route';
import { GET as getRecord } from './workspaces/[w]/records/[type]/[id]/route';
import { GET as listRecords } from './workspaces/[w]/records/[type]/route';
import { POST as rehearsals } from './workspaces/[w]/rehearsals/route';
import { GET as preview } from './workspaces/[w]/rules/[id]/preview/route';
import { POST as ruleState } from './workspaces/[w]/rules/[id]/state/route';
import { GET as listRules } from './workspaces/[w]/rules/route';
import { GET as listRuns } from './workspaces/[w]/runs/route';
import { GET as types } from './workspaces/[w]/types/route';

/** Milliseconds for which eight clients do anything at once. */
const LASTS = cases(6_000);

let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await testWorkspace({ model: galleries(), rows: fewParents(), rules: ALL_RULES });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

type Handle = (request: Request, context: { params: Promise<never> }) => Promise<Response>;
interface Asked {
  readonly json?: unknown;
  readonly lines?: string;
  readonly params?: object;
}

const seen = new Map<string, number>();

async function ask(name: string, handler: unknown, { json, lines, params }: Asked = {}) {
  const body = lines ?? (json === undefined ? undefined : JSON.stringify(json));
  const type = lines === undefined ? 'application/json' : 'application/x-ndjson';
  const request = new Request('http://127.0.0.1/api/v1/x', {
    method: body === undefined ? 'GET' : 'POST',
    headers: { 'oikon-person': TESTER.id, 'content-type': type },
    ...(body === undefined ? {} : { body }),
  });
  request.headers.set('host', '127.0.0.1');
  const context = { params: Promise.resolve({ w: workspace.key, ...params } as never) };
  const response = await (handler as Handle)(request, context);
  const answer = (await response.json()) as Record<string, unknown>;
  const key = `${name} ${response.status}`;
  seen.set(key, (seen.get(key) ?? 0) + 1);
  if (response.status === 500) throw new Error(`${name} → ${JSON.stringify(answer)}`);
  return { status: response.status, answer };
}

const loan = { type: 'loan' };
const exhibition = { type: 'exhibition', id: EXHIBITIONS[0]! };

/** What each client does, over and over. */
const CLIENTS: readonly ((number: (most: number) => number, round: number) => Promise<unknown>)[] = [
  ...[0, 1, 2].map(() => (number: (most: number) => number) => {
    const edits = someEdits(number).map((edit) =>
      edit.kind === 'edit' || edit.kind === 'delete' ? { version: '*', ...edit } : edit,
    );
    return ask('save', changes, { json: { edits } });
  }),
  async (_, round) => {
    await ask('rehearse a list edit', listEditRehearsals, {
      ...{ params: loan, json: { values: { stage: round % 2 ? 'agreed' : 'requested' } } },
    });
    const { answer } = await ask('list', listRecords, { params: loan });
    const count = (answer.count as { number: number } | undefined)?.number ?? 0;
    const expected = Math.max(1, count - (round % 3));
    await ask('edit a list', listEdits, { params: loan, json: { values: { stage: 'agreed' }, expected } });
  },
  async (_, round) => {
    await ask('import', imports, { params: loan, lines: `{"title": "Imported ${round}"}\n` });
    await ask('record', getRecord, { params: exhibition });
    await ask('runs', listRuns);
  },
  async (_, round) => {
    // The model changes beneath all others: a required field comes and goes.
    const { answer } = await ask('types', types);
    const has = JSON.stringify(answer.types).includes('"key":"shelf"');
    const field = { key: 'shelf', name: 'Shelf', type: { kind: 'text' }, required: true, default: 'A' };
    const change = has
      ? { kind: 'removeField', type: 'loan', key: 'shelf' }
      : { kind: 'addField', type: 'loan', field };
    await ask('change the model', modelChanges, {
      json: { changes: [change], version: answer.version, note: `Round ${round}` },
    });
  },
  async () => {
    const { answer } = await ask('rules', listRules);
    const rules = answer.rules as { id: string; state: string }[];
    const rule = rules.find(({ id }) => id === workspace.rules.at(-1))!;
    await ask('preview', preview, { params: { id: rule.id } });
    const state = rule.state === 'live' ? 'paused' : 'live';
    await ask(`a rule ${state}`, ruleState, { params: { id: rule.id }, json: { state } });
  },
  async (number) => {
    await ask('rehearse', rehearsals, { json: { edits: someEdits(number) } });
    await ask('record', getRecord, { params: exhibition });
  },
];

test('eight clients that do anything at once, with the model and the rules changing: nothing fails, nothing drifts', async () => {
  expect(CLIENTS).toHaveLength(8);
  const until = Date.now() + LASTS;
  await Promise.all(
    CLIENTS.map(async (client, at) => {
      const number = numbersFrom(at + 1);
      for (let round = 0; Date.now() < until; round += 1) await client(number, round);
    }),
  );
  const told = JSON.stringify(Object.fromEntries([...seen].sort()));
  // All of it got through at least now and then.
  for (const name of [
    'save 200',
    'rehearse a list edit 200',
    'import 201',
    'change the model 200',
    'a rule live 200',
  ])
    if (!seen.has(name)) throw new Error(`Never came: ${name}. ${told}`);
  expect(await driftIn(workspace)).toEqual([]);
  expect(await ledgerFlaws(workspace)).toEqual([]);
});
