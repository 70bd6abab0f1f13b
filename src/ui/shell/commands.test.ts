import { galleries } from '@/core/testing/galleries';
import type { ModelView } from '@/core/api';
import { commandsFor } from './commands';

const { types } = galleries();
const view = { types } as unknown as ModelView;

test('pages and what can be begun on a type are found by any of their words', () => {
  expect(commandsFor(view, 'rule loan').map(({ name, path }) => [name, path])).toEqual([
    ['Write a rule on loans', '/rules/new?type=loan'],
  ]);
  expect(commandsFor(view, 'ledger').map(({ path }) => path)).toEqual(['/ledger']);
  expect(commandsFor(view, 'add an ex').map(({ name }) => name)).toEqual(['Add an exhibition']);
  expect(commandsFor(undefined, 'loan')).toEqual([]);
});
