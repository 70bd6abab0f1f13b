import { PLAIN_FORMS } from '@/core/values';
import { type ImportPlan } from '@/core/intake';
import { ALL_RULES, galleries, gbp, rowOf, uuid } from '@/core/testing/galleries';
import { readModel } from '@/core/model';
import { disconnect } from '@/server/database/connection';
import { getHistory } from '@/server/queries/ledger/history';
import { driftIn } from '@/server/testing/drift';
import { ledgerFlaws } from '@/server/testing/ledger';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { importFile, rehearseImport } from './import-file';
import { saveEdits } from '@/server/actions/records/save-edits';
import { changeState } from '@/server/actions/rules/change-state';
import { leftWhy, undone } from '@/server/testing/undone';
import { rehearseUndo, undoRun } from '@/server/undo/undo-run';

const base = galleries();
const model = readModel({
  types: base.types.map((type) => ({
    ...type,
    fields: type.fields.map((field) =>
      type.key === 'artefact' && field.key === 'weight'
        ? { ...field, default: '1.000' }
        : type.key === 'exhibition' && field.key === 'title'
          ? { ...field, unique: true }
          : field,
    ),
  })),
});
const [museum, silk, maps, loan, other] = ['1', '11', '12', '21', '22'].map(uuid) as [
  ...[string, string, string, string, string],
];
let workspace: TestWorkspace;

beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: ALL_RULES },
    rows: [
      rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', venue: museum, open: true }),
      rowOf(model, 'exhibition', maps, { title: 'The Mapmaker’s Table' }),
      rowOf(model, 'loan', loan, {
        ...{ title: 'Robes', exhibition: silk, stage: 'agreed', insuredValue: gbp(100) },
      }),
      rowOf(model, 'loan', other, { title: 'Pots', exhibition: silk, stage: 'agreed', insuredValue: gbp(7) }),
    ],
  });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const LOANS: ImportPlan = {
  ...{ format: 'csv', encoding: 'utf-8', separator: ',', forms: PLAIN_FORMS },
  columns: [
    { column: 'Title', field: 'title' },
    { column: 'Exhibition', field: 'exhibition' },
    { column: 'Stage', field: 'stage' },
    { column: 'Insured value', field: 'insuredValue' },
  ],
  ...{ key: ['title'], refused: 'stop' },
};

async function* bytesOf(text: string | Uint8Array): AsyncGenerator<Uint8Array> {
  const bytes = typeof text === 'string' ? Buffer.from(text) : text;
  for (let at = 0; at < bytes.length; at += 7) yield bytes.subarray(at, at + 7);
}
const given = (file: string | Uint8Array, plan: Partial<ImportPlan> = {}, type = 'loan') => ({
  ...{ workspace: workspace.key, person: TESTER.id, type, plan: { ...LOANS, ...plan } },
  bytes: bytesOf(file),
});
const rehearse = (...of: Parameters<typeof given>) => rehearseImport(given(...of));
const save = (...of: Parameters<typeof given>) => importFile(given(...of));
const row = async (id: string) => (await workspace.rows()).find((one) => one.id === id)!;
const totalOf = async (id: string) => (await row(id)).values.insuredTotal;

const FILE = [
  'Title,Exhibition,Stage,Insured value',
  'Robes,The Mapmaker’s Table,agreed,"1,250.50"',
  'Pots,Rivers of Silk,Agreed,7.00',
  '"Fans, two",The Mapmaker’s Table,Agreed,GBP 10',
].join('\r\n');

test('a rehearsal tells what is made, changed and the same, with the ripple, and saves nothing', async () => {
  const before = await workspace.rows();
  const view = await rehearse(FILE);
  expect(view).toMatchObject({ read: 3, created: 1, changed: 1, same: 1, refused: 0, run: null });
  expect(view.samples.created).toEqual([{ line: 4, title: 'Fans, two' }]);
  expect(view.samples.changed[0]).toMatchObject({
    ...{ line: 2, id: loan, title: 'Robes' },
    changes: [
      { name: 'Exhibition', before: { text: 'Rivers of Silk' }, after: { text: 'The Mapmaker’s Table' } },
      { name: 'Insured value', before: { text: '100.00 GBP' }, after: { text: '1,250.50 GBP' } },
    ],
  });
  const total = view.effects.find(({ fieldName }) => fieldName === 'Insured total')!;
  expect(total.samples.map(({ title, before, after }) => [title, before.text, after.text])).toEqual([
    ['Rivers of Silk', '107.00 GBP', '7.00 GBP'],
    ['The Mapmaker’s Table', '0.00 GBP', '1,260.50 GBP'],
  ]);
  expect(await workspace.rows()).toEqual(before);
});

