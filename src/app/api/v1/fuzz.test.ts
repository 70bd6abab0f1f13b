import { cases } from '@/core/testing/cases';
import fc from 'fast-check';
import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { keptIn, keptPlainly } from '@/core/testing/compare';
import { disconnect } from '@/server/database/connection';
import { ledgerFlaws } from '@/server/testing/ledger';
import { jsonOf, scalarsWith, textsWith } from '@/server/testing/nasty';
import { type TestWorkspace, TESTER, testWorkspace } from '@/server/testing/workspace';
import { POST as changes } from './workspaces/[w]/changes/route';
import { POST as modelChanges } from './workspaces/[w]/model-changes/route';
import { POST as modelRehearsals } from './workspaces/[w]/model-rehearsals/route';
import { POST as compare } from './workspaces/[w]/bundle-comparisons/route';
import { POST as importRehearsals } from './workspaces/[w]/import-rehearsals/[type]/route';
import { POST as imports } from './workspaces/[w]/imports/[type]/route';
import { GET as explanation } from './workspaces/[w]/records/[type]/[id]/explanations/[field]/route';
import {
  DELETE as deleteRecord,
  GET as getRecord,
  PATCH as patchRecord,
} from './workspaces/[w]/records/[type]/[id]/route';
import { GET as listRecords, POST as postRecord } from './workspaces/[w]/records/[type]/route';
import { POST as rehearsals } from './workspaces/[w]/rehearsals/route';
import { PATCH as patchRule } from './workspaces/[w]/rules/[id]/route';
import { POST as ruleState } from './workspaces/[w]/rules/[id]/state/route';
import { POST as postRule } from './workspaces/[w]/rules/route';
import { GET as getRun } from './workspaces/[w]/runs/[run]/route';
import { GET as undoOfRun } from './workspaces/[w]/runs/[run]/undo/route';
import { GET as listRuns } from './workspaces/[w]/runs/route';
import { GET as exportList } from './workspaces/[w]/records/[type]/export/route';
import { POST as postList } from './workspaces/[w]/lists/route';
import { POST as postProof } from './workspaces/[w]/proofs/route';
import { POST as postRequest } from './workspaces/[w]/requests/route';
import { GET as getFamily } from './workspaces/[w]/sample-families/[id]/route';
import { POST as postFamily } from './workspaces/[w]/sample-families/route';
import { GET as search } from './workspaces/[w]/search/route';

const model = galleries();
const [museum, silk, loan, other] = [uuid('1'), uuid('11'), uuid('21'), uuid('22')];
let workspace: TestWorkspace;

