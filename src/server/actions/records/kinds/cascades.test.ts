import type { Cascade, Create, Rule } from '@/core/rules';
import { fieldOf, rollUp, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { numbered } from '@/core/testing/rule-desk';
import { cascade, CASCADES, down, fixed, from, touring, when } from '@/core/testing/touring';
import type { WireEdit } from '@/core/engine';
import { disconnect } from '@/server/database/connection';
import { keepPaces } from '@/server/jobs/slower-paces';
import { getDependants } from '@/server/queries/records/dependants';
import { getHistory } from '@/server/queries/ledger/history';
import { getRecord } from '@/server/queries/records/records';
import { getRun } from '@/server/queries/ledger/runs';
import { edit } from '@/server/testing/edits';
import { flawsIn } from '@/server/testing/flaws';
import { ledgerFlaws } from '@/server/testing/ledger';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { editList, rehearseListEdit } from '@/server/actions/records/edit-list';
import { importRecords } from '@/server/actions/imports/import-records';
import { previewLive } from '@/server/actions/rules/preview-live';
import { rehearseOnData } from '@/server/actions/records/rehearse';
import { saveEdits } from '@/server/actions/records/save-edits';
import { rehearseUndo, undoRun } from '@/server/undo/undo-run';
import { undone } from '@/server/testing/undone';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';

const model = touring();
const [silk, salt] = [uuid('11'), uuid('12')];
const [robes, pots, kites] = [uuid('21'), uuid('22'), uuid('23')];
const kestrel = uuid('1');
const ROWS = [
  rowOf(model, 'institution', kestrel, {}),
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', coordinator: 'Farid', climate: 'Dry' }),
  rowOf(model, 'exhibition', salt, {
    title: 'Salt',
    coordinator: 'Elsie',
    climate: 'Cool',
    languages: ['welsh'],
  }),
  rowOf(model, 'loan', robes, { exhibition: silk, lender: kestrel, stage: 'agreed', coordinator: 'Farid' }),
  rowOf(model, 'loan', pots, {
    exhibition: silk,
    lender: kestrel,
    stage: 'declined',
    coordinator: 'Somebody',
  }),
  rowOf(model, 'loan', kites, { exhibition: salt, stage: 'agreed', dueBack: '2027-05-01' }),
];
let workspace: TestWorkspace;
const begin = async (cascades: readonly Cascade[], rows = ROWS, more: readonly Rule[] = []) => {
  const rules = [...numbered(cascades), ...more];
  workspace = await testWorkspace({ model, rows, rules });
};
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const save = (...edits: WireEdit[]) => saveEdits({ ...by(), edits });
const valueOf = async (type: string, id: string, field: string) =>
  (await getRecord(await workspace.load(), type, id)).record.values[field];
const loans = async (field: string) =>
  Promise.all([robes, pots, kites].map((id) => valueOf('loan', id, field)));
const sound = async () => expect(await flawsIn(workspace)).toEqual([]);

test('a save cascades to all children, with its ripple, in the ledger with rule and person, and can be undone', async () => {
  await begin([CASCADES.coordinator, CASCADES.before]);
  const { run, ripple } = await save(edit('exhibition', silk, { coordinator: 'Priya' }));
  expect(
    ripple.waves[1]!.changes.map(({ fieldName, after }) => `${fieldName}: ${after!.text}`).sort(),
  ).toEqual(['Coordinator before: Farid', 'Coordinator: Priya', 'Coordinator: Priya']);
  expect(await loans('coordinator')).toEqual(['Priya', 'Priya', null]);
  const { entries } = await getHistory(await workspace.load(), { type: 'loan', id: pots, limit: 5 });
  expect(entries[0]).toMatchObject({
    person: TESTER.name,
    changes: [{ rule: { name: 'Rule 1', kind: 'cascade' }, causes: ['Coordinator of Rivers of Silk'] }],
  });
  await sound();
  await undoRun({ ...by(), run: run! });
  expect(await loans('coordinator')).toEqual(['Farid', 'Somebody', null]);
  expect(await valueOf('exhibition', silk, 'coordinatorBefore')).toBeNull();
});

test('kept in step: live it fills, people are refused by name where it applies, and the record says where', async () => {
  await begin([CASCADES.climate]);
  expect(await loans('climate')).toEqual(['Dry', null, 'Cool']);
  const claimed = async (id: string) => (await getRecord(await workspace.load(), 'loan', id)).claimed;
  expect([await claimed(robes), await claimed(pots)]).toEqual([['climate'], []]);
  const refused = await refusal(save(edit('loan', robes, { climate: 'Mine' })));
  expect(refused.message).toContain('kept in step here by the rule “Rule 1”');
  await save(edit('loan', pots, { climate: 'Mine' }), edit('exhibition', silk, { climate: 'Cold' }));
  expect(await loans('climate')).toEqual(['Cold', 'Mine', 'Cool']);
  await sound();
  await changeState({ ...by(), id: workspace.rules[0]!, state: 'paused' });
  await save(edit('loan', robes, { climate: 'Mine' }));
  expect(await loans('climate')).toEqual(['Mine', 'Mine', 'Cool']);
});

test('an edit of a whole list cascades, and takes part in what the rehearsal shows', async () => {
  await begin([CASCADES.coordinator, CASCADES.before, CASCADES.climate]);
  const all = { type: 'exhibition', values: { coordinator: 'Priya', climate: 'Cold' } };
  const rehearsed = await rehearseListEdit({ ...by(), ...all });
  expect(rehearsed.effects.map(({ fieldName, records }) => `${fieldName}: ${records}`).sort()).toEqual([
    'Climate requirement: 2',
    'Coordinator before: 2',
    'Coordinator: 3',
  ]);
  expect(await loans('coordinator')).toEqual(['Farid', 'Somebody', null]);
  const { run } = await editList({ ...by(), ...all, expected: 2 });
  expect(await loans('coordinator')).toEqual(['Priya', 'Priya', 'Priya']);
  expect(await loans('climate')).toEqual(['Cold', null, 'Cold']);
  expect(await valueOf('exhibition', salt, 'coordinatorBefore')).toBe('Elsie');
  await sound();
  await save(edit('loan', robes, { coordinator: 'Since' }));
  expect(undone(await undoRun({ ...by(), run: run! }))).toEqual({
    ...{ written: 10, deleted: 0, restored: 0, left: 1 },
  });
  expect(await loans('coordinator')).toEqual(['Since', 'Somebody', null]);
  expect(await loans('climate')).toEqual(['Dry', null, 'Cool']);
  expect(await valueOf('exhibition', salt, 'coordinatorBefore')).toBeNull();
  await sound();
});

test('an import starts new records with their parent’s values; what a cell says stands, and kept fields are refused by name', async () => {
  await begin([CASCADES.starts, CASCADES.climate]);
  const records = [
    { title: 'One', exhibition: salt },
    { title: 'Two', exhibition: salt, coordinator: 'Mine' },
  ];
  await importRecords({ ...by(), type: 'loan', records });
  const made = (await workspace.rows()).filter(({ values }) =>
    ['One', 'Two'].includes(values.title as string),
  );
  const sorted = made.sort((a, b) => (a.values.title! < b.values.title! ? -1 : 1));
  expect(sorted.map(({ values }) => [values.coordinator, values.climate])).toEqual([
    ['Elsie', 'Cool'],
    ['Mine', 'Cool'],
  ]);
  expect(sorted[0]!.values.languages).toEqual(['welsh']);
  const wrong = [{ title: 'Three', exhibition: salt, climate: 'Other' }];
  const refused = await refusal(importRecords({ ...by(), type: 'loan', records: wrong }));
  expect(refused.message).toContain(
    '1 record has a value for Climate requirement that the rule “Rule 2” keeps in step',
  );
  await sound();
});

test('a rehearsal on the real data shows what would be cascaded, and saves nothing', async () => {
  await begin([CASCADES.coordinator, CASCADES.dealings]);
  const { ripple } = await rehearseOnData({
    ...{ workspace: workspace.key, drafts: [] },
    edits: [edit('exhibition', silk, { coordinator: 'Priya' }), edit('loan', robes, { stage: 'returned' })],
  });
  expect(ripple.waves[1]!.changes).toHaveLength(3);
  expect(await loans('coordinator')).toEqual(['Farid', 'Somebody', null]);
});

test('what may follow from a record names those that may take something from it', async () => {
  await begin([CASCADES.coordinator, CASCADES.instruction]);
  const workspaceNow = await workspace.load();
  const followers = await getDependants(workspaceNow, 'exhibition', silk);
  expect(followers.map(({ fieldName, count }) => [fieldName, count])).toContainEqual(['Coordinator', 2]);
  const beside = await getDependants(workspaceNow, 'loan', robes);
  expect(beside).toMatchObject([{ fieldName: 'Courier instruction', targets: [{ id: pots }] }]);
});

test('many writers at once: no sibling is left with another’s instruction, and no coordinator behind', async () => {
  const more = Array.from({ length: 6 }, (_, at) =>
    rowOf(model, 'loan', uuid(`3${at}`), { exhibition: silk, lender: kestrel }),
  );
  await begin([CASCADES.coordinator, CASCADES.instruction, CASCADES.starts], [...ROWS, ...more]);
  const ids = [robes, pots, ...more.map(({ id }) => id)];
  const made: string[] = [];
  await Promise.all(
    Array.from({ length: 8 }, async (_, at) => {
      for (let turn = 0; turn < 6; turn += 1) {
        await save(edit('loan', ids[(at + turn) % ids.length]!, { instruction: `${at} ${turn}` }));
        if (at === 0) await save(edit('exhibition', silk, { coordinator: `Person ${turn}` }));
        if (at === 1)
          made.push(
            ...(
              await save({
                kind: 'create',
                type: 'loan',
                values: { title: 'New', exhibition: silk, lender: kestrel },
              })
            ).ids,
          );
      }
    }),
  );
  const all = (await workspace.rows()).filter(
    ({ type, values }) => type === 'loan' && values.exhibition === silk,
  );
  const coordinator = await valueOf('exhibition', silk, 'coordinator');
  expect(new Set(all.map(({ values }) => values.coordinator))).toEqual(new Set([coordinator]));
  // A loan that was made after the last instruction has none.
  const instructions = new Set(
    all.filter(({ id }) => !made.includes(id)).map(({ values }) => values.instruction),
  );
  expect(instructions.size).toBe(1);
  expect(await ledgerFlaws(workspace)).toEqual([]);
});

test('12,000 children of one parent take a value in one run, as a set, with their ledger and all that follows', async () => {
  const counted = rollUp({
    ...{ type: 'exhibition', target: 'artefactCount', aggregate: 'count', whenNone: '0' },
    route: [{ direction: 'down', type: 'loan', link: 'exhibition' }],
    condition: {
      ...{ kind: 'compare', operator: '=', left: fieldOf('coordinator') },
      right: { kind: 'constant', value: 'Priya' },
    },
  });
  await begin([CASCADES.coordinator, CASCADES.before], ROWS, [ruleOf(counted, 9, 'Counted')]);
  const records = Array.from({ length: 12_000 }, (_, at) => ({ title: `Loan ${at}`, exhibition: salt }));
  await importRecords({ ...by(), type: 'loan', records });
  const { run, ripple } = await save(
    edit('exhibition', salt, { coordinator: 'Priya' }),
    edit('loan', kites, { coordinator: 'Mine' }),
  );
  expect(ripple.waves[1]!.changes.map(({ fieldName }) => fieldName)).toEqual(['Coordinator before']);
  expect(ripple.many).toMatchObject([
    { fieldName: 'Coordinator', plural: 'Loans', records: 12_000, rule: { name: 'Rule 1', kind: 'cascade' } },
    { fieldName: 'Artefact count', records: 1 },
  ]);
  expect(await loans('coordinator')).toEqual(['Farid', 'Somebody', 'Mine']);
  expect(await valueOf('exhibition', salt, 'artefactCount')).toBe('12000');
  const seen = await getRun(await workspace.load(), run!);
  expect(seen).toMatchObject({ kind: 'save', person: TESTER.name });
  await sound();
  // Nothing to change: nothing is written.
  const again = await save(edit('exhibition', salt, { coordinator: 'Priya' }));
  expect(again).toMatchObject({ run: null, ripple: { many: [] } });
});

test('as a set, too, only what the rule says is overwritten, and moved amounts are written with their kinds', async () => {
  const only = { ...CASCADES.coordinator, only: 'oldValue' } as const;
  await begin([{ ...only, assignments: [...only.assignments, from('languages')] }]);
  const records = Array.from({ length: 1_500 }, (_, at) => ({
    ...{ title: `Loan ${at}`, exhibition: salt },
    ...(at % 3 === 0 ? { coordinator: 'Own' } : { coordinator: 'Elsie', languages: ['welsh'] }),
  }));
  await importRecords({ ...by(), type: 'loan', records });
  const { ripple } = await save(edit('exhibition', salt, { coordinator: 'Priya', languages: ['english'] }));
  expect(ripple.many.map(({ fieldName, records: written }) => [fieldName, written])).toEqual([
    ['Coordinator', 1_000],
    ['Label languages', 1_000],
  ]);
  const all = (await workspace.rows()).filter(
    ({ type, values }) => type === 'loan' && values.exhibition === salt,
  );
  expect(all.filter(({ values }) => values.coordinator === 'Priya')).toHaveLength(1_000);
  expect(all.filter(({ values }) => values.languages === null)).toHaveLength(501);
  await sound();
});

test('a text that is too long is cut where it fits, never within a character, record by record as well as in a set', async () => {
  const text = { kind: 'text', text: 'a{coordinator}{coordinator}' } as const;
  await begin([
    cascade({
      ...{ type: 'exhibition', route: [down('loan', 'exhibition')] },
      moment: when({ kind: 'changed', field: 'coordinator' }),
      assignments: [{ target: 'climate', value: text }],
    }),
  ]);
  const records = Array.from({ length: 1_500 }, (_, at) => ({ title: `Loan ${at}`, exhibition: salt }));
  await importRecords({ ...by(), type: 'loan', records });
  // Characters of two UTF-16 units each: the 500th unit is the first half of one.
  const long = '𝒲'.repeat(200);
  const cut = `a${long}${'𝒲'.repeat(49)}`;
  expect([cut.length, cut.isWellFormed()]).toEqual([499, true]);
  const longer = `${'é'.repeat(2)}${long}`;
  for (const [coordinator, then] of [
    [long, cut],
    [longer, `a${longer}éé${'𝒲'.repeat(47)}`],
    ['w'.repeat(400), `a${'w'.repeat(499)}`],
  ] as const) {
    await save(edit('exhibition', silk, { coordinator }));
    expect((await loans('climate')).slice(0, 2)).toEqual([then, then]);
    const { ripple } = await save(edit('exhibition', salt, { coordinator }));
    expect(ripple.many).toHaveLength(1);
    const all = (await workspace.rows()).filter(
      ({ type, values }) => type === 'loan' && values.exhibition === salt,
    );
    expect(new Set(all.map(({ values }) => values.climate))).toEqual(new Set([then]));
  }
});

test('of two rules on one field the first stands, in a save as in the edit of a list', async () => {
  const site = cascade({
    ...{ type: 'exhibition', route: CASCADES.coordinator.route },
    assignments: [fixed('coordinator', 'On site')],
    moment: when({ kind: 'became', field: 'phase', value: 'open' }),
  });
  await begin([{ ...CASCADES.coordinator, precedence: 1 }, site]);
  const { ripple } = await save(edit('exhibition', silk, { coordinator: 'Priya', phase: 'open' }));
  expect(await loans('coordinator')).toEqual(['Priya', 'Priya', null]);
  expect(ripple.overruled.map(({ value, by }) => [value.text, by?.name])).toEqual([
    ['On site', 'Rule 1'],
    ['On site', 'Rule 1'],
  ]);
  await save(edit('exhibition', silk, { phase: 'closed' }));
  const values = { coordinator: 'Zoe', phase: 'open' };
  await editList({ ...by(), type: 'exhibition', values, expected: 2 });
  expect(await loans('coordinator')).toEqual(['Zoe', 'Zoe', 'Zoe']);
  await sound();
});

test('all the way down a link to itself, in a save as in the edit of a list', async () => {
  const [trust, museum, wing] = [uuid('71'), uuid('72'), uuid('73')];
  const parts: [string, string | null][] = [
    [trust, null],
    [museum, trust],
    [wing, museum],
  ];
  await begin(
    [
      cascade({
        ...{ type: 'institution', route: [down('institution', 'partOf')], isAllTheWay: true },
        ...{ assignments: [from('dealings')], moment: when({ kind: 'changed', field: 'dealings' }) },
      }),
    ],
    parts.map(([id, partOf]) =>
      rowOf(model, 'institution', id, { title: `I ${id}`, partOf, dealings: 'none' }),
    ),
  );
  await save(edit('institution', trust, { dealings: 'active' }));
  expect(await valueOf('institution', wing, 'dealings')).toBe('active');
  const list = { ...by(), type: 'institution', search: museum, values: { dealings: 'past' } };
  await editList({ ...list, expected: 1 });
  const all = await Promise.all(parts.map(([id]) => valueOf('institution', id, 'dealings')));
  expect(all).toEqual(['active', 'past', 'past']);
  await sound();
});

test('taken live it may act at once on the records that match already, and says before what it would change', async () => {
  const later = rollUp({
    ...{ type: 'exhibition', target: 'artefactCount', aggregate: 'countDistinct', pace: 'soonAfter' },
    ...{ route: [{ direction: 'down', type: 'loan', link: 'exhibition' }], value: fieldOf('coordinator') },
  });
  await begin([], ROWS, [ruleOf(later, 9)]);
  const make = (definition: Cascade, name: string) => createRule({ ...by(), name, definition });
  const id = await make(
    { ...CASCADES.coordinator, assignments: [from('coordinator'), from('languages')] },
    'Cascades',
  );
  const { effects } = await previewLive(workspace.key, id);
  expect(effects.map(({ fieldName, changed, total }) => [fieldName, changed, total])).toEqual([
    ['Coordinator', 2, 3],
    ['Label languages', 1, 3],
    ['Artefact count', 2, 2],
  ]);
  expect(effects[0]!.largest.map(({ after }) => after.text).sort()).toEqual(['Elsie', 'Farid']);
  expect(await loans('coordinator')).toEqual(['Farid', 'Somebody', null]);
  const { written } = await changeState({ ...by(), id, state: 'live', actsOnMatching: true });
  expect(written.slice(0, 2).map(({ records }) => records)).toEqual([2, 1]);
  expect(await loans('coordinator')).toEqual(['Farid', 'Farid', 'Elsie']);
  await keepPaces(workspace.key, new Date());
  await sound();

  // Only what is open now counts as having become so.
  const open = await make(
    { ...CASCADES.note, route: [], assignments: [fixed('climate', 'On show')] },
    'Opens',
  );
  await save(edit('exhibition', silk, { phase: 'open' }));
  await changeState({ ...by(), id: open, state: 'live', actsOnMatching: true });
  expect(await valueOf('exhibition', silk, 'climate')).toBe('On show');
  expect(await valueOf('exhibition', salt, 'climate')).toBe('Cool');

  // What was before, and what came newly under something, can't be told of records as they stand.
  for (const later of [CASCADES.before, CASCADES.newest])
    expect((await previewLive(workspace.key, await make(later, 'Later'))).effects).toEqual([]);
  await sound();
});

test('kept in step all the way down: filled from the top when it goes live, and what is moved takes along what lies beneath', async () => {
  const ids = ['71', '72', '73', '74', '75'].map(uuid);
  const [trust, museum, wing, room, other] = ids as [string, string, string, string, string];
  const rows: [string, string | null, string | null][] = [
    [trust, null, 'active'],
    [museum, trust, 'none'],
    [wing, museum, null],
    [room, wing, 'past'],
    [other, null, 'talks'],
  ];
  await begin(
    [],
    rows.map(([id, partOf, dealings]) =>
      rowOf(model, 'institution', id, { title: `I ${id}`, partOf, dealings }),
    ),
  );
  const definition = cascade({
    ...{ type: 'institution', route: [down('institution', 'partOf')], moment: 'inStep' },
    assignments: [from('dealings')],
  });
  const id = await createRule({ ...by(), name: 'All the way', definition });
  const [effect] = (await previewLive(workspace.key, id)).effects;
  expect([effect!.changed, effect!.largest.map(({ after }) => after.text)]).toEqual([
    3,
    ['Active', 'Active', 'Active'],
  ]);
  await changeState({ ...by(), id, state: 'live' });
  const all = () => Promise.all(ids.map((one) => valueOf('institution', one, 'dealings')));
  expect(await all()).toEqual(['active', 'active', 'active', 'active', 'talks']);
  await save(edit('institution', wing, { partOf: other }), edit('institution', trust, { dealings: 'past' }));
  expect(await all()).toEqual(['past', 'past', 'talks', 'talks', 'talks']);
  expect((await refusal(save(edit('institution', room, { dealings: 'none' })))).message).toContain(
    'kept in step',
  );
  await editList({ ...by(), type: 'institution', search: other, values: { dealings: 'none' }, expected: 1 });
  expect(await all()).toEqual(['past', 'past', 'none', 'none', 'none']);
  await sound();
});

test('what very many take goes on in turn, as after an import, and such a save is undone as a set', async () => {
  const many = Array.from({ length: 5_200 }, (_, at) =>
    rowOf(model, 'loan', uuid(String(30_000 + at)), {
      ...{ exhibition: silk, lender: kestrel, coordinator: at % 2 ? 'Farid' : null, stage: 'agreed' },
    }),
  );
  const ask = cascade({
    ...{ type: 'loan', route: [], moment: when({ kind: 'changed', field: 'coordinator' }) },
    assignments: [{ target: 'instruction', value: { kind: 'text', text: 'Ask {coordinator}' } }],
  });
  const copies: Create = {
    ...{ kind: 'create', type: 'loan', makes: 'courier', pace: 'withTheSave', each: 'once' },
    condition: {
      ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: [], field: 'instruction' } },
      right: { kind: 'constant', value: 'Ask Priya' },
    },
    ...{
      back: null,
      forward: null,
      making: 'directly',
      following: 'not',
      returning: 'not',
      afterwards: 'left',
    },
    assignments: [{ target: 'title', value: { kind: 'text', text: 'For {title}' } }],
  };
  await begin([CASCADES.coordinator, ask], [...ROWS, ...many]);
  const loaned = 5_202;
  const { run, ripple } = await save(edit('exhibition', silk, { coordinator: 'Priya' }));
  expect(ripple.many.map(({ fieldName, records }) => [fieldName, records])).toEqual([
    ['Coordinator', loaned],
    ['Courier instruction', loaned],
  ]);
  const asked = async () =>
    (await workspace.rows()).filter(({ values }) => values.instruction === 'Ask Priya').length;
  expect(await asked()).toBe(loaned);
  await sound();

  await save(edit('loan', robes, { coordinator: 'Since' }));
  const told = await rehearseUndo(await workspace.load(), run!);
  expect(undone(told)).toEqual({ written: 2 * loaned - 1, deleted: 0, restored: 0, left: 2 });
  const done = await undoRun({ ...by(), run: run! });
  expect({ ...done, undoneBy: null }).toEqual(told);
  expect(await asked()).toBe(0);
  expect(await loans('coordinator')).toEqual(['Since', 'Somebody', null]);
  expect(await valueOf('exhibition', silk, 'coordinator')).toBe('Farid');
  await sound();

  const id = await createRule({ ...by(), name: 'Copies', definition: copies });
  await changeState({ ...by(), id, state: 'live' });
  await save(edit('exhibition', silk, { coordinator: 'Priya' }));
  expect((await workspace.rows()).filter(({ type }) => type === 'courier')).toHaveLength(loaned);
  await sound();
});

test('a text names the record across which it goes, and a rehearsal tells the same', async () => {
  const [mia, lead, drive] = [uuid('31'), uuid('41'), uuid('43')];
  await begin(
    [CASCADES.told],
    [
      ...ROWS,
      rowOf(model, 'courier', mia, { title: 'Mia' }),
      ...[drive, lead].map((id) =>
        rowOf(model, 'assignment', id, {
          ...{ title: id, courier: mia, exhibition: silk, note: id === lead ? 'leads' : 'drives' },
        }),
      ),
    ],
  );
  const opened = edit('exhibition', silk, { phase: 'open' });
  const { ripple } = await rehearseOnData({ ...by(), edits: [opened], drafts: [] });
  expect(ripple.waves.flatMap(({ changes }) => changes.map(({ after }) => after?.text))).toContain(
    'With Rivers of Silk (leads)',
  );
  await save(opened);
  expect(await valueOf('courier', mia, 'told')).toBe('With Rivers of Silk (leads)');
});