test('saving does what the rehearsal told, as one run with its history; a second time nothing is left to do', async () => {
  const { run, ...told } = await rehearse(FILE);
  const { run: saved, ...done } = await save(FILE);
  expect([done, run]).toEqual([told, null]);
  expect([await totalOf(silk), await totalOf(maps)]).toEqual([gbp(7), gbp('1260.50')]);
  const { entries } = await getHistory(await workspace.load(), { type: 'loan', id: loan });
  expect(entries[0]).toMatchObject({ run: saved, kind: 'import' });
  expect(await ledgerFlaws(workspace)).toEqual([]);
  expect(await driftIn(workspace)).toEqual([]);
  expect(await refusal(save(FILE))).toMatchObject({ code: 'import.nothing' });
});

test('people save while a file comes in; a rule that is paused meanwhile refuses the import, since what it would do is another', async () => {
  async function* slowly(between: () => Promise<unknown>): AsyncGenerator<Uint8Array> {
    const [head, ...rest] = FILE.split('\n');
    yield Buffer.from(`${head}\n`);
    await between();
    yield Buffer.from(rest.join('\n'));
  }
  const edit = { kind: 'edit', type: 'loan', id: other, values: { dueBack: '2027-01-01' } } as const;
  const saving = () => saveEdits({ workspace: workspace.key, person: TESTER.id, edits: [edit] });
  const done = await importFile({ ...given(FILE), bytes: slowly(saving) });
  expect(done.run).not.toBeNull();
  expect((await row(other)).values.dueBack).toBe('2027-01-01');
  const pause = () =>
    changeState({
      ...{ workspace: workspace.key, person: TESTER.id, id: workspace.rules[0]! },
      state: 'paused',
    });
  const file = FILE.replaceAll('Robes', 'Robes anew');
  const refused = await refusal(importFile({ ...given(file), bytes: slowly(pause) }));
  expect(refused).toMatchObject({ code: 'change.meanwhile' });
  expect((await workspace.rows()).filter(({ values }) => values.title === 'Robes anew')).toEqual([]);
  expect(await driftIn(workspace)).toEqual([]);
});

test('rows that can’t be taken in are told by line and column; nothing or all others are saved, as the plan says', async () => {
  const file = [
    'Title,Exhibition,Stage,Insured value',
    'Robes,Nowhere,Agreed,1',
    'Pots,Rivers of Silk,Lost,2',
    ',Rivers of Silk,Agreed,3',
    'New,Rivers of Silk,Agreed,4',
    'New,Rivers of Silk,Agreed,5',
    'Short,Rivers of Silk',
    'Much,Rivers of Silk,Agreed,1.234',
  ].join('\n');
  const view = await rehearse(file);
  expect(view).toMatchObject({ read: 7, created: 1, refused: 6 });
  expect(view.refusals.map(({ line, column, message }) => [line, column, message.slice(0, 40)])).toEqual([
    [2, 'Exhibition', 'Exhibition: there is no Exhibition whose'],
    [3, 'Stage', expect.stringMatching(/^Stage: Expected one of/)],
    [4, 'title', 'Title is empty, so it can’t be told whic'],
    [6, 'title', 'Line 5 has the same Title. Leave one of '],
    [7, '', 'The row has 2 values, and the heading 4.'],
    [8, 'Insured value', expect.stringMatching(/^Insured value: Expected a number with/)],
  ]);
  const before = await workspace.rows();
  expect(await refusal(save(file))).toMatchObject({
    status: 422,
    code: 'import.refused',
    data: { refused: 6 },
  });
  expect(await workspace.rows()).toEqual(before);
  await save(file, { refused: 'leaveOut' });
  expect(await totalOf(silk)).toEqual(gbp(111));
});

