import { pluralOf, singularOf } from './plurals';

test('one and several are named by the rules of English', () => {
  expect(['Tenancy', 'Loan', 'Box', 'Person', 'Keycard', ' Series ', ''].map(pluralOf)).toEqual([
    ...['Tenancies', 'Loans', 'Boxes', 'People', 'Keycards', 'Series', ''],
  ]);
  expect(['Tenancies', 'touring loans', 'Boxes', 'Series', ''].map(singularOf)).toEqual([
    ...['Tenancy', 'touring loan', 'Box', 'Series', ''],
  ]);
});
