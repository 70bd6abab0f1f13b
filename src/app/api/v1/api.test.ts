import { ROLES } from '@/core/api';
import {
  AVERAGE_INSURED,
  galleries,
  gbp,
  INSURED_TOTAL,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { type TestWorkspace, TESTER, testWorkspace } from '@/server/testing/workspace';
import { GET as health } from '@/app/health/route';
import { POST as changes } from './workspaces/[w]/changes/route';
import { GET as family } from './workspaces/[w]/families/[type]/[id]/route';
import { GET as people } from './workspaces/[w]/people/route';
import { GET as explanation } from './workspaces/[w]/records/[type]/[id]/explanations/[field]/route';
import { POST as workOut } from './workspaces/[w]/records/[type]/[id]/recalculations/[field]/route';
import { GET as history } from './workspaces/[w]/records/[type]/[id]/history/route';
import {
  DELETE as deleteRecord,
  GET as getRecord,
  PATCH as patchRecord,
} from './workspaces/[w]/records/[type]/[id]/route';
import { GET as listRecords, POST as postRecord } from './workspaces/[w]/records/[type]/route';
import { POST as rehearsals } from './workspaces/[w]/rehearsals/route';
import { POST as workOutRule } from './workspaces/[w]/rules/[id]/recalculations/route';
import { GET as preview } from './workspaces/[w]/rules/[id]/preview/route';
import { DELETE as deleteRule, GET as getRule, PATCH as patchRule } from './workspaces/[w]/rules/[id]/route';
import { POST as ruleState } from './workspaces/[w]/rules/[id]/state/route';
import { GET as listRules, POST as postRule } from './workspaces/[w]/rules/route';
import { GET as types } from './workspaces/[w]/types/route';

const model = galleries();
const [museum, silk, loan, other] = [uuid('1'), uuid('11'), uuid('21'), uuid('22')];
let workspace: TestWorkspace;

beforeAll(async () => {
  const rows = [
    rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
    rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
    rowOf(model, 'loan', loan, {
      title: 'Robes',
      exhibition: silk,
      lender: museum,
      stage: 'agreed',
      insuredValue: gbp('12250'),
    }),
    rowOf(model, 'loan', other, { title: 'Pots', exhibition: silk, stage: 'agreed', insuredValue: gbp('1') }),
  ];
  workspace = await testWorkspace({ model, rows, rules: [ruleOf(INSURED_TOTAL, 1, 'Total')] });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

type Handler<P> = (request: Request, context: { params: Promise<P> }) => Promise<Response>;
interface Asked {
  readonly body?: unknown;
  readonly text?: string;
  readonly query?: string;
  readonly headers?: Record<string, string>;
}

// A handler takes the parameters of its own address; here all addresses are called alike.
async function call(
  handler: unknown,
  params: Record<string, string>,
  { body, text, query = '', headers = {} }: Asked = {},
) {
  const sent = text ?? (body === undefined ? undefined : JSON.stringify(body));
  const request = new Request(`http://127.0.0.1:4410/api/v1${query}`, {
    method: sent === undefined ? 'GET' : 'POST',
    headers: {
      host: '127.0.0.1:4410',
      'content-type': 'application/json',
      'oikon-person': TESTER.id,
      ...headers,
    },
    ...(sent === undefined ? {} : { body: sent }),
  });
  const response = await (handler as Handler<Record<string, string>>)(request, {
    params: Promise.resolve({ w: workspace.key, ...params }),
  });
  const answer = response.status === 204 ? null : ((await response.json()) as Record<string, unknown>);
  return {
    status: response.status,
    type: response.headers.get('content-type'),
    answer: answer as Record<string, unknown>,
  };
}
const money = (amount: string) => ({ amount, currency: 'GBP' });

test('tells that it is well', async () => {
  expect(await call(health, {})).toMatchObject({ status: 200, answer: { status: 'ok' } });
});

test('gives the model with who keeps what, the people, and the rules as sentences', async () => {
  const { answer } = await call(types, {});
  expect(answer.types).toEqual(JSON.parse(JSON.stringify(model.types)));
  expect(answer.keepers).toMatchObject([
    { type: 'exhibition', field: 'insuredTotal', rule: { name: 'Total', state: 'live' } },
  ]);
  expect((await call(people, {})).answer.people).toEqual([
    {
      ...{ id: TESTER.id, name: TESTER.name, role: TESTER.role, form: null },
      ...{
        access: 'administrator',
        groups: [],
        rights: ROLES.administrator.rights,
        seesPart: false,
        isService: false,
        isAwaited: true,
        hasSecond: false,
      },
    },
  ]);
  expect((await call(listRules, {})).answer.rules).toMatchObject([
    {
      state: 'live',
      sentence: expect.stringMatching(/^On every Exhibition, keep Insured total/),
      findings: [],
    },
  ]);
});

test('texts of an answer are written as whoever asks reads them, values always alike', async () => {
  const ask = (form?: string) =>
    call(
      explanation,
      { type: 'exhibition', id: silk, field: 'insuredTotal' },
      { headers: form === undefined ? {} : { 'oikon-form': form } },
    );
  const value = (answer: unknown) => (answer as { result: { value: object } }).result.value;
  expect(value((await ask()).answer)).toMatchObject({ text: '12,251.00 GBP' });
  expect(value((await ask(',.dayFirst')).answer)).toMatchObject({ text: '12.251,00 GBP' });
  expect(await ask('comma')).toMatchObject({ status: 400, answer: { code: 'form.unknown' } });
});

test('makes, gives, changes and deletes a record, with what follows', async () => {
  const made = await call(
    postRecord,
    { type: 'loan' },
    { body: { values: { title: 'Fans', exhibition: silk, stage: 'agreed', insuredValue: money('2.50') } } },
  );
  expect(made).toMatchObject({
    status: 201,
    answer: {
      record: { version: 1, values: { insuredValue: money('2.50') } },
      names: { [silk]: 'Rivers of Silk' },
    },
  });
  const { id } = made.answer.record as { id: string };
  const patched = await call(
    patchRecord,
    { type: 'loan', id },
    { body: { version: 1, values: { insuredValue: money('3') } } },
  );
  expect(patched).toMatchObject({
    status: 200,
    answer: {
      record: { version: 2 },
      ripple: {
        waves: [{}, { changes: [{ fieldName: 'Insured total', after: { wire: money('12254.00') } }] }],
      },
    },
  });
  const brief = await call(
    patchRecord,
    { type: 'loan', id },
    { body: { version: 2, values: { insuredValue: money('4') } }, headers: { prefer: 'return=minimal' } },
  );
  expect(brief.status).toBe(200);
  expect(Object.keys(brief.answer).sort()).toEqual(['ripple', 'run']);
  expect(
    (await call(listRecords, { type: 'loan' }, { query: `?filter.exhibition=${silk}&sort=-title` })).answer,
  ).toMatchObject({ count: { number: 3, isExact: true }, next: null });
  expect((await call(history, { type: 'loan', id })).answer.entries).toHaveLength(3);
  expect(await call(deleteRecord, { type: 'loan', id }, { query: '?version=3' })).toMatchObject({
    status: 200,
  });
  expect(await call(getRecord, { type: 'loan', id })).toMatchObject({
    status: 404,
    answer: { code: 'record.deleted' },
  });
  expect(
    (await call(explanation, { type: 'exhibition', id: silk, field: 'insuredTotal' })).answer,
  ).toMatchObject({ counted: 2, result: { value: { wire: money('12251.00') } } });
  expect((await call(family, { type: 'exhibition', id: silk })).answer).toMatchObject({ root: { id: silk } });
});

test('writes, previews, takes live, pauses and deletes rules', async () => {
  const made = await call(postRule, {}, { body: { definition: AVERAGE_INSURED } });
  expect(made).toMatchObject({
    status: 201,
    answer: { state: 'draft', name: 'Average insured' },
  });
  const id = (made.answer as { id: string }).id;
  expect(await call(patchRule, { id }, { body: { version: 1, note: 'For the board' } })).toMatchObject({
    status: 200,
    answer: { version: 2, note: 'For the board' },
  });
  expect((await call(preview, { id })).answer).toMatchObject({
    effects: [{ fieldName: 'Average insured', total: 1, changed: 1 }],
  });
  expect((await call(ruleState, { id }, { body: { state: 'live' } })).answer).toMatchObject({
    rule: { state: 'live' },
    written: [{ rule: id, records: 1 }],
  });
  expect((await call(ruleState, { id }, { body: { state: 'paused' } })).answer).toMatchObject({
    rule: { state: 'paused' },
  });
  expect(await call(deleteRule, { id })).toMatchObject({ status: 409 });
  const draft = (await call(postRule, {}, { body: { definition: AVERAGE_INSURED } })).answer as {
    id: string;
  };
  expect(await call(deleteRule, { id: draft.id })).toMatchObject({ status: 204 });
  expect(await call(getRule, { id: draft.id })).toMatchObject({
    status: 404,
    answer: { code: 'rule.unknown' },
  });
});

test('works out now what waits for a rule of a slower pace, on a record or for all', async () => {
  const definition = { ...AVERAGE_INSURED, pace: { kind: 'onRequest', field: null } };
  const made = await call(postRule, {}, { body: { definition } });
  const { id } = made.answer as { id: string };
  expect((await call(ruleState, { id }, { body: { state: 'live' } })).status).toBe(200);
  const value = async (amount: string) => {
    const edits = [
      {
        kind: 'edit',
        type: 'loan',
        id: other,
        version: '*',
        values: { insuredValue: { amount, currency: 'GBP' } },
      },
    ];
    return (await call(changes, {}, { body: { edits } })).answer;
  };
  expect(await value('3')).toMatchObject({ ripple: { later: [{ field: 'averageInsured', values: 1 }] } });
  const at = { type: 'exhibition', id: silk };
  expect((await call(getRecord, at)).answer).toMatchObject({ asOf: { averageInsured: expect.any(String) } });
  const now = await call(workOut, { ...at, field: 'averageInsured' }, { body: {} });
  expect(now.answer).toMatchObject({
    values: 1,
    asOf: {},
    record: { values: { averageInsured: expect.anything() } },
  });
  expect(await call(workOut, { ...at, field: 'title' }, { body: {} })).toMatchObject({ status: 409 });
  await value('1');
  expect((await call(getRule, { id })).answer).toMatchObject({ later: { values: 1 } });
  expect((await call(workOutRule, { id }, { body: {} })).answer).toMatchObject({
    values: 1,
    rule: { later: { values: 0 } },
  });
  expect((await call(ruleState, { id }, { body: { state: 'paused' } })).status).toBe(200);
  const wrong = { ...definition, pace: { kind: 'timetable', every: 'day', at: '6 o’clock' } };
  expect(await call(postRule, {}, { body: { definition: wrong } })).toMatchObject({ status: 400 });
});

test('rehearses, and saves nothing', async () => {
  const edits = [{ kind: 'edit', type: 'loan', id: loan, version: '*', values: { stage: 'declined' } }];
  const { answer } = await call(
    rehearsals,
    {},
    { body: { edits, drafts: [{ definition: AVERAGE_INSURED }] } },
  );
  expect(answer).toMatchObject({
    kind: 'done',
    ripple: {
      waves: [
        { number: 0 },
        {
          changes: [
            {
              fieldName: 'Insured total',
              before: { wire: money('12251.00') },
              after: { wire: money('1.00') },
            },
          ],
        },
      ],
    },
  });
  expect((await call(getRecord, { type: 'loan', id: loan })).answer).toMatchObject({
    record: { values: { stage: 'agreed' } },
  });
});

describe('bad input has its own clear answer, as a problem detail, and nothing is half-saved', () => {
  const patch =
    (values: Record<string, unknown>, more = {}) =>
    () =>
      call(patchRecord, { type: 'loan', id: loan }, { body: { version: 1, values, ...more } });
  const rule = (change: object) => () =>
    call(postRule, {}, { body: { definition: { ...INSURED_TOTAL, target: 'averageInsured', ...change } } });
  let deep: object = {
    kind: 'presence',
    operator: 'isEmpty',
    operand: { kind: 'field', route: [], field: 'stage' },
  };
  for (let level = 0; level < 40; level += 1) deep = { kind: 'group', operator: 'all', of: [deep] };

  test.each<[string, () => ReturnType<typeof call>, number, string, RegExp]>([
    [
      'text in a number',
      patch({ weight: 'heavy' }),
      422,
      'value.kind',
      /Weight: Expected a number with at most 3 decimal places, found “heavy”/,
    ],
    [
      'an option that isn’t one',
      patch({ stage: 'lost' }),
      422,
      'value.option',
      /Stage: Expected one of Requested/,
    ],
    [
      'an impossible date',
      patch({ dueBack: '2027-02-30' }),
      422,
      'value.kind',
      /Due back: Expected a date that exists/,
    ],
    [
      'a link to a record that is gone',
      patch({ exhibition: uuid('99') }),
      422,
      'link.gone',
      /Exhibition: there is no Exhibition with the id/,
    ],
    [
      'a link to a record of another type',
      patch({ exhibition: museum }),
      422,
      'link.gone',
      /there is no Exhibition/,
    ],
    ['an unknown field', patch({ colour: 'red' }), 422, 'edit.field', /Loan has no field “colour”/],
    ['a field that every record has', patch({ version: '2' }), 422, 'edit.field', /no field “version”/],
    [
      'a prototype’s name for a field',
      patch(JSON.parse('{"__proto__": {"a": 1}, "constructor": "x"}') as Record<string, unknown>),
      422,
      'edit.field',
      /no field “/,
    ],
    ['a required field made empty', patch({ title: '' }), 422, 'edit.required', /Title is required/],
    [
      'a version that has moved on',
      patch({ stage: 'declined' }, { version: 7 }),
      409,
      'edit.version',
      /you saw version 7, it is now at 1/,
    ],
    [
      'a patch without a version',
      patch({}, { version: undefined }),
      400,
      'input.shape',
      /"version" is required/,
    ],
    [
      'a field that a rule keeps',
      () =>
        call(
          patchRecord,
          { type: 'exhibition', id: silk },
          { body: { version: 1, values: { insuredTotal: money('1') } } },
        ),
      422,
      'edit.kept',
      /kept by the rule “Total”/,
    ],
    [
      'a record that isn’t there',
      () =>
        call(
          patchRecord,
          { type: 'loan', id: uuid('99') },
          { body: { version: 1, values: { stage: 'agreed' } } },
        ),
      404,
      'edit.gone',
      /There is no such Loan/,
    ],
    [
      'an id that isn’t one',
      () => call(getRecord, { type: 'loan', id: '../etc' }),
      404,
      'record.unknown',
      /There is no such Loan/,
    ],
    [
      'a type that isn’t there',
      () => call(listRecords, { type: 'crate' }),
      404,
      'type.unknown',
      /The types are institution/,
    ],
    [
      'a workspace that isn’t there',
      () => call(types, { w: 'nowhere' }),
      404,
      'workspace.unknown',
      /no workspace “nowhere”/,
    ],
    [
      'a parent that still has children',
      () => call(deleteRecord, { type: 'exhibition', id: silk }, { query: '?version=*' }),
      409,
      'delete.children',
      /2 Loans still name it/,
    ],
    ['broken JSON', () => call(changes, {}, { text: '{"edits": [' }), 400, 'body.json', /isn’t JSON/],
    [
      'another content type',
      () => call(changes, {}, { text: 'a=1', headers: { 'content-type': 'text/plain' } }),
      415,
      'body.type',
      /Expected application\/json/,
    ],
    [
      'a body that is too large',
      () => call(changes, {}, { text: JSON.stringify({ note: 'x'.repeat(4_100_000) }) }),
      413,
      'body.size',
      /larger than 4 MB/,
    ],
    [
      'no edits',
      () => call(changes, {}, { body: { edits: [] } }),
      400,
      'input.shape',
      /must contain at least 1/,
    ],
    [
      'something else than edits',
      () => call(changes, {}, { body: [1, 2] }),
      400,
      'input.shape',
      /must be of type object/,
    ],
    [
      'nobody who acts',
      () =>
        call(
          changes,
          {},
          { body: { edits: [{ kind: 'delete', type: 'loan', id: loan }] }, headers: { 'oikon-person': '' } },
        ),
      401,
      'person.unknown',
      /Oikon-Person/,
    ],
    [
      'a name of another host',
      () => call(types, {}, { headers: { host: 'evil.example' } }),
      400,
      'host.unknown',
      /on this machine only/,
    ],
    [
      'a rule whose kinds don’t fit',
      rule({ target: 'artefactCount', whenNone: '0' }),
      422,
      'rule.kinds',
      /money in GBP, which can’t be written into Artefact count/,
    ],
    [
      'a rule over a link that isn’t there',
      rule({ route: [{ direction: 'down', type: 'loan', link: 'stage' }] }),
      422,
      'rule.route',
      /Choose which records/,
    ],
    [
      'a rule with an unknown part',
      rule({ colour: 'red' }),
      400,
      'input.shape',
      /"definition.colour" is not allowed/,
    ],
    [
      'a condition of an unknown form',
      rule({ condition: { kind: 'script', text: 'drop' } }),
      400,
      'input.shape',
      /definition.condition/,
    ],
    ['a condition nested too deep', rule({ condition: deep }), 422, 'expression.size', /nested deeper/],
    [
      'a page that isn’t a number',
      () => call(listRecords, { type: 'loan' }, { query: '?limit=many' }),
      422,
      'query.number',
      /whole number from 1 to 500/,
    ],
    [
      'a state that isn’t one',
      () => call(ruleState, { id: uuid('1') }, { body: { state: 'gone' } }),
      400,
      'input.shape',
      /"state" must be one of/,
    ],
    [
      'a filter that doesn’t fit',
      () => call(listRecords, { type: 'loan' }, { query: '?filter.exhibition=silk' }),
      422,
      'value.kind',
      /Exhibition: Expected the id/,
    ],
  ])('%s', async (_, ask, status, code, detail) => {
    const before = JSON.stringify(await workspace.rows());
    const { status: found, type, answer } = await ask();
    expect({ status: found, code: answer.code }).toEqual({ status, code });
    expect(answer.detail).toMatch(detail);
    expect(type).toBe('application/problem+json');
    expect(answer.type).toBe(`urn:oikon:problem:${code}`);
    expect(JSON.stringify(await workspace.rows())).toBe(before);
  });
});
