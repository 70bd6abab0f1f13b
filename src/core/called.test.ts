import { called } from './called';

test('a type is named once, whether the title says it or not', () => {
  expect(called('Exhibition', 'Rivers of Silk')).toBe('Exhibition Rivers of Silk');
  expect(called('Exhibition', 'Exhibition A')).toBe('Exhibition A');
  expect(called('Insurance line', 'insurance line of Robes')).toBe('insurance line of Robes');
  // A longer word that begins so is another one.
  expect(called('Loan', 'Loaned robes')).toBe('Loan Loaned robes');
  expect(called('Loan', 'Loan')).toBe('Loan');
});
