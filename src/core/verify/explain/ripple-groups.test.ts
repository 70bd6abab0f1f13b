import { Decimal } from '@/core/values';
import { changeOf, money } from '@/core/testing/ripples';
import { groupedChanges } from './ripple-groups';
import { differenceOf } from './views';

test('changes of one field by one rule are alike; the most frequent way comes first', () => {
  const changes = [
    changeOf({ id: '1', before: 'Elsie', after: 'Callum' }),
    changeOf({ id: '2', before: 'Maren', after: 'Callum' }),
    changeOf({ id: '3', before: 'Maren', after: 'Callum', problem: 'It divides by zero.' }),
    changeOf({ id: '1', field: 'stage', before: 'a', after: 'b' }),
    changeOf({ id: '4', rule: null, before: 'Maren', after: 'Callum' }),
  ];
  const groups = groupedChanges(1, changes);
  expect(groups.map(({ group: { field, rule, records } }) => [field, rule?.name ?? null, records])).toEqual([
    ['coordinator', 'Coordinator of loans', 3],
    ['stage', 'Coordinator of loans', 1],
    ['coordinator', null, 1],
  ]);
  expect(groups[0]!.group).toMatchObject({
    ...{ wave: 1, problems: 1, ways: 2, amounts: null },
    becomes: [
      { before: { text: 'Maren' }, after: { text: 'Callum' }, records: 2 },
      { before: { text: 'Elsie' }, after: { text: 'Callum' }, records: 1 },
    ],
  });
  expect(groups[0]!.changes).toHaveLength(3);
});

test('of amounts it is told how many got larger, and the largest differences, whichever way', () => {
  const steps = [5, -70, 20, 0, 9, 8, 7];
  const { group } = groupedChanges(
    1,
    steps.map((by, at) => ({ ...changeOf({ id: String(at) }), difference: String(by) })),
  )[0]!;
  expect(group.amounts).toEqual({ larger: 5, smaller: 1 });
  expect(group.samples.map(({ id }) => steps[Number(id)])).toEqual([-70, 20, 9, 8, 7]);
});

test('records that are made are alike by what made them', () => {
  const changes = [1, 2, 3].map((at) => ({
    ...changeOf({ id: String(at), field: '' }),
    ...{ kind: 'created' as const, before: null, after: null },
  }));
  expect(groupedChanges(2, changes).map(({ group }) => group)).toMatchObject([
    { kind: 'created', records: 3, becomes: [], ways: 0, amounts: null },
  ]);
});

test.each([
  [{ kind: 'number', scale: 2 } as const, new Decimal(3), new Decimal('1.5'), '-1.5'],
  [{ kind: 'number', scale: 2 } as const, null, new Decimal(2), '2'],
  [{ kind: 'money', currency: 'GBP' } as const, money(5), money(7), '2'],
  [{ kind: 'money', currency: 'GBP' } as const, money(5), money(7, 'EUR'), null],
  [{ kind: 'money', currency: 'GBP' } as const, null, money(7, 'EUR'), '7'],
  [{ kind: 'text' } as const, 'a', 'b', null],
])('by how much a value changed: %j', (type, before, after, by) =>
  expect(differenceOf(type, before, after)).toBe(by),
);