test('a hierarchy comes in by name in any order; a loop is refused with its chain', async () => {
  const plan: Partial<ImportPlan> = {
    columns: [
      { column: 'Name', field: 'title' },
      { column: 'Part of', field: 'partOf' },
    ],
  };
  await save('Name,Part of\nWest wing,North house\nNorth house,Kestrel Museum\n', plan, 'institution');
  const rows = await workspace.rows();
  const named = (title: string) => rows.find(({ values }) => values.title === title)!;
  expect(named('West wing').values.partOf).toBe(named('North house').id);
  expect(named('North house').values.partOf).toBe(museum);
  const loop = await rehearse('Name,Part of\nKestrel Museum,West wing\n', plan, 'institution');
  expect(loop.refusals).toEqual([
    {
      ...{ line: 2, column: 'Part of' },
      message:
        'Part of: it would lie within itself, by way of “West wing” → “North house” → “Kestrel Museum”. Correct the chain.',
    },
  ]);
});

test('a row that is left out keeps what it would have given up: others can’t hang under it, nor take its value', async () => {
  const leaveOut = { refused: 'leaveOut' as const };
  const partOf = {
    columns: [
      { column: 'Name', field: 'title' },
      { column: 'Part of', field: 'partOf' },
    ],
  };
  await save('Name,Part of\nWest wing,Kestrel Museum\n', partOf, 'institution');
  const swapped = 'Name,Part of\nKestrel Museum,West wing\nWest wing,West wing\n';
  const loops = await rehearse(swapped, { ...partOf, ...leaveOut }, 'institution');
  expect(loops).toMatchObject({ changed: 0, refused: 2 });
  const byId = {
    columns: [
      { column: 'Id', field: 'id' },
      { column: 'Title', field: 'title' },
      { column: 'Venue', field: 'venue', foundBy: 'id' },
    ],
    key: ['id'],
  };
  const taken = `Id,Title,Venue\n${silk},Silk,${uuid('99')}\n${maps},Rivers of Silk,${museum}\n`;
  const values = await rehearse(taken, { ...byId, ...leaveOut }, 'exhibition');
  expect(values).toMatchObject({ changed: 0, refused: 2 });
  expect(values.refusals[1]?.message).toMatch(/“Rivers of Silk” stands in another Exhibition already/);
});

test('a link is found by several columns together, one of them by the title of what the other’s link names', async () => {
  const twin = { title: 'Robes', exhibition: maps, stage: 'agreed' };
  await saveEdits({
    ...{ workspace: workspace.key, person: TESTER.id },
    edits: [{ kind: 'create', type: 'loan', id: uuid('29'), values: twin }],
  });
  const artefacts: Partial<ImportPlan> = {
    columns: [
      { column: 'Title', field: 'title' },
      { column: 'Loan', field: 'loan' },
      { column: 'Exhibition', field: 'loan', foundBy: 'exhibition' },
    ],
    ...{ key: [], refused: 'leaveOut' },
  };
  const file = [
    'Title,Loan,Exhibition',
    'Fan,Robes,Rivers of Silk',
    'Bowl,Robes,The Mapmaker’s Table',
    'Cup,,',
    'Half,Robes,',
    'None,Robes,Nowhere',
  ].join('\n');
  const view = await rehearse(file, artefacts, 'artefact');
  expect(view).toMatchObject({ created: 3, refused: 2 });
  expect(view.refusals.map(({ line, message }) => [line, message])).toEqual([
    [
      5,
      'Loan: it is found by Title and Exhibition together, and not all of them are filled in. Fill in all, or none.',
    ],
    [
      6,
      'Loan: there is no Loan whose Title is “Robes” and Exhibition is “Nowhere”. Correct it, or make that one first.',
    ],
  ]);
  await save(file, artefacts, 'artefact');
  const links = (await workspace.rows())
    .filter(({ type }) => type === 'artefact')
    .map(({ values }) => [values.title, values.loan]);
  expect(new Map(links as [string, string][])).toEqual(
    new Map([
      ['Fan', loan],
      ['Bowl', uuid('29')],
      ['Cup', null],
    ]),
  );
  const alone = await rehearse(
    'Title,Loan\nFan,Robes\n',
    { ...artefacts, columns: artefacts.columns!.slice(0, 2) },
    'artefact',
  );
  expect(alone.refusals[0]!.message).toMatch(/there are 2 Loans whose Title is “Robes”, so it isn’t clear/);
  const same = { ...artefacts, columns: artefacts.columns!.map(({ foundBy: _by, ...one }) => one) };
  expect((await refusal(save(file, same, 'artefact'))).message).toMatch(/Two columns find Loan by the same/);
});