beforeAll(async () => {
  const rows = [
    rowOf(model, 'institution', museum, {}),
    rowOf(model, 'exhibition', silk, { venue: museum }),
    rowOf(model, 'loan', loan, {
      exhibition: silk,
      lender: museum,
      stage: 'agreed',
      insuredValue: gbp('12250'),
    }),
    rowOf(model, 'loan', other, { exhibition: silk, stage: 'agreed', insuredValue: gbp('1') }),
  ];
  workspace = await testWorkspace({ model, rows, rules: [ruleOf(INSURED_TOTAL, 1, 'Total')] });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

const anyText = textsWith([museum, silk, loan, other]);
const anyScalar = scalarsWith(anyText);
const anyJson = jsonOf(anyText, anyScalar);
const anyField = fc.constantFrom(
  'title',
  'exhibition',
  'lender',
  'stage',
  'insuredValue',
  'dueBack',
  'weight',
  'open',
  'insuredTotal',
  '__proto__',
);
const anyValues = fc.dictionary(anyField, fc.oneof(anyScalar, anyJson), { maxKeys: 4 });
const anyType = fc.constantFrom(
  'loan',
  'exhibition',
  'institution',
  'artefact',
  'crate',
  '__proto__',
  'constructor',
);
const anyId = fc.oneof(fc.constantFrom(museum, silk, loan, other, uuid('99')), anyText);
const anyKind = fc.constantFrom('create', 'edit', 'delete', 'restore', 'drop');
const anyVersion = fc.constantFrom('*', undefined, 1, 2, 0, -1, 1.5, '1', 2 ** 40);
const anyEdit = fc.record(
  { kind: anyKind, type: anyType, id: anyId, version: anyVersion, values: anyValues },
  { requiredKeys: ['kind', 'type'] },
);
const { node: anyExpression } = fc.letrec((tie) => ({
  node: fc.oneof(
    { depthSize: 'small' },
    fc.record({ kind: fc.constant('constant'), value: anyScalar }),
    fc.record({ kind: fc.constant('field'), route: fc.array(anyField, { maxLength: 2 }), field: anyField }),
    fc.record({
      kind: fc.constant('compare'),
      operator: fc.constantFrom('=', '!=', '<', '>=', '~'),
      left: tie('node'),
      right: tie('node'),
    }),
    fc.record({
      kind: fc.constant('presence'),
      operator: fc.constantFrom('isEmpty', 'isNotEmpty'),
      operand: tie('node'),
    }),
    fc.record({
      kind: fc.constant('among'),
      operator: fc.constant('isAmong'),
      operand: tie('node'),
      options: fc.array(anyScalar, { maxLength: 3 }),
    }),
    fc.record({
      kind: fc.constant('match'),
      operator: fc.constantFrom('contains', 'startsWith'),
      operand: tie('node'),
      part: tie('node'),
    }),
    fc.record({
      kind: fc.constant('group'),
      operator: fc.constantFrom('all', 'any', 'none'),
      of: fc.array(tie('node'), { maxLength: 3 }),
    }),
    fc.record({
      kind: fc.constant('day'),
      from: fc.constantFrom('today', 'weekStart', 'financialYearStart', 'yearStart', 'noon'),
      plus: fc.constantFrom(0, -1, 6, -4_000, 1e9, 0.5),
      unit: fc.constantFrom('day', 'week', 'month', 'year'),
    }),
    fc.record({
      kind: fc.constant('selection'),
      operator: fc.constantFrom('isIn', 'isNotIn'),
      route: fc.array(anyField, { maxLength: 1 }),
      selection: fc.constantFrom('due', 'gone', '__proto__'),
    }),
  ),
}));
const anyDefinition = fc.record(
  {
    ...{
      kind: fc.constant('rollUp'),
      type: anyType,
      target: fc.oneof(anyField, fc.constantFrom('averageInsured', 'lastDue', 'grade')),
    },
    aggregate: fc.constantFrom('count', 'sum', 'average', 'minimum', 'maximum', 'median'),
    route: fc.constant([{ direction: 'down', type: 'loan', link: 'exhibition' }]),
    value: fc.option(fc.record({ kind: fc.constant('field'), route: fc.constant([]), field: anyField })),
    condition: fc.option(anyExpression as fc.Arbitrary<unknown>),
    whenNone: anyScalar,
    rounding: fc.constantFrom(null, { mode: 'up', places: 2 }, { mode: 'sideways', places: -1 }),
    pace: fc.constant('withTheSave'),
  },
  { noNullPrototype: true },
);

interface Asked {
  readonly name: string;
  readonly handler: unknown;
  readonly params?: Record<string, string>;
  readonly query?: Record<string, string>;
  readonly body?: unknown;
  readonly text?: string;
  readonly type?: string;
}

const withBody = (
  name: string,
  handler: unknown,
  body: fc.Arbitrary<unknown>,
  params: Record<string, string> = {},
) => body.map((sent): Asked => ({ name, handler, params, body: sent }));
const onRecord = (name: string, handler: unknown, query: fc.Arbitrary<Record<string, string>>) =>
  fc
    .tuple(anyType, anyId, anyField, query)
    .map(([type, id, field, asked]): Asked => ({ name, handler, params: { type, id, field }, query: asked }));
const anyQuery = fc.dictionary(
  fc.constantFrom(
    'search',
    'sort',
    'limit',
    'after',
    'condition',
    'bin',
    'filter.stage',
    'filter.exhibition',
    'from',
    'before',
    'version',
  ),
  fc.oneof(
    anyText,
    fc.constantFrom('-title', 'insuredValue', '3', 'true'),
    (anyExpression as fc.Arbitrary<unknown>).map((one) => JSON.stringify(one)),
  ),
  { maxKeys: 4 },
);

const anyValueType = fc.oneof(
  fc.record(
    {
      kind: fc.constantFrom(
        'text',
        'longText',
        'number',
        'money',
        'rating',
        'yesNo',
        'date',
        'choice',
        'choices',
        'link',
        'serial',
      ),
      prefix: anyText,
      digits: fc.constantFrom(0, 4, 13),
      scale: fc.constantFrom(-1, 0, 2, 20, 21),
      currency: fc.constantFrom('GBP', 'EUR', 'XXX', ''),
      lowest: fc.constantFrom(0, 1, 9),
      highest: fc.constantFrom(1, 5),
      target: anyType,
      options: fc.array(fc.record({ key: anyField, name: anyText }), { maxLength: 3 }),
    },
    { requiredKeys: ['kind'] },
  ),
  anyJson,
);
const anyModelField = fc.record(
  {
    ...{ key: fc.oneof(anyField, anyText), name: anyText, type: anyValueType, required: fc.boolean() },
    ...{ unique: fc.boolean(), default: anyScalar, help: anyText, otherEnd: anyText },
  },
  { requiredKeys: ['key', 'name', 'type'] },
);
const anyOpenLink = fc.record(
  { key: anyText, name: anyText, links: fc.array(anyField, { maxLength: 3 }), required: fc.boolean() },
  { requiredKeys: ['key', 'name', 'links'] },
);
const anyModelChange = fc.oneof(
  fc.record({ kind: fc.constant('addField'), type: anyType, field: anyModelField }),
  fc.record(
    {
      ...{ kind: fc.constant('changeField'), type: anyType, to: anyModelField, whereEmpty: anyScalar },
      replaced: fc.dictionary(anyText, fc.option(anyText)),
    },
    { requiredKeys: ['kind', 'type', 'to'] },
  ),
  fc.record({ kind: fc.constant('removeField'), type: anyType, key: anyField }),
  fc.record({ kind: fc.constant('moveField'), type: anyType, key: anyField, to: fc.nat(9) }),
  fc.record({ kind: fc.constant('addOpenLink'), type: anyType, openLink: anyOpenLink }),
  fc.record({ kind: fc.constant('changeOpenLink'), type: anyType, to: anyOpenLink }),
  fc.record({ kind: fc.constant('removeOpenLink'), type: anyType, key: anyField }),
  fc.record({ kind: fc.constant('removeType'), key: anyType }),
  fc.record({
    kind: fc.constant('addType'),
    type: fc.record({
      ...{ key: anyText, name: anyText, plural: anyText, title: anyField, bridge: fc.boolean() },
      fields: fc.array(anyModelField, { maxLength: 3 }),
    }),
  }),
  anyJson,
);
const anyModelChanges = fc.array(anyModelChange, { maxLength: 3 });

const anyColumn = fc.record(
  {
    column: fc.constantFrom('Title', 'Exhibition', 'Value', 'Day', ''),
    field: fc.oneof(
      anyField,
      fc.constantFrom('title', 'exhibition', 'insuredValue', 'dueBack', 'id', 'partOf'),
    ),
    foundBy: fc.constantFrom('title', 'id', 'open', 'nothing'),
    clears: fc.boolean(),
  },
  { requiredKeys: ['column', 'field'] },
);
const anyPlan = fc.record(
  {
    format: fc.constantFrom('csv', 'jsonLines', 'xml'),
    encoding: fc.constantFrom('utf-8', 'utf-16le', 'windows-1252'),
    separator: fc.constantFrom(',', ';', '\t'),
    columns: fc.array(anyColumn, { maxLength: 4 }),
    key: fc.uniqueArray(fc.constantFrom('title', 'id', 'exhibition', 'dueBack'), { maxLength: 2 }),
    refused: fc.constantFrom('stop', 'leaveOut'),
  },
  { requiredKeys: ['format', 'columns'] },
);
const anyCell = fc.oneof(anyText, fc.constantFrom('Rivers of Silk', '12.50', '1,250.50', '2026-02-30', 'x'));
const anyFile = fc
  .tuple(anyPlan, fc.array(fc.array(anyCell, { minLength: 3, maxLength: 5 }), { maxLength: 5 }), anyType)
  .map(([plan, cells, type]) => ({
    params: { type },
    type: 'application/octet-stream',
    text: `${JSON.stringify(plan)}\nTitle,Exhibition,Value,Day\n${cells.map((row) => row.join(',')).join('\n')}`,
  }));
const anyList = fc.record({
  name: anyText,
  definition: fc.oneof(
    fc.record({
      kind: fc.constant('list'),
      type: anyType,
      columns: fc.array(anyField, { maxLength: 2 }),
      sort: fc.option(anyField),
      condition: fc.option(anyExpression as fc.Arbitrary<unknown>),
    }),
    fc.record({ kind: fc.constant('joined'), selections: fc.array(anyField, { maxLength: 2 }) }),
  ),
});
const anyFamily = fc.oneof(
  fc.record({
    name: anyText,
    root: fc.record({ type: anyType, id: anyId }),
    links: fc.array(anyText, { maxLength: 2 }),
  }),
  fc.record({ name: anyText, type: anyType, field: anyField }),
  fc.record({ name: anyText, data: anyJson }),
);

const anyWire = fc.constantFrom<unknown>(null, '', '7', true, { amount: '1', currency: 'GBP' }, ['x'], {});
const anyExpectation = fc.oneof(
  fc.record({
    ...{ kind: fc.constantFrom('becomes', 'stays'), type: anyType, id: anyId, field: anyField },
    value: anyWire,
  }),
  fc.record({
    ...{ kind: fc.constantFrom('isMade', 'isNotMade', 'isProposed'), rule: anyId, source: anyId },
    values: fc.dictionary(anyField, anyWire, { maxKeys: 2 }),
  }),
  fc.record({ kind: fc.constant('isRefused'), run: fc.integer({ min: -1, max: 3 }), code: anyText }),
);
const anyProof = fc.record({
  ...{ name: anyText, day: fc.constantFrom('2027-03-01', '2027-02-30', '9999-12-31') },
  family: fc.record({
    root: fc.record({ type: anyType, id: anyId }),
    members: fc.array(anyId, { minLength: 1, maxLength: 2 }),
    records: fc.array(
      fc.record({
        ...{ type: anyType, id: anyId, version: fc.constant(1), deleted: fc.boolean() },
        ...{ values: fc.dictionary(anyField, anyWire, { maxKeys: 3 }), errors: fc.constant({}) },
      }),
      { maxLength: 3 },
    ),
    complete: fc.array(fc.record({ type: anyType, link: anyField, parent: anyId }), { maxLength: 2 }),
    names: fc.constant({}),
  }),
  runs: fc.array(fc.array(anyJson, { maxLength: 2 }), { maxLength: 2 }),
  expectations: fc.array(anyExpectation, { minLength: 1, maxLength: 3 }),
});

const anyRequest: fc.Arbitrary<Asked> = fc.oneof(
  withBody(
    'keep a proof',
    postProof,
    anyProof.map((proof) => ({ ...proof, rule: workspace.rules[0] })),
  ),
  withBody(
    'write a request down',
    postRequest,
    fc.record(
      {
        ...{ name: fc.oneof(fc.string(), fc.constant('Totals')), askedBy: fc.string(), words: fc.string() },
        due: fc.constantFrom(null, '2027-02-30', '2027-02-28', 'soon'),
        points: fc.array(fc.record({ text: fc.string(), proofs: fc.array(anyId, { maxLength: 2 }) }), {
          maxLength: 2,
        }),
        rules: fc.array(
          fc.oneof(
            anyId,
            fc.constant(0).map(() => workspace.rules[0]!),
          ),
          { maxLength: 2 },
        ),
      },
      { requiredKeys: ['name'] },
    ),
  ),
  anyFile.map((file): Asked => ({ name: 'rehearse a file', handler: importRehearsals, ...file })),
  anyFile.map((file): Asked => ({ name: 'import a file', handler: imports, ...file })),
  withBody('keep a list', postList, anyList),
  withBody('keep a family', postFamily, anyFamily),
  anyId.map((id): Asked => ({ name: 'a family', handler: getFamily, params: { id } })),
  withBody(
    'compare',
    compare,
    fc.oneof(
      anyJson,
      fc.record({
        format: fc.constant('oikon.bundle'),
        version: fc.constantFrom(0, 1, 2),
        types: fc.array(anyModelChange, { maxLength: 2 }),
      }),
    ),
  ),
  withBody('rehearse the model', modelRehearsals, fc.record({ changes: anyModelChanges })),
  // With a version that nobody saw: everything is gone through, and nothing changed beneath the other requests.
  withBody(
    'change the model',
    modelChanges,
    fc.record({ changes: anyModelChanges, version: fc.constantFrom('0', 'x') }),
  ),
  anyText.map((text): Asked => ({ name: 'search', handler: search, query: { text } })),
  fc
    .tuple(anyType, anyQuery, fc.constantFrom('csv', 'jsonl', 'xlsx'), anyField)
    .map(([type, query, format, fields]): Asked => ({
      ...{ name: 'export', handler: exportList, params: { type } },
      query: { ...query, format, fields },
    })),
  fc
    .oneof(anyText, fc.constantFrom('1', '2', '3', '4'))
    .map((run): Asked => ({ name: 'undo', handler: undoOfRun, params: { run } })),
  withBody(
    'changes',
    changes,
    fc.oneof(
      fc.record({ edits: fc.array(anyEdit, { maxLength: 4 }), note: anyText }, { requiredKeys: ['edits'] }),
      anyJson,
    ),
  ),
  withBody('post record', postRecord, fc.record({ values: anyValues }), { type: 'loan' }),
  withBody('patch record', patchRecord, fc.record({ values: anyValues, version: anyVersion }), {
    type: 'loan',
    id: loan,
  }),
  withBody(
    'rehearse',
    rehearsals,
    fc.record({
      edits: fc.array(anyEdit, { maxLength: 3 }),
      drafts: fc.array(fc.record({ definition: anyDefinition }), { maxLength: 2 }),
    }),
  ),
  withBody('post rule', postRule, fc.record({ definition: anyDefinition, name: anyText, note: anyText })),
  fc
    .tuple(anyId, anyJson)
    .map(([id, body]): Asked => ({ name: 'patch rule', handler: patchRule, params: { id }, body })),
  fc.tuple(anyId, anyScalar).map(([id, state]): Asked => ({
    name: 'rule state',
    handler: ruleState,
    params: { id },
    body: { state },
  })),
  fc
    .tuple(anyType, anyQuery)
    .map(([type, query]): Asked => ({ name: 'list', handler: listRecords, params: { type }, query })),
  onRecord('record', getRecord, anyQuery),
  onRecord('delete', deleteRecord, anyQuery),
  onRecord('explanation', explanation, anyQuery),
  anyQuery.map((query): Asked => ({ name: 'runs', handler: listRuns, query })),
  anyText.map((run): Asked => ({ name: 'run', handler: getRun, params: { run } })),
  fc
    .tuple(
      anyType,
      fc.array(
        fc.oneof(
          anyValues.map((one) => JSON.stringify(one)),
          anyText,
        ),
        { maxLength: 3 },
      ),
    )
    .map(([type, lines]): Asked => ({
      name: 'import',
      handler: imports,
      params: { type },
      text: lines.join('\n'),
      type: 'application/x-ndjson',
    })),
  anyText.map((text): Asked => ({ name: 'broken JSON', handler: changes, text })),
);

async function ask({
  handler,
  params = {},
  query = {},
  body,
  text,
  type = 'application/json',
}: Asked): Promise<Response> {
  const sent = text ?? (body === undefined ? undefined : JSON.stringify(body));
  const search = new URLSearchParams(query).toString();
  const request = new Request(`http://127.0.0.1:4410/api?${search}`, {
    method: sent === undefined ? 'GET' : 'POST',
    headers: { host: '127.0.0.1:4410', 'content-type': type, 'oikon-person': TESTER.id },
    ...(sent === undefined ? {} : { body: sent }),
  });
  const handle = handler as (request: Request, context: object) => Promise<Response>;
  return handle(request, { params: Promise.resolve({ w: workspace.key, ...params }) });
}

test('whatever is asked has an answer that isn’t 500, and leaves nothing half-saved', async () => {
  const statuses = new Map<number, number>();
  await fc.assert(
    fc.asyncProperty(anyRequest, async (asked) => {
      const response = await ask(asked);
      statuses.set(response.status, (statuses.get(response.status) ?? 0) + 1);
      const text = await response.text();
      const isJson = response.headers.get('content-type')?.startsWith('application/json');
      const answer: unknown = isJson ? JSON.parse(text) : text;
      expect({ status: response.status, name: asked.name, answer }).not.toMatchObject({ status: 500 });
    }),
    { numRuns: cases(1_500) },
  );
  // What is asked is neither all nonsense nor all sound.
  expect([200, 201].reduce((sum, status) => sum + (statuses.get(status) ?? 0), 0)).toBeGreaterThan(50);
  expect(statuses.get(422) ?? 0).toBeGreaterThan(50);
  const { model: loaded, plan } = await workspace.load();
  const rows = await workspace.rows();
  expect(keptIn(plan, rows)).toEqual(keptPlainly(loaded, plan, rows));
  expect(await ledgerFlaws(workspace)).toEqual([]);
}, 1_800_000);

test('a body of 20 MB and 100,000 edits are refused by a stated limit', async () => {
  const edits = Array.from({ length: 100_000 }, () => ({ kind: 'delete', type: 'loan', id: loan }));
  const many = await ask({ name: 'many', handler: changes, body: { edits } });
  expect([413, 400]).toContain(many.status);
  expect(((await many.json()) as { detail: string }).detail).toMatch(
    /larger than 4 MB|at most|5000|less than or equal/,
  );
  const large = await ask({
    name: 'large',
    handler: changes,
    text: JSON.stringify({ edits: [], note: 'x'.repeat(20_000_000) }),
  });
  expect(large.status).toBe(413);
});
