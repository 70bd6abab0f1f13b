import { galleries } from '@/core/testing/galleries';
import { KIND_NAMES } from '@/core/values';
import { fieldChoices, keyOf, nameOfField, readFrom, routesUp, typeOf } from './field-choices';

const scope = { model: galleries(), type: 'loan' };

test('offers the record’s own fields, then those up its links, two steps far', () => {
  const choices = fieldChoices(scope);
  const keys = choices.map(({ key }) => key);
  expect(keys.slice(0, 3)).toEqual(['title', 'exhibition', 'lender']);
  const above = choices.filter(({ children }) => children);
  expect(above.map(({ name }) => name)).toEqual(
    routesUp(scope.model, 'loan').map(({ name }) => `${name}’s …`),
  );
  expect(routesUp(scope.model, 'loan').every(({ route }) => route.length <= 2)).toBe(true);
});

test('only what fits, with the names of kinds where they are asked for', () => {
  const dates = fieldChoices(scope, ({ type }) => type.kind === 'date', KIND_NAMES);
  expect(dates[0]).toEqual({ key: 'dueBack', name: 'Due back', note: KIND_NAMES.date });
  expect(dates.filter(({ children }) => children).every(({ children }) => children!.length > 0)).toBe(true);
});

test('what is chosen is read by its key, and named by its way', () => {
  for (const [route, field] of [
    [[], 'insuredValue'],
    [['exhibition'], 'title'],
    [['exhibition', 'venue'], 'title'],
  ] as const) {
    const read = readFrom(keyOf(route, field));
    expect(read).toEqual({ kind: 'field', route, field });
    expect(typeOf(scope, read)).toBeDefined();
  }
  expect(nameOfField(scope, readFrom('insuredValue'))).toBe('Insured value');
  expect(nameOfField(scope, readFrom('exhibition.venue.title'))).toBe('Exhibition’s Venue’s title');
});