test('defaults, empty cells and unique values are as when people enter them', async () => {
  const artefacts: Partial<ImportPlan> = {
    columns: [
      { column: 'Title', field: 'title' },
      { column: 'Loan', field: 'loan', foundBy: 'title' },
      { column: 'Weight', field: 'weight' },
    ],
  };
  await save('Title,Loan,Weight\nFan,Robes,\nBowl,Pots,2.5\n', artefacts, 'artefact');
  const weights = async () =>
    (await workspace.rows())
      .filter(({ type }) => type === 'artefact')
      .map(({ values }) => [values.title, String(values.weight)])
      .sort();
  expect(await weights()).toEqual([
    ['Bowl', '2.5'],
    ['Fan', '1'],
  ]);
  // An empty cell leaves what is there, unless its column clears.
  expect(await rehearse('Title,Loan,Weight\nBowl,,\n', artefacts, 'artefact')).toMatchObject({ same: 1 });
  const clearing = { ...artefacts, columns: artefacts.columns!.map((one) => ({ ...one, clears: true })) };
  await save('Title,Loan,Weight\nBowl,,\n', clearing, 'artefact');
  expect((await weights())[0]).toEqual(['Bowl', 'null']);
  const taken = await rehearse(
    'Title,Id\nRivers of Silk,\nNew,\nNew,\n',
    { columns: [{ column: 'Title', field: 'title' }], key: [] },
    'exhibition',
  );
  expect(taken.refusals.map(({ line, message }) => [line, message.slice(0, 33)])).toEqual([
    [2, 'Title: “Rivers of Silk” stands in'],
    [4, 'Title: “New” stands in line 3 alr'],
  ]);
});

test('a stray quote refuses its line only', async () => {
  const view = await rehearse(`${FILE}\n"open,x,y,z\nLamps,Rivers of Silk,Agreed,4\n`);
  expect(view).toMatchObject({ read: 5, created: 2, changed: 1, refused: 1 });
  expect(view.refusals).toEqual([
    {
      line: 5,
      column: '',
      message: 'A quote is opened on this line and not closed where the value ends. Correct it.',
    },
  ]);
});

test('in a file of corrections a row whose record isn’t there is refused rather than made', async () => {
  const view = await rehearse(FILE, { notFound: 'refuse' });
  expect(view).toMatchObject({ created: 0, changed: 1, same: 1, refused: 1 });
  expect(view.refusals[0]).toMatchObject({ line: 4, column: 'title' });
  expect(view.refusals[0]!.message).toBe(
    'There is no Loan with this Title. Correct it, or let rows that aren’t found make new records.',
  );
  const byId = await rehearse(`Id,Title\n${loan},Gowns\n${uuid('99')},Hats\n`, {
    ...{ key: ['id'], notFound: 'refuse' },
    columns: [
      { column: 'Id', field: 'id' },
      { column: 'Title', field: 'title' },
    ],
  });
  expect(byId).toMatchObject({ changed: 1, refused: 1 });
});

test('more refused rows than a page shows are told, so that they can be corrected in their file', async () => {
  const rows = Array.from({ length: 1_500 }, (_, at) => `T${at},Nowhere,Agreed,1`);
  const view = await rehearse(['Title,Exhibition,Stage,Insured value', ...rows].join('\n'));
  expect([view.refused, view.refusals.length]).toEqual([1_500, 1_500]);
});

