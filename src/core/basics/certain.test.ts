import { certain, firstIn, foundIn, itemAt, lastIn, valueAt } from './certain';

test('what is there is given back, whatever it is', () => {
  expect(certain(0)).toBe(0);
  expect(certain('')).toBe('');
  expect(firstIn(['a', 'b'])).toBe('a');
  expect(lastIn(['a', 'b'])).toBe('b');
  expect(itemAt([undefined], 0)).toBeUndefined();
  expect(foundIn([1, 2, 3], (one) => one > 1)).toBe(2);
  expect(valueAt(new Map([['k', false]]), 'k')).toBe(false);
});

test('what is missing is told where it is missing', () => {
  expect(() => certain(undefined, 'The rule’s target')).toThrow(
    'The rule’s target is missing where it must be.',
  );
  expect(() => certain(null)).toThrow('A value is missing');
  expect(() => firstIn([])).toThrow('There is no item 0 in a list of 0.');
  expect(() => lastIn([])).toThrow('There is no item -1 in a list of 0.');
  expect(() => itemAt(['a'], 1)).toThrow('There is no item 1 in a list of 1.');
  expect(() => foundIn([1], (one) => one > 1)).toThrow('None of 1 is the one that must be there.');
  expect(() => valueAt(new Map([['k', 1]]), 'other')).toThrow('There is no entry for other.');
});
