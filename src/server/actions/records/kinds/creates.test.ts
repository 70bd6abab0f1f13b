import { PLAIN_FORMS } from '@/core/values';
import type { Row, WireEdit } from '@/core/engine';
import type { Create, RuleDefinition } from '@/core/rules';
import { decimal, rollUp, rowOf, uuid } from '@/core/testing/galleries';
import { numbered } from '@/core/testing/rule-desk';
import { inspections, LINE, TREATMENT } from '@/core/testing/inspections';
import { type Bundle, type ImportPlan } from '@/core/intake';
import { Readable } from 'node:stream';
import { v7 as newId } from 'uuid';
import { database, disconnect } from '@/server/database/connection';
import { sendMessages } from '@/server/jobs/send-messages';
import { keepPaces } from '@/server/jobs/slower-paces';
import type { Message } from '@/server/messages/message-service';
import { getFamily } from '@/server/queries/records/family';
import { getHistory } from '@/server/queries/ledger/history';
import { filledFor } from '@/server/queries/records/filled';
import { listMessages, listProposals } from '@/server/queries/today/proposals';
import { getRecord } from '@/server/queries/records/records';
import { edit } from '@/server/testing/edits';
import { flawsIn } from '@/server/testing/flaws';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { decideProposals } from '@/server/actions/records/decide-proposals';
import { type Decision } from '@/server/forms/types';
import { editList, rehearseListEdit } from '@/server/actions/records/edit-list';
import { exportBundle } from '@/server/actions/bundles/export-bundle';
import { importBundle } from '@/server/actions/bundles/import-bundle';
import { importFile, rehearseImport } from '@/server/actions/imports/import-file';
import { removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { previewLive } from '@/server/actions/rules/preview-live';
import { rehearseOnData } from '@/server/actions/records/rehearse';
import { saveEdits } from '@/server/actions/records/save-edits';
import { undoRun } from '@/server/undo/undo-run';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';

const model = inspections();
const [vase, robe, scroll] = [uuid('1'), uuid('2'), uuid('3')];
const [seen, filmed] = [uuid('11'), uuid('12')];
const ROWS = [
  rowOf(model, 'artefact', vase, {
    title: 'Vase',
    sort: 'tool',
    maker: 'Anning',
    worth: decimal(10),
    number: decimal(7),
  }),
  rowOf(model, 'artefact', robe, { title: 'Robe', sort: 'tool', number: decimal(8) }),
  rowOf(model, 'artefact', scroll, { title: 'Scroll', sort: 'tool', number: decimal(9) }),
  rowOf(model, 'inspection', seen, {
    title: 'Seen',
    artefact: vase,
    remark: 'Cracked',
    outcome: 'watch',
    byPhoto: false,
  }),
  rowOf(model, 'inspection', filmed, { title: 'Filmed', artefact: vase, outcome: 'watch', byPhoto: true }),
];
let workspace: TestWorkspace;
const begin = async (...rules: RuleDefinition[]) => {
  workspace = await testWorkspace({ model, rows: ROWS, rules: numbered(rules) });
};
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const save = (...edits: WireEdit[]) => saveEdits({ ...by(), edits });
const all = async (type: string) =>
  (await workspace.rows())
    .filter((row) => row.type === type && !row.deleted)
    .map(({ id, values }): { readonly id: string } & Row['values'] => ({ id, ...values }));
const proposals = async (isDecided = false) => listProposals(await workspace.load(), isDecided);
const decide = (...decisions: Decision[]) => decideProposals({ ...by(), decisions });
const sound = async () => expect(await flawsIn(workspace)).toEqual([]);
const damage = edit('inspection', seen, { outcome: 'damage' });
const sort = (to: string, id = vase) => edit('artefact', id, { sort: to });

test('a save makes a record with its fields and numbers, once, and its history says by which rule and for what', async () => {
  const count = rollUp({
    ...{ type: 'artefact', target: 'treatments', aggregate: 'count', value: null, whenNone: '0' },
    route: [{ direction: 'down', type: 'treatment', link: 'artefact' }],
  });
  await begin(TREATMENT, count);
  const { ripple } = await save(damage);
  expect(ripple.waves.map(({ changes }) => changes[0]!.rule?.kind)).toEqual([undefined, 'create', 'rollUp']);
  const [treatment] = await all('treatment');
  expect(treatment).toMatchObject({
    ...{ title: 'Treat Vase', artefact: vase, inspection: seen, cause: 'Cracked', state: 'planned' },
    number: decimal(1),
  });
  await save(edit('inspection', seen, { outcome: 'sound' }));
  await save(damage);
  await save(edit('inspection', filmed, { outcome: 'damage' }));
  expect(await all('treatment')).toHaveLength(1);
  const loaded = await workspace.load();
  const { entries } = await getHistory(loaded, { type: 'treatment', id: treatment!.id });
  expect(entries.at(-1)).toMatchObject({
    event: 'created',
    rule: { id: workspace.rules[0] },
    causes: ['Inspection Seen'],
  });
  const view = await getRecord(loaded, 'treatment', treatment!.id);
  expect(view.madeBy).toEqual([
    expect.objectContaining({ source: { type: 'inspection', id: seen, title: 'Seen' } }),
  ]);
  expect((await getRecord(loaded, 'artefact', vase)).record.values.treatments).toBe('1');
  await sound();
});

test('eight writers at a time make one', async () => {
  await begin({ ...TREATMENT, condition: null, each: 'once' }, LINE);
  await Promise.all(
    Array.from({ length: 8 }, (_, at) =>
      save(edit('artefact', vase, { sort: at % 2 ? 'painting' : 'paper' })).catch(() => null),
    ),
  );
  await Promise.all([vase, robe, scroll].flatMap((id) => [1, 2, 3].map(() => save(sort('painting', id)))));
  const lines = await all('line');
  expect(lines).toHaveLength(3);
  expect(new Set(lines.map((line) => String(line.number)))).toEqual(new Set(['1', '2', '3']));
  await sound();
});

test('both sides follow one another, and go into the bin and come back together', async () => {
  await begin(LINE);
  await save(sort('painting'));
  const [line] = await all('line');
  expect(line).toMatchObject({ artefact: vase, artefactNumber: 'N-007', maker: 'Anning' });
  await save(edit('line', line!.id, { maker: 'Brandt' }));
  await save(edit('artefact', vase, { worth: '25' }));
  expect((await all('artefact')).find(({ id }) => id === vase)).toMatchObject({
    maker: 'Brandt',
    line: line!.id,
  });
  expect((await all('line'))[0]).toMatchObject({ worth: decimal(25) });
  const { ripple } = await save(
    edit('artefact', vase, { maker: 'Curie' }),
    edit('line', line!.id, { maker: 'Doyle' }),
  );
  expect(ripple.overruled).toEqual([expect.objectContaining({ id: line!.id, isEntered: true })]);
  expect((await all('line'))[0]).toMatchObject({ maker: 'Curie' });
  await save(sort('tool'));
  expect(await all('line')).toEqual([]);
  await save(sort('painting'));
  expect(await all('line')).toEqual([expect.objectContaining({ id: line!.id, artefact: vase })]);
  await sound();
});

test('undoing the making takes it back as if it had never been, and a later save makes one anew', async () => {
  await begin(TREATMENT);
  const { run } = await save(damage);
  const [treatment] = await all('treatment');
  const { undoneBy } = await undoRun({ ...by(), run: run! });
  expect(await all('treatment')).toEqual([]);
  await sound();
  // How it came about is told all the same.
  const { entries } = await getHistory(await workspace.load(), {
    type: 'treatment',
    id: treatment!.id,
    limit: 5,
  });
  expect(entries.at(-1)).toMatchObject({ event: 'created', run });
  // Undone in turn, it is there again, with what it was made for.
  const back = await undoRun({ ...by(), run: undoneBy! });
  expect((await all('treatment')).map(({ id }) => id)).toEqual([treatment!.id]);
  await undoRun({ ...by(), run: back.undoneBy! });
  await save(damage);
  const [anew] = await all('treatment');
  expect(anew!.id).not.toBe(treatment!.id);
  await sound();
  await sound();
});

describe('a proposal', () => {
  test('waits with what it would do, and is approved as it is, or changed', async () => {
    await begin(LINE);
    await save(sort('textile'), sort('textile', robe));
    const { proposals: waiting, open } = await proposals();
    expect(open).toBe(2);
    expect(waiting[0]).toMatchObject({
      ...{ kind: 'make', typeName: 'Line', source: { id: vase, title: 'Vase' }, person: TESTER.name },
      fields: expect.arrayContaining([
        expect.objectContaining({ fieldName: 'Maker', after: { wire: 'Anning', text: 'Anning' } }),
      ]) as unknown,
    });
    const rehearsed = await rehearseOnData({
      workspace: workspace.key,
      edits: [waiting[0]!.edit],
      drafts: [],
    });
    expect(rehearsed.ripple.waves[0]!.changes[0]).toMatchObject({ kind: 'created', typeName: 'Line' });
    const decided = await decide(
      { id: waiting[0]!.id, decision: 'approve' },
      { id: waiting[1]!.id, decision: 'approve', values: { maker: 'Somebody' } },
    );
    expect(decided.map(({ problem }) => problem)).toEqual([null, null]);
    const lines = await all('line');
    expect(lines.map(({ maker }) => maker).sort()).toEqual(['Anning', 'Somebody']);
    expect((await all('artefact')).find(({ id }) => id === vase)!.line).toBe(
      lines.find(({ artefact }) => artefact === vase)!.id,
    );
    await save(sort('tool'));
    await save(sort('textile'));
    expect([(await proposals()).open, (await all('line')).length]).toEqual([0, 2]);
    expect((await proposals(true)).proposals.map(({ state, decidedBy }) => [state, decidedBy])).toEqual([
      ['approved', TESTER.name],
      ['approved', TESTER.name],
    ]);
    await sound();
  });

  test('is refused with a reason, and can’t be decided twice', async () => {
    await begin(LINE);
    await save(sort('textile'));
    const { id } = (await proposals()).proposals[0]!;
    expect(await decide({ id, decision: 'refuse', reason: 'Too small' })).toEqual([
      { id, run: null, problem: null },
    ]);
    const [again] = await decide({ id, decision: 'approve' });
    expect(again!.problem!.message).toMatch(/was decided meanwhile/);
    expect((await proposals(true)).proposals[0]).toMatchObject({ state: 'refused', reason: 'Too small' });
    expect(await all('line')).toEqual([]);
  });

  test('is open no more once the record leaves the condition, or the rule is paused', async () => {
    await begin(LINE);
    await save(sort('textile'), sort('textile', robe));
    await save(sort('tool'));
    expect((await proposals()).open).toBe(1);
    await changeState({ ...by(), id: workspace.rules[0]!, state: 'paused' });
    expect((await proposals()).open).toBe(0);
  });

  test('names the field that nothing gives, and stays open until it is filled', async () => {
    await begin({
      ...LINE,
      assignments: [
        ...LINE.assignments.filter(({ target }) => target !== 'title'),
        {
          target: 'title',
          value: { kind: 'expression', expression: { kind: 'field', route: [], field: 'maker' } },
        },
      ],
    });
    await save(sort('painting', robe));
    const [{ id, fields }] = (await proposals()).proposals as [
      Awaited<ReturnType<typeof proposals>>['proposals'][number],
    ];
    expect(fields.find(({ field }) => field === 'title')).toMatchObject({ missing: 'empty' });
    expect((await decide({ id, decision: 'approve' }))[0]!.problem!.message).toMatch(/Title is required/);
    expect(
      (await decide({ id, decision: 'approve', values: { title: 'Robe line' } }))[0]!.problem,
    ).toBeNull();
    expect((await all('line'))[0]).toMatchObject({ title: 'Robe line', artefact: robe });
  });

  test('of what follows later is one that gathers the changes', async () => {
    await begin({ ...LINE, following: 'proposal', returning: 'not' });
    await save(sort('painting'));
    await save(edit('artefact', vase, { maker: 'Brandt' }));
    await save(edit('artefact', vase, { worth: '30' }));
    const { proposals: waiting } = await proposals();
    expect(waiting).toHaveLength(1);
    expect(waiting[0]!.fields.map(({ field, after }) => [field, after!.text])).toEqual([
      ['maker', 'Brandt'],
      ['worth', '30'],
    ]);
    await decide({ id: waiting[0]!.id, decision: 'approve' });
    expect((await all('line'))[0]).toMatchObject({ maker: 'Brandt', worth: decimal(30) });
  });

  test('that tells of what was done is seen', async () => {
    await begin(LINE);
    await save(sort('paper'));
    const { proposals: told, open } = await proposals();
    expect([open, told[0]!.state, (await all('line')).length]).toEqual([0, 'told', 1]);
    await decide({ id: told[0]!.id, decision: 'seen' });
    expect((await proposals()).told).toBe(0);
  });
});

test('a person asks for one: the form is filled, and saving it makes it once', async () => {
  const onRequest: Create = { ...LINE, pace: { kind: 'onRequest', field: null } };
  await begin(onRequest);
  const rule = workspace.rules[0]!;
  await save(sort('painting'));
  expect(await all('line')).toEqual([]);
  const { makers } = await getRecord(await workspace.load(), 'artefact', vase);
  expect(makers).toEqual([expect.objectContaining({ makesName: 'Line', meets: true, made: [] })]);
  const filled = await filledFor(await workspace.load(), rule, vase, null);
  expect(filled).toMatchObject({
    type: 'line',
    values: { title: 'Vase', maker: 'Anning', artefactNumber: 'N-007', artefact: vase },
    missing: [],
  });
  const madeFor = { rule, source: vase };
  await save({ kind: 'create', type: 'line', values: { ...filled.values, maker: 'Mine' }, madeFor });
  expect((await all('line'))[0]).toMatchObject({ maker: 'Mine', artefact: vase });
  expect(await refusal(save({ kind: 'create', type: 'line', values: filled.values, madeFor }))).toMatchObject(
    { status: 409, parts: [{ code: 'edit.made' }] },
  );
  expect(await refusal(filledFor(await workspace.load(), rule, vase, null))).toMatchObject({
    code: 'edit.made',
  });
  expect(await refusal(filledFor(await workspace.load(), rule, robe, null))).toMatchObject({
    code: 'make.condition',
  });
});

test('what is kept in step one way can’t be entered, and the record says so', async () => {
  await begin({ ...LINE, returning: 'not' });
  await save(sort('painting'));
  const [line] = await all('line');
  expect((await getRecord(await workspace.load(), 'line', line!.id)).claimed).toEqual([
    'title',
    'maker',
    'worth',
    'artefactNumber',
  ]);
  expect(await refusal(save(edit('line', line!.id, { maker: 'Mine' })))).toMatchObject({
    status: 422,
    parts: [{ code: 'edit.kept' }],
  });
});

test('taken live it tells what it would make at once, and does so if asked', async () => {
  await begin();
  await save(sort('painting'), sort('textile', robe));
  const id = await createRule({ ...by(), definition: LINE });
  expect((await previewLive(workspace.key, id)).makes).toMatchObject({
    made: 1,
    proposed: 1,
    plural: 'Insurance lines',
  });
  expect(await changeState({ ...by(), id, state: 'live', actsOnMatching: true })).toMatchObject({
    made: 1,
    proposed: 1,
  });
  expect(await all('line')).toHaveLength(1);
  expect((await proposals()).open).toBe(1);
  await sound();
});

test('what is made by a save is numbered in the order of the edits that it follows from, whatever their ids', async () => {
  await begin(LINE);
  const order = [scroll, vase, robe];
  await save(...order.map((id) => sort('painting', id)));
  const lines = (await all('line')).sort((a, b) => Number(String(a.number)) - Number(String(b.number)));
  expect(lines.map(({ artefact }) => artefact)).toEqual(order);
  await sound();
});

test('at its time it makes one for each that meets the condition by then', async () => {
  await begin({ ...LINE, pace: { kind: 'timetable', every: 'day', at: '06:00' } });
  await save(sort('painting'));
  const day = (hour: string) => new Date(`2027-03-01T${hour}:00.000Z`);
  await keepPaces(workspace.key, day('04:00'));
  expect(await all('line')).toEqual([]);
  await keepPaces(workspace.key, day('06:30'));
  await keepPaces(workspace.key, day('06:40'));
  expect(await all('line')).toHaveLength(1);
});

const CSV: ImportPlan = {
  ...{ format: 'csv', encoding: 'utf-8', separator: ',', forms: PLAIN_FORMS, refused: 'stop' },
  columns: ['title', 'sort', 'maker'].map((field) => ({ column: field, field })),
  key: ['title'],
};

describe('many at once', () => {
  const imported = (file: string) =>
    importFile({ ...by(), type: 'artefact', bytes: Readable.from([Buffer.from(file)]), plan: CSV });

  test('an import makes them for what it brings in, proposes, and cascades what it changes', async () => {
    await begin(LINE);
    await save(sort('painting'));
    const rows = Array.from(
      { length: 30 },
      (_, at) => `Thing ${at},${at % 3 === 0 ? 'painting' : at % 3 === 1 ? 'tool' : 'textile'},Maker ${at}`,
    );
    await imported(['title,sort,maker', ...rows, 'Vase,painting,Brandt'].join('\n'));
    const lines = await all('line');
    expect(lines).toHaveLength(11);
    expect(lines.find(({ artefact }) => artefact === vase)).toMatchObject({ maker: 'Brandt' });
    expect((await all('artefact')).filter(({ line }) => line !== null)).toHaveLength(11);
    expect((await proposals()).open).toBe(10);
    await sound();
  });

  test('an edit of a list makes them, and takes away what no longer applies', async () => {
    await begin(LINE);
    const input = { workspace: workspace.key, type: 'artefact', search: '' };
    await editList({ ...input, ...by(), values: { sort: 'painting' }, expected: 3 });
    expect(await all('line')).toHaveLength(3);
    await editList({ ...input, ...by(), values: { sort: 'tool' }, expected: 3 });
    expect(await all('line')).toEqual([]);
    await sound();
  });
});

describe('a rehearsal over many records', () => {
  const lists = () => ({ type: 'artefact', search: '', ...by() });
  const untouched = async (before: readonly unknown[]) => {
    expect(await workspace.rows()).toEqual(before);
    expect((await proposals()).open).toBe(0);
    expect(await listMessages(await workspace.load())).toEqual([]);
  };

  test('of a list makes, takes away, proposes and writes to people, and nothing of it stays', async () => {
    await begin({ ...LINE, tells: TESTER.id });
    const bare = await workspace.rows();
    for (const sorts of ['painting', 'textile', 'paper'])
      expect((await rehearseListEdit({ ...lists(), values: { sort: sorts } })).changed).toBe(3);
    await untouched(bare);
    await editList({ ...lists(), values: { sort: 'painting' }, expected: 3 });
    const insured = await workspace.rows();
    expect((await rehearseListEdit({ ...lists(), values: { sort: 'tool' } })).changed).toBe(3);
    await untouched(insured);
    await sound();
  });

  test('of a file makes them, and nothing of it stays', async () => {
    await begin({ ...LINE, tells: TESTER.id });
    await save(sort('painting', robe));
    const before = await workspace.rows();
    const file =
      'title,sort,maker\nVase,painting,Brandt\nJug,textile,Curie\nMug,paper,Curie\nRobe,tool,Curie';
    const seenAs = await rehearseImport({
      ...{ ...by(), type: 'artefact', bytes: Readable.from([Buffer.from(file)]), plan: CSV },
    });
    expect([seenAs.read, seenAs.refused]).toEqual([4, 0]);
    await untouched(before);
  });
});

test('the person in charge is written to once for a run; what can’t be sent is tried again', async () => {
  await begin({ ...LINE, tells: TESTER.id });
  await save(sort('textile'), sort('textile', robe), sort('paper', scroll));
  const messages = async () => listMessages(await workspace.load());
  expect(await messages()).toEqual([
    expect.objectContaining({
      ...{ person: TESTER.name, sentAt: null },
      subject: '2 proposals wait for you, 1 thing was done for you to see.',
      body: '“Rule 1”: 2 to approve, 1 done already.\nThey stand in Today.',
    }),
  ]);
  const away = { name: 'away', send: () => Promise.reject(new Error('Nobody answers.')) };
  expect(await sendMessages(workspace.key, away)).toBe(0);
  expect(await messages()).toEqual([expect.objectContaining({ sentAt: null, failure: 'Nobody answers.' })]);
  const taken: string[] = [];
  const service = { name: 'here', send: ({ to }: Message) => Promise.resolve(void taken.push(to.name)) };
  // It is tried again a minute later.
  const { schema } = await workspace.load();
  await database().query(`UPDATE "${schema}"._message SET next_at = clock_timestamp()`);
  expect(await sendMessages(workspace.key, service)).toBe(1);
  expect(await sendMessages(workspace.key, service)).toBe(0);
  expect(taken).toEqual([TESTER.name]);
  expect((await messages())[0]).toMatchObject({ failure: null, sentAt: expect.any(String) as unknown });
});

test('a family knows what was made for its records', async () => {
  await begin(LINE);
  await save(sort('painting'));
  const family = await getFamily(await workspace.load(), 'artefact', vase);
  expect(family.made).toEqual([
    expect.objectContaining({ rule: workspace.rules[0], source: vase, type: 'line', isTakenBack: false }),
  ]);
});

test('an unknown rule can’t have anything made for it', async () => {
  await begin(LINE);
  const made = save({
    kind: 'create',
    type: 'line',
    values: { title: 'X' },
    madeFor: { rule: newId(), source: vase },
  });
  expect(await refusal(made)).toMatchObject({ parts: [{ code: 'edit.madeFor' }] });
});

test('a bundle with records brings along what was made for which: none is made twice', async () => {
  await begin(TREATMENT, { ...LINE, making: 'directly' });
  await save(damage, sort('painting', robe));
  await save({ kind: 'delete', type: 'inspection', id: filmed });
  let text = '';
  for await (const piece of exportBundle(workspace.key, true)) text += piece;
  const { key } = await importBundle(text, `Copy ${workspace.key}`, TESTER.id);
  try {
    const there = async (type: string) =>
      (await workspace.rowsOf(key)).filter((row) => row.type === type && !row.deleted);
    expect((await there('treatment')).length + (await there('line')).length).toBe(2);
    const saved = (...edits: WireEdit[]) => saveEdits({ workspace: key, person: TESTER.id, edits });
    await saved(edit('inspection', seen, { outcome: 'sound' }));
    await saved(damage);
    expect(await there('treatment')).toHaveLength(1);
    await saved(edit('artefact', robe, { maker: 'Curie' }));
    expect((await there('line'))[0]!.values.maker).toBe('Curie');
    await saved(edit('artefact', robe, { sort: 'tool' }));
    expect(await there('line')).toEqual([]);
    let again = '';
    for await (const piece of exportBundle(workspace.key, true)) again += piece;
    expect(again).toBe(text);
  } finally {
    await removeWorkspace(key);
  }
  const bundle = JSON.parse(text) as Bundle;
  const records = bundle.records!.map((record) =>
    record.type === 'treatment'
      ? { ...record, madeFor: [{ rule: bundle.rules[0]!.id, source: filmed }] }
      : record,
  );
  const refused = await refusal(importBundle(JSON.stringify({ ...bundle, records }), 'Wrong', TESTER.id));
  expect(refused.message).toContain('the bundle has no r');
});
