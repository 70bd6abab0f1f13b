import fc from 'fast-check';
import { galleries } from '@/core/testing/galleries';
import {
  displayValue,
  isMoney,
  type ValueType,
  PLAIN_FORM,
  PLAIN_FORMS,
  readText,
  type TextForms,
  writeBy,
} from '@/core/values';
import { checkImportPlan, type ImportPlan, proposeColumns, proposeKey } from './import-plan';
import { proposeType, proposeTypes, typeForKind } from './propose-type';

const model = galleries();
const loan = model.type('loan')!;
const stage = model.field('loan', 'stage')!.type;
const GERMAN: TextForms = { decimal: ',', dates: 'dayFirst', timeZone: 'Europe/Berlin' };
const MONEY: ValueType = { kind: 'money', currency: 'GBP' };
const NUMBER: ValueType = { kind: 'number', scale: 2 };

const read = (type: ValueType, text: string, forms: TextForms = PLAIN_FORMS): string => {
  const result = readText(type, text, forms);
  if (!result.ok) return 'refused';
  const { value } = result;
  return isMoney(value) ? `${value.amount.toFixed()} ${value.currency}` : String(value);
};

describe('a cell of a text file', () => {
  test.each([
    [NUMBER, '1,250.5', '1250.5', PLAIN_FORMS],
    [NUMBER, '1.250,5', '1250.5', GERMAN],
    [NUMBER, '12 500', '12500', PLAIN_FORMS],
    [NUMBER, '.5', '0.5', PLAIN_FORMS],
    [NUMBER, '1,25', 'refused', PLAIN_FORMS],
    [NUMBER, '1.2.3', 'refused', PLAIN_FORMS],
    [NUMBER, '1.234', 'refused', PLAIN_FORMS],
    [MONEY, '£1,850.00', '1850 GBP', PLAIN_FORMS],
    [MONEY, 'GBP 12', '12 GBP', PLAIN_FORMS],
    [MONEY, '12 GBP', '12 GBP', PLAIN_FORMS],
    [MONEY, '12 EUR', 'refused', PLAIN_FORMS],
    [{ kind: 'yesNo' }, 'Yes', 'true', PLAIN_FORMS],
    [{ kind: 'yesNo' }, '0', 'false', PLAIN_FORMS],
    [{ kind: 'yesNo' }, 'maybe', 'refused', PLAIN_FORMS],
    [{ kind: 'yesNo' }, '__proto__', 'refused', PLAIN_FORMS],
    [{ kind: 'date' }, '2026-3-4', '2026-03-04', PLAIN_FORMS],
    [{ kind: 'date' }, '4/3/2026', '2026-03-04', PLAIN_FORMS],
    [{ kind: 'date' }, '4/3/2026', '2026-04-03', { ...PLAIN_FORMS, dates: 'monthFirst' }],
    [{ kind: 'date' }, '31.2.2026', 'refused', PLAIN_FORMS],
    [{ kind: 'date' }, '4/3/26', 'refused', PLAIN_FORMS],
    [{ kind: 'dateTime' }, '4.3.2026 09:30', '2026-03-04T08:30:00.000Z', GERMAN],
    [{ kind: 'dateTime' }, '4.7.2026 9:30', '2026-07-04T07:30:00.000Z', GERMAN],
    [{ kind: 'dateTime' }, '2026-03-04T09:30:00+0200', '2026-03-04T07:30:00.000Z', PLAIN_FORMS],
    [{ kind: 'dateTime' }, '2026-03-04 25:30', 'refused', PLAIN_FORMS],
    [stage, 'agreed', 'agreed', PLAIN_FORMS],
    [stage, ' AGREED ', 'agreed', PLAIN_FORMS],
    [stage, 'lost', 'refused', PLAIN_FORMS],
    [{ ...stage, kind: 'choices' } as ValueType, 'Declined; Agreed', 'agreed,declined', PLAIN_FORMS],
    [{ kind: 'text' }, '  Robes ', 'Robes', PLAIN_FORMS],
    [NUMBER, '  ', 'null', PLAIN_FORMS],
  ] as const)('%o: “%s” is %s', (type, text, expected, forms) => {
    expect(read(type as ValueType, text, forms)).toBe(expected);
  });

  test('reads back what is shown to people, and never throws on any text', () => {
    const anyForms = fc.constantFrom(PLAIN_FORMS, GERMAN);
    const types: ValueType[] = [
      NUMBER,
      MONEY,
      stage,
      { kind: 'date' },
      { kind: 'dateTime' },
      { kind: 'yesNo' },
    ];
    fc.assert(
      fc.property(
        fc.constantFrom(...types),
        fc.string({ unit: 'grapheme' }),
        anyForms,
        (type, text, forms) => {
          const first = readText(type, text, forms);
          if (!first.ok || first.value === null || type.kind === 'date' || type.kind === 'dateTime') return;
          const again = readText(type, displayValue(type, first.value), PLAIN_FORMS);
          expect(again).toEqual(first);
        },
      ),
    );
  });
});

