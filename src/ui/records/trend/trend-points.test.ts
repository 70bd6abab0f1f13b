import type { Field } from '@/core/model';
import type { WireRecord } from '@/core/verify';
import { placeName, pointsOf, shownOverTime } from './trend-points';

const date: Field = { key: 'day', name: 'Day', type: { kind: 'date' } };
const mark: Field = {
  ...{ key: 'mark', name: 'Mark' },
  type: {
    kind: 'choice',
    options: ['green', 'amber', 'red'].map((key) => ({ key, name: key.toUpperCase() })),
  },
};
const cover: Field = { key: 'cover', name: 'Cover', type: { kind: 'money', currency: 'GBP' } };
const sheet = (values: WireRecord['values']): WireRecord => ({
  ...{ type: 'sheet', id: String(values.day), version: 1, deleted: false, errors: {}, values },
});

test('values stand by day, choices by their place; what has no day or no value is left out', () => {
  const records = [
    sheet({ day: '2027-02-01', mark: 'red', cover: { amount: '12.50', currency: 'GBP' } }),
    sheet({ day: '2027-01-01', mark: 'green', cover: null }),
    sheet({ day: null, mark: 'amber' }),
    sheet({ day: '2027-03-01', mark: 'gone' }),
  ];
  expect(pointsOf(records, date, mark)).toEqual([
    { x: Date.UTC(2027, 0, 1), y: 0 },
    { x: Date.UTC(2027, 1, 1), y: 2 },
  ]);
  expect(pointsOf(records, date, cover)).toEqual([{ x: Date.UTC(2027, 1, 1), y: 12.5 }]);
  expect([placeName(mark, 1), placeName(mark, 0.5), placeName(cover, 1)]).toEqual(['AMBER', '', null]);
  expect([mark, cover, date].map(shownOverTime)).toEqual([true, true, false]);
});
