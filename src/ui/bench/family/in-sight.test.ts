import { galleries, uuid } from '@/core/testing/galleries';
import type { WireRecord } from '@/core/verify';
import { changedColumns, type ColumnsOf, withChanged } from './columns';
import { changedFields, titled, withAncestors } from './in-sight';

const model = galleries();
const [museum, silk, robes, cope] = [uuid('1'), uuid('11'), uuid('21'), uuid('31')];
const record = (type: string, id: string, values: WireRecord['values']): WireRecord => ({
  ...{ type, id, values, version: 1, deleted: false, errors: {} },
});
const RECORDS = [
  record('institution', museum, { title: 'Kestrel Museum' }),
  record('exhibition', silk, { title: 'Rivers of Silk', venue: null }),
  record('loan', robes, { title: 'Silk robes', exhibition: silk, lender: museum }),
  record('artefact', cope, { title: 'Cope', loan: robes, weight: '2' }),
];

test('what is shown has all that it hangs under, by any of its links', () => {
  expect(withAncestors(model, RECORDS, new Set([cope]))).toEqual(new Set([cope, robes, silk, museum]));
  expect(withAncestors(model, RECORDS, new Set())).toEqual(new Set());
});

test('records are found by words of their titles', () => {
  expect(titled(model, RECORDS, 'SILK')).toEqual(new Set([silk, robes]));
  expect(titled(model, RECORDS, 'silk robes')).toEqual(new Set([robes]));
});

test('changed fields are those that differ from what is stored', () => {
  const stored = new Map(RECORDS.map((one) => [one.id, one]));
  const changed = [
    record('artefact', cope, { title: 'Cope', loan: robes, weight: '3' }),
    record('artefact', uuid('32'), { title: 'New', loan: robes, weight: null }),
  ];
  expect(changedFields(changed, stored)).toEqual(
    new Map([['artefact', new Set(['weight', 'title', 'loan'])]]),
  );
});

test('what changed has a column, whatever is shown otherwise; alone where only that is wanted', () => {
  const all = () => [model.field('artefact', 'weight')!];
  const keys = (of: ColumnsOf) => of('artefact', 'loan').map(({ key }) => key);
  const other = model
    .type('artefact')!
    .fields.find(({ key }) => !['weight', 'title', 'loan'].includes(key))!.key;
  const also = new Map([['artefact', new Set([other, 'title', 'loan'])]]);
  expect(new Set(keys(withChanged(model, all, also)))).toEqual(new Set(['weight', other]));
  expect(keys(changedColumns(model, all, also))).toEqual([other]);
  expect(keys(withChanged(model, all, new Map()))).toEqual(['weight']);
});