describe('a plan', () => {
  const keeperOf = (field: string) => (field === 'artefactCount' ? 'Artefacts of a loan' : undefined);
  const plan = (given: Partial<ImportPlan>): ImportPlan => ({
    ...{ format: 'csv', encoding: 'utf-8', separator: ',', forms: PLAIN_FORMS },
    ...{ columns: [{ column: 'Title', field: 'title' }], key: [], refused: 'stop' },
    ...given,
  });
  const codes = (given: Partial<ImportPlan>) =>
    checkImportPlan(model, keeperOf, loan, plan(given)).map(({ place }) => place);

  test('proposes the columns that are named like fields, but not what a rule keeps', () => {
    expect(
      proposeColumns(loan, keeperOf, [
        'TITLE',
        'Insured value (GBP)',
        'due_back',
        'Artefact count',
        'Other',
        'id',
      ]),
    ).toEqual([
      { column: 'TITLE', field: 'title' },
      { column: 'Insured value (GBP)', field: 'insuredValue' },
      { column: 'due_back', field: 'dueBack' },
      { column: 'id', field: 'id' },
    ]);
    expect(proposeKey(model, 'loan', [{ column: 'id', field: 'id' }])).toEqual(['id']);
  });

  test('is refused where a field is unknown, kept, filled twice or required and missing, and for a key that doesn’t serve', () => {
    const title = { column: 'Title', field: 'title' };
    expect(codes({})).toEqual([]);
    expect(codes({ columns: [] })).toEqual(['columns', 'title']);
    expect(codes({ columns: [title, { column: 'B', field: 'title' }] })).toEqual(['title']);
    expect(codes({ columns: [title, { column: 'B', field: 'nothing' }] })).toEqual(['nothing']);
    expect(codes({ columns: [title, { column: 'B', field: 'artefactCount' }] })).toEqual(['artefactCount']);
    const link = { column: 'B', field: 'exhibition', foundBy: 'open' };
    expect(codes({ columns: [title, link] })).toEqual(['exhibition']);
    expect(codes({ key: ['stage'] })).toEqual(['key']);
  });
});

describe('a type from a file', () => {
  const proposed = (headings: string[], rows: string[][]) =>
    proposeType(headings, rows, { timeZone: 'UTC', types: model.types });
  const kinds = (headings: string[], rows: string[][]) =>
    proposed(headings, rows).fields.map(({ field }) => field.type);

  test('has kinds that every value fits, with their settings', () => {
    const rows = Array.from({ length: 8 }, (_, at) => [
      `Loan ${at}`,
      ...[
        at % 2 ? 'Agreed' : 'Requested',
        `${at},000.50`,
        `${at + 13}/03/2026`,
        at % 2 ? 'yes' : 'no',
        `${at}.25`,
      ],
      'Rivers of Silk',
    ]);
    expect(
      kinds(['Title', 'Stage', 'Value (EUR)', 'Due', 'Open', 'Volume (m³)', 'Exhibition'], rows),
    ).toEqual([
      { kind: 'text' },
      {
        kind: 'choice',
        options: [
          { key: 'requested', name: 'Requested' },
          { key: 'agreed', name: 'Agreed' },
        ],
      },
      { kind: 'money', currency: 'EUR' },
      { kind: 'date' },
      { kind: 'yesNo' },
      { kind: 'number', scale: 2, unit: 'm³' },
      { kind: 'link', target: 'exhibition' },
    ]);
    expect(
      proposed(
        ['Code', 'Title'],
        [
          ['007', 'A'],
          ['008', 'B'],
        ],
      ).title,
    ).toBe('code');
  });

  test('tells what is doubtful', () => {
    const doubts = (values: string[]) =>
      proposed(
        ['Column'],
        values.map((value) => [value]),
      ).fields[0]!.doubts.join(' ');
    expect(doubts(['', ''])).toMatch(/^Empty in every row/);
    expect(doubts(['007', '012'])).toMatch(/^Digits with zeros at the front/);
    expect(doubts(['0', '1', '1'])).toMatch(/perhaps a yes\/no/);
    expect(doubts(['1/2/2026', '3/4/2026'])).toMatch(/^Day and month could be/);
    expect(doubts(['13/2/2026', '3/4/2026'])).toBe('');
    expect(doubts([...Array.from({ length: 19 }, (_, at) => String(at)), 'n/a'])).toMatch(
      /^19 of 20 values read as a number; “n\/a” doesn’t/,
    );
  });

  test('reads the file’s forms off its values, and gives a chosen kind settings that fit', () => {
    expect(proposed(['A', 'B'], [['1.250,50', '3/14/2026']]).forms).toEqual({
      ...{ decimal: ',', dates: 'monthFirst', timeZone: 'UTC' },
    });
    expect(typeForKind('rating', ['2', '9'], PLAIN_FORMS)).toEqual({ kind: 'rating', lowest: 1, highest: 9 });
    expect(typeForKind('choices', ['a; b', 'b'], PLAIN_FORMS)).toMatchObject({
      options: [{ name: 'a' }, { name: 'b' }],
    });
  });
});

