import { PLAIN_FORMS } from '@/core/values';
import { MemoryStore } from '@/core/engine';
import { galleries, gbp, rowOf, uuid } from '@/core/testing/galleries';
import {
  compareOutcomes,
  expectedByFormula,
  expectedDifferences,
  type ExpectedLine,
  readExpected,
  recordToWire,
} from '@/core/verify';

const model = galleries();
const [silk, salt, robes, pots, twin] = ['11', '12', '21', '22', '23'].map(uuid) as [
  string,
  string,
  string,
  string,
  string,
];
const ROWS = [
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', insuredTotal: gbp(100) }),
  rowOf(model, 'exhibition', salt, { title: 'Salt Roads' }),
  rowOf(model, 'loan', robes, { title: 'Robes', exhibition: silk, insuredValue: gbp(100), stage: 'agreed' }),
  rowOf(model, 'loan', pots, { title: 'Pots', exhibition: salt }),
  rowOf(model, 'loan', twin, { title: 'Pots', exhibition: salt }),
];
const RECORDS = ROWS.map((row) => recordToWire(model, row));
const line = (record: string, field: string, expected: string): ExpectedLine => ({
  ...{ line: 2, record, field, expected },
});
const read = (...lines: ExpectedLine[]) => readExpected(model, RECORDS, lines, PLAIN_FORMS);
const nameOf = (id: string) => ROWS.find((row) => row.id === id)?.values.title as string | undefined;

test('values worked out elsewhere are read by titles and names, as people write them', () => {
  expect(
    read(
      line(' rivers of silk', 'INSURED TOTAL', '1,250.50'),
      line('Robes', 'exhibition', 'Salt Roads'),
      line('Robes', 'Stage', 'Agreed'),
      line(twin, 'Due back', ''),
    ),
  ).toEqual({
    problems: [],
    values: [
      { type: 'exhibition', id: silk, field: 'insuredTotal', value: { amount: '1250.50', currency: 'GBP' } },
      { type: 'loan', id: robes, field: 'exhibition', value: salt },
      { type: 'loan', id: robes, field: 'stage', value: 'agreed' },
      { type: 'loan', id: twin, field: 'dueBack', value: null },
    ],
  });
});

test('what isn’t there, is there twice or can’t be read is named with its line, and the others are taken', () => {
  const { values, problems } = read(
    line('Velvet', 'Stage', 'Agreed'),
    line('Pots', 'Stage', 'Agreed'),
    line('Robes', 'Colour', 'red'),
    line('Robes', 'Due back', 'soon'),
    line('Robes', 'Exhibition', 'Velvet'),
    line('Robes', 'Stage', 'Agreed'),
    line('Robes', 'Stage', 'Declined'),
  );
  expect(values).toHaveLength(1);
  expect(problems).toEqual([
    'Line 2: no record of the family is called “Velvet”. Give its title or its id.',
    'Line 2: 2 records of the family are called “Pots”. Give the id of the one that is meant.',
    'Line 2: Loan has no field “Colour”.',
    expect.stringMatching(/^Line 2: Due back: /),
    'Line 2: Exhibition names “Velvet”, which isn’t in the family. Give its id.',
    'Line 2: Stage of “Robes” stands in an earlier line too. Keep one of them.',
  ]);
});

test('a report names every difference, whatever a value is written like', () => {
  const { values } = read(
    line('Rivers of Silk', 'Insured total', '100'),
    line('Salt Roads', 'Insured total', '7'),
    line('Robes', 'Exhibition', 'Salt Roads'),
  );
  expect(expectedDifferences(model, RECORDS, values, nameOf).map(({ words }) => words)).toEqual([
    'Insured total of Salt Roads: 7.00 GBP expected, empty found',
    'Exhibition of Robes: Salt Roads expected, Rivers of Silk found',
  ]);
});

describe('by a formula of one’s own', () => {
  const store = new MemoryStore(model, true);
  ROWS.forEach((row) => store.put(row));
  const by = (text: string, field = 'insuredTotal') =>
    expectedByFormula(model, store, { type: 'exhibition', field, text, among: new Set([silk, salt]) });

  test('a value is expected of each record of the type', () => {
    expect(
      by('sum(loans[stage = "agreed"].insuredValue)').values.map(({ id, value }) => [id, value]),
    ).toEqual([
      [silk, { amount: '100.00', currency: 'GBP' }],
      [salt, expect.anything() as never],
    ]);
  });

  test('what can’t be typed or worked out is told', () => {
    expect(by('sum(loans').problems).toHaveLength(1);
    expect(by('1', 'gone').problems).toEqual(['Exhibition has no field “gone”.']);
    expect(by('1 / 0', 'artefactCount').values).toEqual([]);
  });
});

test('what two sets of rules leave otherwise is compared value by value, and record by record', () => {
  const after = RECORDS.filter(({ id }) => id !== twin).map((record) =>
    record.id === robes ? { ...record, values: { ...record.values, exhibition: salt } } : record,
  );
  expect(compareOutcomes(model, RECORDS, after, nameOf)).toEqual({
    values: [
      {
        ...{ type: 'loan', id: robes, title: 'Robes', field: 'exhibition', fieldName: 'Exhibition' },
        ...{ before: 'Rivers of Silk', after: 'Salt Roads' },
      },
    ],
    ...{ onlyBefore: ['Loan Pots'], onlyAfter: [] },
  });
});
