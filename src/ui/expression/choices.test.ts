import { type Choice, isLong, narrowed, soleChoice } from './choices';

const CHOICES: readonly Choice[] = [
  { key: 'fee', name: 'Fee' },
  { key: 'title', name: 'Title' },
  { key: 'kg', name: 'Courier fee', isDisabled: true, note: 'text' },
  { key: 'route venue', name: 'Venue’s …', children: [{ key: 'venue.fee', name: 'Fee for a day' }] },
  { key: 'new', name: 'a new field …', isAside: true },
];
const names = (choices: readonly Choice[]) => choices.map(({ name }) => name);

test('what is typed narrows the list, groups opened, what begins with it first', () => {
  expect(names(narrowed(CHOICES, 'FEE'))).toEqual(['Fee', 'Courier fee', 'Venue’s Fee for a day']);
  expect(names(narrowed(CHOICES, 'venue fee'))).toEqual(['Venue’s Fee for a day']);
  expect(narrowed(CHOICES, 'crate')).toEqual([]);
  expect(narrowed(CHOICES, ' ')).toBe(CHOICES);
});

test('the only thing that can be chosen is told, whatever else the list offers to do', () => {
  expect(soleChoice(CHOICES)).toBeNull();
  expect(soleChoice(CHOICES.slice(2))).toBe('venue.fee');
  expect(soleChoice([])).toBeNull();
  const further = { key: 'g', name: 'further …', isAside: true, children: CHOICES };
  expect(soleChoice([{ key: 'fee', name: 'Fee' }, further])).toBe('fee');
});

test('a list is long from nine choices on, those in groups counted', () => {
  const many = Array.from({ length: 8 }, (_, at) => ({ key: `${at}`, name: `Field ${at}` }));
  expect(isLong(many)).toBe(false);
  expect(
    isLong([
      { key: 'g', name: 'Group', children: many },
      { key: 'x', name: 'X' },
    ]),
  ).toBe(true);
});