test('other separators, encodings, forms and JSON Lines are read; what is not so is told', async () => {
  const german: Partial<ImportPlan> = {
    ...{ separator: ';', encoding: 'windows-1252' },
    forms: { decimal: ',', dates: 'dayFirst', timeZone: 'UTC' },
    columns: [
      { column: 'Titel', field: 'title' },
      { column: 'Wert', field: 'insuredValue' },
      { column: 'Fällig', field: 'dueBack' },
    ],
  };
  const file = Buffer.from('Titel;Wert;Fällig\nKrüge;1.250,50;3.4.2026\n', 'latin1');
  await save(file, german);
  const made = (await workspace.rows()).find(({ values }) => values.title === 'Krüge')!;
  expect([made.values.insuredValue, made.values.dueBack]).toEqual([gbp('1250.50'), '2026-04-03']);
  expect(await refusal(rehearse(file, { ...german, encoding: 'utf-8' }))).toMatchObject({
    code: 'import.encoding',
  });
  const lines =
    '\ufeff{"Title":"Robes","Insured value":{"amount":"3.00","currency":"GBP"}}\n{"Title":"Jugs","Insured value":4.5}\n[]\n';
  const view = await rehearse(lines, { format: 'jsonLines' });
  expect(view).toMatchObject({ created: 1, changed: 1, refused: 1 });
  const marked = await rehearse(`\ufeff${FILE}`);
  expect(marked).toMatchObject({ created: 1, changed: 1 });
  const codes = async (text: string | Uint8Array, plan: Partial<ImportPlan> = {}) =>
    (await refusal(rehearse(text, plan))).code;
  expect(await codes('')).toBe('import.empty');
  expect(await codes('Title;Exhibition\nA;B\n')).toBe('import.heading');
  expect(await codes('Title,Title,Exhibition,Stage,Insured value\n')).toBe('import.heading');
  expect(await codes('"Title,Exhibition\nA,B\n')).toBe('import.csv');
  expect(await codes(Buffer.from(`\ufeff${FILE}`, 'utf16le'))).toBe('import.encoding');
  expect(await codes(Buffer.from(FILE, 'utf16le'))).toBe('import.encoding');
  expect(await codes(Buffer.from([0x50, 0x4b, 3, 4, 0, 0]))).toBe('import.format');
  expect(await codes(FILE, { key: ['dueBack'] })).toBe('import.plan');
  expect(await codes(FILE, { columns: [{ column: 'Title', field: 'artefactCount' }], key: [] })).toBe(
    'edit.kept',
  );
});

test('an import is undone as a set: what is still its own goes back, what was changed since stays', async () => {
  const more = Array.from({ length: 50 }, (_, at) => `Loan ${at},Rivers of Silk,Agreed,1.00`).join('\n');
  const before = await workspace.rows();
  const { run } = await save(`${FILE}\n${more}\n`);
  expect(await totalOf(silk)).toEqual(gbp(57));
  const told = await rehearseUndo(await workspace.load(), run!);
  expect(undone(told)).toMatchObject({ deleted: 51, restored: 0, left: 0 });
  const loaned = (await workspace.rows()).find(({ values }) => values.title === 'Loan 0')!;
  const one = { type: 'loan', id: loaned.id } as const;
  const by = { workspace: workspace.key, person: TESTER.id };
  await saveEdits({ ...by, edits: [{ kind: 'edit', ...one, values: { stage: 'returned' } }] });
  await saveEdits({ ...by, edits: [{ kind: 'edit', type: 'loan', id: loan, values: { exhibition: silk } }] });
  const done = await undoRun({ ...by, run: run! });
  const { undoneBy, effects } = done;
  expect(undone(done)).toEqual({ ...undone(told), deleted: 50, written: undone(told).written - 1, left: 2 });
  expect(leftWhy(done)).toEqual([
    'Exhibition of Robes: it was changed since',
    'Loan 0: somebody changed it since it was made',
  ]);
  expect(effects.find(({ fieldName }) => fieldName === 'Insured total')!.records).toBe(2);
  expect((await row(loan)).values).toMatchObject({ exhibition: silk, insuredValue: gbp(100) });
  expect(await totalOf(silk)).toEqual(gbp(107));
  expect((await workspace.rows()).filter(({ deleted }) => !deleted).length).toBe(before.length + 1);
  const { entries } = await getHistory(await workspace.load(), { type: 'loan', id: loan });
  expect(entries[0]).toMatchObject({ run: undoneBy });
  expect(await ledgerFlaws(workspace)).toEqual([]);
  expect(await driftIn(workspace)).toEqual([]);
});

test('a file that breaks off leaves nothing behind', async () => {
  const before = await workspace.rows();
  async function* broken(): AsyncGenerator<Uint8Array> {
    yield Buffer.from(`${FILE}\n`);
    throw new Error('the sender went away');
  }
  await expect(importFile({ ...given(''), bytes: broken() })).rejects.toThrow('the sender went away');
  expect(await workspace.rows()).toEqual(before);
  await save(FILE);
});
