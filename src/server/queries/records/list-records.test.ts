import ExcelJS from 'exceljs';
import type { Row } from '@/core/engine';
import type { Expression } from '@/core/expression';
import { fieldOf, galleries, gbp, rowOf, uuid } from '@/core/testing/galleries';
import type { RecordList } from '@/core/api';
import { database, disconnect } from '@/server/database/connection';
import { type Refusal } from '@/server/refusal';
import { type ListIndex, makeIndex, orderIndex, searchIndex } from '@/server/store/schema/list-index';
import { run } from '@/server/store/sql/sql';
import { type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { exportRecords, type ExportInput } from './export-records';
import { listRecords } from './list-records';

const model = galleries();
const [museum, silk, maps] = [uuid('1'), uuid('11'), uuid('12')];
const loans = ['21', '22', '23', '24', '25', '26'].map(uuid);

const rows = (): Row[] => [
  rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
  rowOf(model, 'exhibition', maps, { title: 'The Mapmaker’s Table', open: false }),
  ...loans.map((id, index) =>
    rowOf(model, 'loan', id, {
      title: `Loan ${index}`,
      exhibition: index < 3 ? silk : maps,
      lender: museum,
      stage: index % 2 === 0 ? 'agreed' : 'declined',
      insuredValue: gbp(`${index + 1}00.25`),
    }),
  ),
];

/** Values that several have, and empty ones. */
const mixed = (): Row[] =>
  Array.from({ length: 23 }, (_, at) =>
    rowOf(model, 'loan', uuid(`7${String(at).padStart(2, '0')}`), {
      title: `Loan ${at % 7}`,
      insuredValue: at % 3 === 0 ? null : gbp(at % 5),
      dueBack: at % 4 === 0 ? null : `2027-01-${String((at % 6) + 1).padStart(2, '0')}`,
      stage: [null, 'agreed', 'declined', 'requested'][at % 4]!,
    }),
  );

let workspace: TestWorkspace;
const open = async (given: readonly Row[]) =>
  void (workspace = await testWorkspace({ model, rows: given, rules: [] }));
afterEach(() => workspace.remove());
afterAll(disconnect);

const refusal = async (work: Promise<unknown>): Promise<Refusal> =>
  work.then(
    () => {
      throw new Error('It was accepted');
    },
    (error: Refusal) => error,
  );

/** The plan of a statement where ways that suit a small table are out of the question. */
const planOf = (text: string, without: readonly string[]): Promise<string> =>
  database().transaction(async (transaction) => {
    for (const way of without) await run(transaction, `SET LOCAL enable_${way} = off`);
    const lines = await run<{ 'QUERY PLAN': string }>(transaction, `EXPLAIN ${text}`);
    return lines.map((line) => line['QUERY PLAN']).join('\n');
  });

/** Lists see to their indexes themselves, beside the test: whoever is at it ends some time. */
async function made(index: ListIndex): Promise<void> {
  while (!(await makeIndex(index, 1)));
}

describe('lists', () => {
  test('a filter without a value asks for those where the field is empty; a link that names nothing too', async () => {
    await open([...rows(), ...mixed()]);
    const loaded = await workspace.load();
    const count = async (filter: Record<string, string>) =>
      (await listRecords(loaded, { type: 'loan', filter, descending: false, limit: 100 })).records.length;
    expect(await count({ exhibition: '' })).toBe(23);
    expect(await count({ insuredValue: '', exhibition: '' })).toBe(8);
    expect(await count({ insuredValue: '', exhibition: maps })).toBe(0);
  });

  test('a list is searched, filtered, sorted and paged', async () => {
    await open(rows());
    const loaded = await workspace.load();
    const list = async (given: object) =>
      listRecords(loaded, { type: 'loan', filter: {}, descending: false, limit: 10, ...given });
    const titles = async (given: object) => (await list(given)).records.map((record) => record.values.title);
    expect(await titles({ filter: { exhibition: maps }, sort: 'insuredValue', descending: true })).toEqual([
      'Loan 5',
      'Loan 4',
      'Loan 3',
    ]);
    expect(await titles({ filter: { stage: 'agreed' } })).toEqual(['Loan 0', 'Loan 2', 'Loan 4']);
    expect(await titles({ search: 'LOAN 3' })).toEqual(['Loan 3']);
    const upRoute: Expression = {
      ...{ kind: 'compare', operator: '=', left: fieldOf('open', 'exhibition') },
      right: { kind: 'constant', value: false },
    };
    expect(await titles({ condition: upRoute })).toEqual(['Loan 3', 'Loan 4', 'Loan 5']);
    expect(await list({ condition: upRoute, limit: 1 })).toMatchObject({
      count: { number: 3, isExact: true },
    });
    expect(await refusal(list({ condition: { ...upRoute, left: fieldOf('colour') } }))).toMatchObject({
      status: 422,
    });
    expect(await refusal(list({ after: 'nonsense' }))).toMatchObject({ code: 'list.after' });
    expect(await refusal(list({ sort: 'colour' }))).toMatchObject({ code: 'list.sort' });
    expect(await refusal(list({ filter: { stage: 'lost' } }))).toMatchObject({ code: 'value.option' });
  });

  test.each(['title', 'insuredValue', 'dueBack', 'stage', 'weight'])(
    'pages in the order of %s, one way and the other, give every record once',
    async (sort) => {
      await open(mixed());
      const loaded = await workspace.load();
      for (const descending of [false, true]) {
        const given = { type: 'loan', filter: {}, sort, descending };
        const whole = (await listRecords(loaded, { ...given, limit: 100 })).records.map(({ id }) => id);
        const paged: string[] = [];
        let after: string | null = null;
        do {
          const page: RecordList = await listRecords(loaded, {
            ...given,
            limit: 4,
            ...(after ? { after } : {}),
          });
          paged.push(...page.records.map(({ id }) => id));
          after = page.next;
        } while (after);
        expect(paged).toEqual(whole);
        expect(new Set(paged).size).toBe(23);
      }
    },
  );

  test.each([
    ['stage', `CASE "stage" WHEN 'requested' THEN 0 WHEN 'agreed' THEN 1 WHEN 'declined' THEN 2 END`],
    ['dueBack', '"due_back"'],
  ])('an index for the order of %s changes no list, and serves it both ways', async (sort, by) => {
    await open(mixed());
    const loaded = await workspace.load();
    const both = async () =>
      Promise.all(
        [false, true].map(async (descending) =>
          (await listRecords(loaded, { type: 'loan', filter: {}, sort, descending, limit: 30 })).records.map(
            ({ id }) => id,
          ),
        ),
      );
    const before = await both();
    const index = orderIndex(loaded, 'loan', by);
    expect(await makeIndex(index)).toBe(false); // few records need none
    await made(index);
    expect(await makeIndex(index, 1)).toBe(true); // there already
    expect(await both()).toEqual(before);
    for (const direction of ['ASC', 'DESC']) {
      const text = `SELECT id FROM ${index.table} WHERE deleted_run IS NULL AND ${by} IS NOT NULL ORDER BY ${by} ${direction}, id ${direction} LIMIT 3`;
      expect(await planOf(text, ['seqscan', 'sort'])).toContain(index.name);
    }
  });

  test('an index for searches changes none, whatever stands in the text', async () => {
    await open([
      ...rows(),
      // So many that reading them all would take longer.
      ...Array.from({ length: 4_000 }, (_, at) =>
        rowOf(model, 'loan', uuid(`8${String(at).padStart(4, '0')}`), { title: `Vase ${at}` }),
      ),
      rowOf(model, 'loan', uuid('31'), { title: '100% silk_thread \\ ÉTUDE', exhibition: silk }),
    ]);
    const loaded = await workspace.load();
    const found = async () =>
      Promise.all(
        ['LOAN', '0% SILK', '%', '_', '\\', 'silk_', 'étude', 'É'].map(
          async (search) =>
            (await listRecords(loaded, { type: 'loan', filter: {}, search, descending: false, limit: 30 }))
              .records.length,
        ),
      );
    const before = await found();
    expect(before.slice(0, 6)).toEqual([6, 1, 1, 1, 1, 1]);
    const index = searchIndex(loaded, 'loan');
    await made(index);
    expect(await found()).toEqual(before);
    const text = `SELECT id FROM ${index.table} WHERE deleted_run IS NULL AND lower(title) LIKE '%silk_thr%'`;
    expect(await planOf(text, [])).toContain(index.name);
  });
});

describe('a list leaves as a file', () => {
  const bytesOf = async (given: Partial<ExportInput> & Pick<ExportInput, 'format'>) => {
    const file = await exportRecords(await workspace.load(), {
      ...{ type: 'loan', filter: {}, descending: false, fields: null },
      ...given,
    });
    const pieces: Uint8Array[] = [];
    for await (const piece of file.pieces) pieces.push(Buffer.from(piece));
    return Buffer.concat(pieces);
  };
  const textOf = async (given: Partial<ExportInput> & Pick<ExportInput, 'format'>) =>
    (await bytesOf(given)).toString('utf8');

  test('as CSV for people: names for keys and ids, nothing that a spreadsheet would work out', async () => {
    await open([
      ...rows(),
      rowOf(model, 'loan', uuid('41'), {
        title: '=2+2, "quoted"',
        exhibition: maps,
        insuredValue: gbp('-5.00'),
      }),
    ]);
    const csv = await textOf({
      ...{ format: 'csv', fields: ['title', 'exhibition', 'stage', 'insuredValue'] },
      ...{ filter: { exhibition: maps }, sort: 'title' },
    });
    expect(csv.split('\r\n')).toEqual([
      '\ufeffTitle,Exhibition,Stage,Insured value (GBP),id',
      `"'=2+2, ""quoted""",The Mapmaker’s Table,,-5.00,${uuid('41')}`,
      `Loan 3,The Mapmaker’s Table,Declined,400.25,${loans[3]}`,
      `Loan 4,The Mapmaker’s Table,Agreed,500.25,${loans[4]}`,
      `Loan 5,The Mapmaker’s Table,Declined,600.25,${loans[5]}`,
      '',
    ]);
  });

  test('as JSON Lines for programs, page after page to the last', async () => {
    const many = Array.from({ length: 2_300 }, (_, at) =>
      rowOf(model, 'loan', uuid(`9${String(at).padStart(4, '0')}`), { title: `Vase ${at}` }),
    );
    await open(many);
    const lines = (await textOf({ format: 'jsonl' })).trimEnd().split('\n');
    expect(new Set(lines.map((line) => (JSON.parse(line) as { id: string }).id)).size).toBe(2_300);
    expect(lines).toHaveLength(2_300);
  });

  test('as XLSX: amounts are numbers and dates are dates, and a text that begins like a formula stays text', async () => {
    await open([
      rowOf(model, 'loan', uuid('41'), {
        ...{ title: '=2+2', exhibition: null, insuredValue: gbp('12250.50'), dueBack: '2027-02-28' },
      }),
      rowOf(model, 'loan', uuid('42'), { title: 'Vast', insuredValue: gbp('123456789012345678.25') }),
    ]);
    const bytes = await bytesOf({
      ...{ format: 'xlsx', fields: ['title', 'insuredValue', 'dueBack'], sort: 'title' },
    });
    const workbook = new ExcelJS.Workbook();
    await workbook.xlsx.load(bytes as unknown as ArrayBuffer);
    const sheet = workbook.worksheets[0]!;
    const cells = (row: number) => (sheet.getRow(row).values as unknown[]).slice(1);
    expect(cells(1)).toEqual(['Title', 'Insured value (GBP)', 'Due back', 'id']);
    expect(cells(2)).toEqual(['=2+2', 12250.5, new Date('2027-02-28T00:00:00Z'), uuid('41')]);
    expect(cells(3).slice(0, 2)).toEqual(['Vast', '123456789012345678.25']);
  });

  test('a field that isn’t there is refused before anything is sent', async () => {
    await open(rows());
    expect(await refusal(textOf({ format: 'csv', fields: ['colour'] }))).toMatchObject({
      code: 'export.field',
    });
  });
});

test('a list of what hangs under a record and under all beneath it in its hierarchy', async () => {
  const [house, wing, store, other] = ['31', '32', '33', '34'].map(uuid);
  const loan = (id: string, lender: string | null) => rowOf(model, 'loan', uuid(id), { title: id, lender });
  await open([
    rowOf(model, 'institution', house!, { title: 'House' }),
    rowOf(model, 'institution', wing!, { title: 'Wing', partOf: house! }),
    rowOf(model, 'institution', store!, { title: 'Store', partOf: wing! }),
    rowOf(model, 'institution', other!, { title: 'Other' }),
    ...[loan('41', house!), loan('42', store!), loan('43', other!), loan('44', null)],
  ]);
  const of = async (id: string, through = 'partOf') => {
    const list = await listRecords(await workspace.load(), {
      ...{ type: 'loan', filter: {}, descending: false, limit: 10 },
      beneath: [{ link: 'lender', through, id }],
    });
    return [list.records.map(({ values }) => values.title), list.count?.number];
  };
  expect(await of(house!)).toEqual([['41', '42'], 2]);
  expect(await of(wing!)).toEqual([['42'], 1]);
  expect(await of(other!)).toEqual([['43'], 1]);
  const refused = await refusal(of(house!, 'venue'));
  expect(refused.message).toContain('whose records hang under each other by “venue”');
});
