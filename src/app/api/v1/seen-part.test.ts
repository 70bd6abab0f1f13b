import { GALLERIES, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { type ModelDefinition, readModel, type RoleAccess } from '@/core/model';
import { join } from 'node:path';
import { ACCESS, type Access, type Method } from '@/app/api/access';
import { sessionCookie } from '@/app/api/asking';
import { forgetKnown } from '@/app/api/known';
import { changeRoleAccess, roleAccess } from '@/server/actions/workspaces/role-access';
import { changeAccess } from '@/server/actions/workspaces/members';
import { changeRole, makeRole } from '@/server/actions/workspaces/own-roles';
import { addList } from '@/server/actions/records/saved-lists';
import { saveEdits } from '@/server/actions/records/save-edits';
import { disconnect } from '@/server/database/connection';
import { signedInTo, type SomebodySignedIn } from '@/server/testing/signed-in';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';

/** Galleries whose exhibitions have a curator. */
const MODEL: ModelDefinition = {
  ...GALLERIES,
  types: GALLERIES.types.map((type) =>
    type.key === 'exhibition'
      ? { ...type, fields: [...type.fields, { key: 'curator', name: 'Curator', type: { kind: 'person' } }] }
      : type,
  ),
  selections: [
    {
      ...{ key: 'dear', name: 'Dear', type: 'loan' },
      condition: {
        ...{ kind: 'compare', operator: '>' },
        left: { kind: 'field', route: [], field: 'insuredValue' },
        right: { kind: 'constant', value: '1' },
      },
    },
  ],
};
const rita = '00000000-0000-7000-8000-0000000005ee';
const [museum, mine, other, seen, seenToo, hidden, urn] = ['1', '11', '12', '21', '22', '23', '31'].map(
  uuid,
) as [...[string, string, string, string, string, string, string]];
/** What nobody who sees a part is ever told: of a field, a record, a type. */
const SECRETS = [
  '7171',
  'Secret exhibition',
  'Secret loan',
  'Secret urn',
  hidden,
  other,
  urn,
  'Insured value',
  '"key":"artefact"',
];
const ALL = { see: true, add: true, change: true, delete: true, export: true, selection: null, own: null };
const SEES: RoleAccess = {
  loan: {
    ...{ ...ALL, delete: false },
    fields: { insuredValue: 'hidden', stage: 'seen' },
    own: { route: ['exhibition'], field: 'curator' },
  },
  exhibition: { ...ALL, add: false, fields: {}, own: { route: [], field: 'curator' } },
  artefact: { ...ALL, see: false, fields: {} },
};

let workspace: TestWorkspace;
let somebody: SomebodySignedIn;
const by = () => ({ workspace: workspace.key, person: TESTER.id, isOperator: false });

beforeAll(async () => {
  const model = readModel(MODEL);
  const rows = [
    rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
    rowOf(model, 'exhibition', mine, { title: 'Rivers of Silk', venue: museum, curator: rita }),
    rowOf(model, 'exhibition', other, { title: 'Secret exhibition', venue: museum, curator: TESTER.id }),
    rowOf(model, 'loan', seen, {
      title: 'Robe',
      exhibition: mine,
      stage: 'agreed',
      insuredValue: gbp('7171'),
    }),
    rowOf(model, 'loan', seenToo, {
      title: 'Sash',
      exhibition: mine,
      lender: museum,
      stage: 'agreed',
      insuredValue: gbp('29'),
    }),
    rowOf(model, 'loan', hidden, { title: 'Secret loan', exhibition: other, stage: 'agreed' }),
    rowOf(model, 'artefact', urn, { title: 'Secret urn', loan: seen }),
  ];
  workspace = await testWorkspace({ model, rows: [], rules: [ruleOf(INSURED_TOTAL, 1, 'Insured total')] });
  somebody = await signedInTo(workspace, { id: rita, role: 'editor' });
  const edits = rows.map(({ type, id, values }) => ({
    ...{ kind: 'create' as const, type, id },
    values: Object.fromEntries(
      Object.entries(values)
        .filter(([, value]) => value !== null)
        .map(([key, value]) => [key, key === 'insuredValue' ? (id === seen ? '7171' : '29') : value]),
    ),
  }));
  await saveEdits({ workspace: workspace.key, person: TESTER.id, edits });
  const list = { columns: [], sort: null };
  await addList(by(), {
    name: 'Secret exhibition list',
    definition: {
      ...{ type: 'loan', ...list },
      condition: MODEL.selections![0]!.condition,
    } as never,
  }).catch(() => undefined);
  await changeRoleAccess(by(), 'editor', SEES);
});
afterAll(async () => {
  await workspace.remove();
  await somebody.remove();
  forgetKnown();
  await disconnect();
});

type Handle = (request: Request, context: { params: Promise<never> }) => Promise<Response>;

/** What Rita is answered at a route. */
async function asked(
  method: Method,
  path: string,
  params: Record<string, string> = {},
  more: { query?: string; body?: unknown; cookie?: string } = {},
): Promise<{ status: number; text: string; json: () => Record<string, unknown> }> {
  const all = { w: workspace.key, ...params };
  const folder = `/api/v1/workspaces/[w]${path.replace(/\{(\w+)\}/g, '[$1]')}`;
  const handlers = (await import(join(__dirname, '../..', folder, 'route'))) as Record<Method, Handle>;
  const address = `/api/v1/workspaces/{w}${path}`.replace(
    /\{(\w+)\}/g,
    (_, name: string) => all[name as 'w'],
  );
  const request = new Request(`https://oikon.example.org${address}${more.query ?? ''}`, {
    method,
    headers: {
      ...{ cookie: `${sessionCookie()}=${somebody.secret}${more.cookie ?? ''}`, host: 'oikon.example.org' },
      ...(more.body === undefined ? {} : { 'content-type': 'application/json' }),
    },
    ...(more.body === undefined ? {} : { body: JSON.stringify(more.body) }),
  });
  const response = await handlers[method](request, { params: Promise.resolve(all as never) });
  const text = await response.text();
  return { status: response.status, text, json: () => JSON.parse(text) as Record<string, unknown> };
}

/** Held to hold nothing of what she doesn't see. */
function held<T extends { text: string }>(answer: T): T {
  for (const one of SECRETS) expect(answer.text).not.toContain(one);
  return answer;
}

const titles = (answer: { json: () => Record<string, unknown> }) =>
  (answer.json().records as { values?: { title: string }; title?: string }[])
    .map((one) => one.values?.title ?? one.title)
    .sort();

test('every route either heeds what somebody sees, or is closed to them', async () => {
  const open = [];
  for (const [path, methods] of Object.entries(ACCESS) as [string, Partial<Record<Method, Access>>][])
    for (const [method, access] of Object.entries(methods) as [Method, Access][]) {
      if (!path.startsWith('/api/v1/workspaces/{w}/') || access.right === 'administer') continue;
      if (access.showsPart) {
        open.push(`${method} ${path.slice('/api/v1/workspaces/{w}'.length)}`);
        continue;
      }
      const params = Object.fromEntries([...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => [name!, seen]));
      const answer = await asked(method, path.slice('/api/v1/workspaces/{w}'.length), {
        ...params,
        w: workspace.key,
      });
      expect([method, path, answer.status]).toEqual([method, path, 403]);
    }
  expect(open.sort()).toEqual([
    'DELETE /records/{type}/{id}',
    'GET /lists',
    'GET /messages',
    'GET /people',
    'GET /proposals',
    'GET /records/{type}',
    'GET /records/{type}/export',
    'GET /records/{type}/{id}',
    'GET /records/{type}/{id}/explanations/{field}',
    'GET /records/{type}/{id}/history',
    'GET /search',
    'GET /types',
    'PATCH /records/{type}/{id}',
    'POST /changes',
    'POST /proposals/decisions',
    'POST /records/{type}',
  ]);
});

test('the model, lists, search and files have only what is seen, and nothing hidden is found by asking for it', async () => {
  const model = held(await asked('GET', '/types')).json() as {
    types: { key: string; fields: { key: string }[] }[];
  };
  expect(model.types.map(({ key }) => key)).toEqual(['institution', 'exhibition', 'loan']);
  expect(model.types[2]!.fields.map(({ key }) => key)).not.toContain('insuredValue');
  held(await asked('GET', '/lists'));
  held(await asked('GET', '/people'));
  const list = (type: string, query = '') => asked('GET', '/records/{type}', { type }, { query });
  expect(titles(held(await list('loan')))).toEqual(['Robe', 'Sash']);
  expect((held(await list('loan')).json().count as { number: number }).number).toBe(2);
  expect(titles(held(await list('exhibition')))).toEqual(['Rivers of Silk']);
  expect(titles(held(await asked('GET', '/search', {}, { query: '?text=e' })))).toEqual(
    ['Kestrel Museum', 'Rivers of Silk', 'Robe'].sort(),
  );
  expect(titles(held(await asked('GET', '/search', {}, { query: '?text=secret' })))).toEqual([]);
  for (const format of ['csv', 'jsonl'])
    held(await asked('GET', '/records/{type}/export', { type: 'loan' }, { query: `?format=${format}` }));

  const condition = (left: unknown) =>
    `?condition=${encodeURIComponent(JSON.stringify({ kind: 'presence', operator: 'isNotEmpty', operand: left }))}`;
  const field = (name: string, ...route: string[]) => ({ kind: 'field', route, field: name });
  for (const query of [
    '?sort=insuredValue',
    '?filter.insuredValue=7171',
    condition(field('insuredValue')),
    `?condition=${encodeURIComponent(JSON.stringify({ kind: 'selection', operator: 'isIn', route: [], selection: 'dear' }))}`,
  ])
    expect([query, (await list('loan', query)).status]).toEqual([query, 422]);
  expect(
    (await asked('GET', '/records/{type}/export', { type: 'loan' }, { query: '?fields=insuredValue' }))
      .status,
  ).toBe(422);
  expect((await list('artefact')).status).toBe(404);
  // Up a link to what isn't seen there is nothing.
  expect(titles(await list('loan', condition(field('title', 'exhibition'))))).toEqual(['Robe', 'Sash']);
});

test('a record is opened with what is seen of it; others aren’t there', async () => {
  const get = (type: string, id: string) => asked('GET', '/records/{type}/{id}', { type, id });
  const view = held(await get('loan', seen)).json() as {
    record: { values: object };
    path: { title: string }[];
  };
  expect(view.record.values).toMatchObject({ title: 'Robe', stage: 'agreed', exhibition: mine });
  expect((await get('loan', hidden)).status).toBe(404);
  expect((await get('exhibition', other)).status).toBe(404);
  expect((await get('artefact', urn)).status).toBe(404);
  const history = (id: string) => asked('GET', '/records/{type}/{id}/history', { type: 'loan', id });
  held(await history(seen));
  expect((await history(hidden)).status).toBe(404);
  // What a rule keeps of what is hidden is seen whole where its own field is.
  expect((held(await get('institution', museum)).json() as { record: object }).record).toBeDefined();
  const total = (await get('exhibition', mine)).json() as { record: { values: { insuredTotal: string } } };
  expect(JSON.stringify(total.record.values.insuredTotal)).toContain('7200');
});

test('what isn’t seen isn’t changed, linked to or deleted; what is only looked at isn’t changed', async () => {
  const patch = (id: string, values: object, type = 'loan') =>
    asked('PATCH', '/records/{type}/{id}', { type, id }, { body: { values, version: '*' } });
  const code = async (answer: ReturnType<typeof asked>) => {
    const given = held(await answer);
    return [given.status, given.json().code];
  };
  expect(await code(patch(seen, { stage: 'declined' }))).toEqual([403, 'sight.part']);
  expect(await code(patch(seen, { insuredValue: '1' }))).toEqual([422, 'field.unknown']);
  expect(await code(patch(hidden, { title: 'Found' }))).toEqual([404, 'sight.record']);
  expect(await code(patch(seen, { exhibition: other }))).toEqual([404, 'sight.record']);
  expect(await code(patch(urn, { title: 'Found' }, 'artefact'))).toEqual([404, 'type.unknown']);
  const remove = asked('DELETE', '/records/{type}/{id}', { type: 'loan', id: seen }, { query: '?version=*' });
  expect(await code(remove)).toEqual([403, 'sight.part']);
  const add = (values: object, type = 'loan') =>
    asked('POST', '/records/{type}', { type }, { body: { values } });
  expect(await code(add({ title: 'New' }, 'exhibition'))).toEqual([403, 'sight.part']);
  expect(await code(add({ title: 'New', exhibition: other }))).toEqual([404, 'sight.record']);
  const many = (edits: object[]) => asked('POST', '/changes', {}, { body: { edits } });
  expect(
    await code(many([{ kind: 'edit', type: 'loan', id: hidden, version: '*', values: { title: 'x' } }])),
  ).toEqual([...[404, 'sight.record']]);

  // Why it can’t be done is told as far as it is about what she sees.
  const museumGone = asked(
    'DELETE',
    '/records/{type}/{id}',
    { type: 'institution', id: museum },
    { query: '?version=*' },
  );
  expect(await code(museumGone)).toEqual([409, 'sight.refused']);

  // What she may she does; what follows is told as far as she sees it.
  const saved = held(await patch(seen, { title: 'Robe of state' }));
  expect([saved.status, saved.text]).toEqual([200, saved.text]);
  const made = held(await add({ title: 'Cap', exhibition: mine }));
  expect(made.status).toBe(201);
  // Without an exhibition it is none of hers, but she entered it.
  expect(held(await add({ title: 'Belt' })).status).toBe(201);
  const loans = await asked('GET', '/records/{type}', { type: 'loan' });
  expect(titles(held(loans))).toEqual(['Cap', 'Robe of state', 'Sash']);
});

test('an opened value shows the records that are seen, and all others together; where one could be told, not even that', async () => {
  const total = (id: string) =>
    asked('GET', '/records/{type}/{id}/explanations/{field}', {
      type: 'exhibition',
      id,
      field: 'insuredTotal',
    });
  // It reads what is hidden: closed.
  expect((held(await total(mine)).json() as { code: string }).code).toBe('sight.part');
  const dear = (id: string, title: string, value: string) =>
    ({
      kind: 'create',
      type: 'loan',
      id,
      values: { title, exhibition: mine, stage: 'agreed', insuredValue: value },
    }) as const;
  const by2 = { workspace: workspace.key, person: TESTER.id };
  await changeRoleAccess(by(), 'editor', { loan: { ...ALL, fields: {}, selection: 'dear' } });
  await saveEdits({ ...by2, edits: [dear(uuid('41'), 'Pin', '0.25')] });
  const one = (await total(mine)).json() as { members: { title: string }[]; unseen: object; counted: number };
  expect(one.members.map(({ title }) => title)).not.toContain('Pin');
  expect(one.unseen).toEqual({ records: null, text: null });
  await saveEdits({ ...by2, edits: [dear(uuid('42'), 'Needle', '0.50')] });
  const two = (await total(mine)).json() as typeof one;
  expect(two.unseen).toEqual({ records: 2, text: '0.75 GBP' });
  expect(two.counted).toBe(one.counted);
  expect((await total(other)).status).toBe(200);
  await changeRoleAccess(by(), 'editor', SEES);
});

test('whoever administers looks at it as a role does: with what that sees and may, and saves nothing meanwhile', async () => {
  await changeAccess(by(), rita, 'administrator');
  const cookie = `; oikon-see-as=${workspace.key}:editor`;
  const list = () => asked('GET', '/records/{type}', { type: 'loan' }, { cookie });
  expect(titles(held(await list()))).not.toContain('Secret loan');
  const patch = { body: { values: { title: 'x' }, version: '*' }, cookie };
  const saved = await asked('PATCH', '/records/{type}/{id}', { type: 'loan', id: seen }, patch);
  expect([saved.status, saved.json().code]).toEqual([403, 'sight.preview']);
  expect((await asked('GET', '/rules', {}, { cookie })).status).toBe(403);
  // It only ever shows less: nobody else is shown anything by it, and of another workspace nothing is said.
  expect(titles(await asked('GET', '/records/{type}', { type: 'loan' }))).toContain('Secret loan');
  const elsewhere = { cookie: '; oikon-see-as=elsewhere:editor' };
  expect(titles(await asked('GET', '/records/{type}', { type: 'loan' }, elsewhere))).toContain('Secret loan');
  await changeAccess(by(), rita, 'editor');
  const more = { cookie: `; oikon-see-as=${workspace.key}:administrator` };
  expect(titles(held(await asked('GET', '/records/{type}', { type: 'loan' }, more)))).not.toContain(
    'Secret loan',
  );
});

test('me is a value in any condition of a role, and in no other', async () => {
  const feel = (text: string) => ({ kind: 'feel' as const, text });
  // Other tests add some.
  const every = ['Belt', 'Cap', 'Robe of state', 'Sash', 'Secret loan'];
  const mineOrAgreed = await makeRole(by(), { name: 'Mine or declined', rights: ['see'] });
  const seeing = (text: string) => ({ loan: { ...ALL, fields: {}, where: feel(text) } });
  const seenBy = async (text: string) => {
    await changeRoleAccess(by(), mineOrAgreed.key, seeing(text));
    const found = titles(await asked('GET', '/records/{type}', { type: 'loan' }));
    return found.filter((title) => every.includes(title!));
  };
  await changeAccess(by(), rita, mineOrAgreed.key);
  expect(await seenBy('exhibition.curator = me()')).toEqual(['Cap', 'Robe of state', 'Sash']);
  expect(await seenBy('exhibition.curator = me() and stage = "agreed"')).toEqual(['Robe of state', 'Sash']);
  expect(await seenBy('exhibition.curator = me() or title = "Belt"')).toEqual(every.slice(0, 4));
  expect(await seenBy('not(exhibition.curator = me()) and exhibition.curator != null')).toEqual([
    'Secret loan',
  ]);
  expect(await seenBy('if me() = null then false else true')).toEqual(every);
  // The others hold as well, where they are said.
  const whole = { ...seeing('title != "Sash"').loan, selection: 'dear', own: SEES.loan!.own };
  await changeRoleAccess(by(), mineOrAgreed.key, { loan: whole });
  expect(titles(await asked('GET', '/records/{type}', { type: 'loan' }))).toEqual(['Robe of state']);

  const wrong = async (text: string) => {
    const { code, parts } = await refusal(changeRoleAccess(by(), mineOrAgreed.key, seeing(text)));
    return [code, parts[0]?.place, parts[0]?.message];
  };
  expect(await wrong('curator = me()')).toEqual(['role.access', 'loan.where', expect.any(String)]);
  expect(await wrong('exhibition.curator = person()')).toEqual([
    ...['role.access', 'loan.where', expect.stringMatching(/me\(\) is whoever looks/)],
  ]);
  expect(await wrong('exhibition.curator')).toEqual(['role.access', 'loan.where', expect.any(String)]);
  const condition = encodeURIComponent(JSON.stringify(feel('exhibition.curator = me()')));
  const listed = await asked(
    'GET',
    '/records/{type}',
    { type: 'loan' },
    { query: `?condition=${condition}` },
  );
  expect(listed.status).toBe(422);
  await changeAccess(by(), rita, 'editor');
});

test('roles together: all where one sees all; what one hides stays hidden; rights that show all see all', async () => {
  expect(await roleAccess(workspace.key, 'editor')).toEqual(SEES);
  for (const role of ['ruleWriter', 'administrator', 'bulkEditor'])
    expect((await refusal(changeRoleAccess(by(), role, SEES))).code).toBe('role.access');
  const wrong = {
    loan: { ...ALL, fields: { title: 'hidden', nothing: 'seen' }, selection: 'none' },
  } as const;
  expect((await refusal(changeRoleAccess(by(), 'reader', wrong))).parts).toHaveLength(3);
  const own = await makeRole(by(), { name: 'Partial', rights: ['see'] });
  await changeRoleAccess(by(), own.key, { artefact: SEES.artefact! });
  expect((await refusal(changeRole(by(), own.key, { name: 'Partial', rights: ['takeLive'] }))).code).toBe(
    'role.access',
  );
  await changeAccess(by(), rita, own.key);
  const loans = await asked('GET', '/records/{type}', { type: 'loan' });
  expect(titles(loans)).toContain('Secret loan');
  expect(loans.text).toContain('7171');
  expect((await asked('GET', '/records/{type}', { type: 'artefact' })).status).toBe(404);
  await changeRoleAccess(by(), own.key, {});
  expect((await asked('GET', '/records/{type}', { type: 'artefact' })).status).toBe(200);
});