test('a file that doesn’t tell how it writes is taken to write as whoever reads it', () => {
  const headings = ['Title', 'Due'];
  const formsOf = (due: string) =>
    proposeType(headings, [['Robes', due]], { timeZone: 'UTC', types: [] }).forms;
  writeBy(() => ({ decimal: ',', grouping: '.', dates: 'monthFirst' }));
  expect(formsOf('3/4/2026')).toMatchObject({ decimal: ',', dates: 'monthFirst' });
  expect(formsOf('13/4/2026')).toMatchObject({ dates: 'dayFirst' });
  writeBy(() => PLAIN_FORM);
  expect(formsOf('3/4/2026')).toMatchObject({ decimal: '.', dates: 'dayFirst' });
});

describe('tables that come together', () => {
  const KNOWN = { timeZone: 'UTC', types: [], people: new Set(['ana duarte', 'ana@oikon.example']) };
  const plots = {
    ...{ key: 'sheet 0', name: 'Plot', headings: ['Number', 'Site', 'Beside'] },
    rows: [
      ['P-1', 'North', ''],
      ['P-2', 'North', 'P-1'],
      ['P-3', 'South', 'P-2'],
    ],
  };
  const tenancies = {
    ...{ key: 'sheet 1', name: 'Tenancy', headings: ['Plot', 'Which', 'Seen by', 'Rent', 'Reference'] },
    rows: [
      ['P-1', 'P-3', 'Ana Duarte', '42.50', 'North 1'],
      ['P-2', 'P-1', 'ana@oikon.example', '40', 'North 2'],
    ],
  };
  const kinds = (tables: Parameters<typeof proposeTypes>[0]) =>
    proposeTypes(tables, KNOWN).map(({ fields }) => fields.map(({ field }) => field.type));

  test('a heading that names another, or values that are names of its records, are links; people are people', () => {
    expect(kinds([plots, tenancies])).toEqual([
      [{ kind: 'text' }, { kind: 'text' }, { kind: 'link', target: 'sheet 0' }],
      [
        { kind: 'link', target: 'sheet 0' },
        { kind: 'link', target: 'sheet 0' },
        { kind: 'person' },
        { kind: 'number', scale: 2 },
        { kind: 'text' },
      ],
    ]);
    expect(proposeTypes([plots, tenancies], KNOWN).map(({ title }) => title)).toEqual([
      'number',
      'reference',
    ]);
    expect(proposeTypes([plots, tenancies], KNOWN)[1]!.fields[1]!.doubts).toEqual([
      'Every value is the name of one Plot: a link to it.',
    ]);
  });

  test('the only text that every row has names the records, whatever else it names', () => {
    const bare = {
      ...tenancies,
      headings: ['Plot', 'Rent'],
      rows: tenancies.rows.map((row) => [row[0]!, row[3]!]),
    };
    const [, proposed] = proposeTypes([plots, bare], KNOWN);
    expect([proposed!.title, proposed!.fields[0]!.field.type]).toEqual(['plot', { kind: 'text' }]);
  });

  test('a name that several records have points to none of them', () => {
    const twice = { ...plots, rows: [...plots.rows, ['P-3', 'South', '']] };
    expect(kinds([twice, tenancies])[1]![1]).toEqual({ kind: 'text' });
  });
});
