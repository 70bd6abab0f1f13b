import { cases } from '@/core/testing/cases';
import { join } from 'node:path';
import fc from 'fast-check';
import '@/core/testing/seed';
import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { inspections } from '@/core/testing/inspections';
import { listWorkspaces, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { disconnect } from '@/server/database/connection';
import { driftIn } from '@/server/testing/drift';
import { ledgerFlaws } from '@/server/testing/ledger';
import { jsonOf, NASTY, scalarsWith, textsWith } from '@/server/testing/nasty';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { type Access, ACCESS, type Method } from '@/app/api/access';
import { wrongIn } from '@/server/testing/held-answers';

/** Calls of every route with anything in every part of it. */
const CALLS = cases(2_500);

const [museum, silk, loan, other] = [uuid('1'), uuid('11'), uuid('21'), uuid('22')];
const model = galleries();
let workspace: TestWorkspace;
let before: ReadonlySet<string>;
beforeAll(async () => {
  before = new Set((await listWorkspaces()).map(({ key }) => key));
  const rows = [
    rowOf(model, 'institution', museum, {}),
    rowOf(model, 'exhibition', silk, { venue: museum }),
    rowOf(model, 'loan', loan, { exhibition: silk, stage: 'agreed', insuredValue: gbp('7') }),
    rowOf(model, 'loan', other, { exhibition: silk, stage: 'agreed', insuredValue: gbp('1') }),
  ];
  workspace = await testWorkspace({ model, rows, rules: [ruleOf(INSURED_TOTAL, 1, 'Total')] });
});
afterAll(async () => {
  // Whatever workspaces the calls made.
  for (const { key } of await listWorkspaces())
    if (!before.has(key) && key !== workspace.key && !key.startsWith('test-')) await removeWorkspace(key);
  await workspace.remove();
  await disconnect();
});

type Handle = (request: Request, context: { params: Promise<never> }) => Promise<Response>;

const routes = Object.entries(ACCESS).flatMap(([path, methods]) =>
  Object.entries(methods as Partial<Record<Method, Access>>).map(([method, access]) => ({
    path,
    method: method as Method,
    access,
  })),
);

const handlers = new Map<string, Promise<Record<Method, Handle>>>();
const handlerOf = async (path: string, method: Method): Promise<Handle> => {
  const folder = path.replace(/\{(\w+)\}/g, '[$1]');
  let found = handlers.get(path);
  if (!found)
    handlers.set(
      path,
      (found = import(join(__dirname, '../..', folder, 'route')) as Promise<Record<Method, Handle>>),
    );
  return (await found)[method];
};

const anyText = textsWith([museum, silk, loan, other]);
const anyJson = jsonOf(anyText, scalarsWith(anyText));
const KEYS = [
  'values',
  'version',
  'edits',
  'definition',
  'name',
  'state',
  'decision',
  'decisions',
  'rules',
  'changes',
];
const MORE = [
  'bundle',
  'chosen',
  'pilot',
  'drafts',
  'expected',
  'note',
  'root',
  'runs',
  'rule',
  'words',
  'confirmation',
];
/** Something like what routes take. */
const anyBody = fc.oneof(
  anyJson,
  fc.dictionary(fc.constantFrom(...KEYS, ...MORE), anyJson, { maxKeys: 5 }),
  fc.record({
    edits: fc.array(fc.record({ kind: anyText, type: anyText, id: anyText, version: anyJson }), {
      maxLength: 2,
    }),
  }),
  fc.record({ definition: fc.constant(INSURED_TOTAL), name: anyText, note: anyText }),
  fc.record({ state: fc.constantFrom('live', 'paused', 'retired', 'x'), pilot: anyJson }),
  fc.record({ rules: fc.array(anyText, { maxLength: 3 }), reason: anyText }),
  fc.record({
    ...{ name: anyText, timeZone: fc.oneof(anyText, fc.constantFrom('Europe/Nowhere', '+05:00', 'UTC')) },
    copyOf: fc.oneof(anyText, fc.constant('test-none')),
  }),
  fc.record({
    ...{ format: fc.constant('oikon.bundle'), version: fc.constant(2), optionLists: fc.constant([]) },
    workspace: fc.record({
      name: anyText,
      timeZone: fc.constantFrom('UTC', 'Europe/Nowhere'),
      settledDay: fc.constantFrom('2026-99-99', '2026-01-01', '9999-12-31', ''),
    }),
    people: fc.array(
      fc.record({ id: anyText, name: anyText, email: fc.constant('a@b.invalid'), role: anyText }),
      {
        maxLength: 2,
      },
    ),
    ...{ types: fc.constant(inspections().types), selections: anyJson, rules: anyJson, lists: anyJson },
    ...{ families: anyJson, proofs: anyJson, requests: anyJson },
  }),
);

const anyCall = fc.record({
  route: fc.constantFrom(...routes),
  params: fc.record({
    type: fc.oneof(fc.constantFrom('loan', 'exhibition', 'institution'), anyText),
    ...{
      id: anyText,
      field: fc.constantFrom('insuredTotal', 'title', 'exhibition', '__proto__'),
      source: anyText,
    },
    run: fc.oneof(fc.constantFrom('1', '2', '3', '99999999999999999999'), anyText),
  }),
  workspace: fc.oneof({ weight: 9, arbitrary: fc.constant('own') }, { weight: 1, arbitrary: anyText }),
  query: fc.array(fc.tuple(fc.nat(5), anyText), { maxLength: 2 }),
  body: anyBody,
  text: fc.option(fc.oneof(anyText, fc.constant('{"title": "A"}\n{"title": ')), { nil: null, freq: 8 }),
  person: fc.oneof(
    { weight: 9, arbitrary: fc.constant(TESTER.id) },
    { weight: 1, arbitrary: fc.constantFrom('', 'x', loan) },
  ),
  key: fc.option(fc.constantFrom('"a"', '"b"', 'c', '"', '', '"\u00e9"', '"' + 'k'.repeat(300) + '"'), {
    nil: null,
  }),
  accept: fc.constantFrom('application/json', 'application/x-ndjson'),
});

async function call(given: typeof anyCall extends fc.Arbitrary<infer C> ? C : never): Promise<Response> {
  const { path, method, access } = given.route;
  const search = new URLSearchParams();
  for (const [at, text] of given.query) {
    const name = access.query?.[at % (access.query.length || 1)] ?? 'x';
    search.append(name.endsWith('.') ? `${name}title` : name, text);
  }
  const headers = new Headers({ host: '127.0.0.1', 'oikon-person': given.person, accept: given.accept });
  if (given.key !== null) headers.set('idempotency-key', given.key.replace(/[^\u0000-\u00ff]/g, ''));
  const hasBody = method !== 'GET';
  if (hasBody) headers.set('content-type', access.body?.types[0] ?? 'application/json');
  const request = new Request(`http://127.0.0.1/api/v1/any?${search.toString()}`, {
    method,
    headers,
    ...(hasBody ? { body: given.text ?? JSON.stringify(given.body) } : {}),
  });
  request.headers.set('host', '127.0.0.1');
  const w = given.workspace === 'own' ? workspace.key : given.workspace;
  const handle = await handlerOf(path, method);
  return handle(request, { params: Promise.resolve({ ...given.params, w } as never) });
}

test('whatever any route is asked has an answer that isn’t 500, and leaves nothing half-saved', async () => {
  const statuses = new Map<number, number>();
  const answered = new Set<string>();
  await fc.assert(
    fc.asyncProperty(anyCall, async (given) => {
      const response = await call(given);
      const { path, method } = given.route;
      const text = await response.text();
      statuses.set(response.status, (statuses.get(response.status) ?? 0) + 1);
      if (response.status < 300) answered.add(`${method} ${path}`);
      // The answer to long work by lines ends with its status.
      const isFailed =
        response.status === 500 || /"status":500[,}]/.test(text.trim().split('\n').at(-1) ?? '');
      if (isFailed) throw new Error(`${method} ${path} → ${text.slice(0, 300)}`);
      const isJson = response.headers.get('content-type') === 'application/json';
      if (response.status < 300 && isJson) expect(wrongIn(method, path, JSON.parse(text))).toBeNull();
      if (response.status >= 400)
        expect(response.headers.get('content-type')).toBe('application/problem+json');
    }),
    { numRuns: CALLS, endOnFailure: true },
  );
  expect(NASTY.length).toBeGreaterThan(10);
  expect(answered.size).toBeGreaterThan(15);
  expect(statuses.get(500)).toBeUndefined();
  expect(await driftIn(workspace)).toEqual([]);
  expect(await ledgerFlaws(workspace)).toEqual([]);
}, 3_600_000);
