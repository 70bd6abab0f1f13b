import { queryOf, readFilters, withFilter } from './use-address-filters';

const NAMES = ['search', 'tag', 'kind'] as const;

test('filters stand in the address and are read from it; others aren’t', () => {
  const filters = { search: 'a & b', tag: 'money' };
  const text = queryOf(NAMES, filters);
  expect(readFilters(NAMES, new URLSearchParams(`${text}&of=else`))).toEqual(filters);
  expect(queryOf(NAMES, {})).toBe('');
});

test('one is put otherwise, or taken away', () => {
  expect(withFilter<'tag' | 'kind'>({ tag: 'money' }, 'kind', 'rollUp')).toEqual({
    tag: 'money',
    kind: 'rollUp',
  });
  expect(withFilter<'tag' | 'kind'>({ tag: 'money', kind: 'link' }, 'kind', '')).toEqual({ tag: 'money' });
});
