import { act, renderHook } from '@testing-library/react';
import { queryOf, readFilters, useAddressFilters, withFilter } from './use-address-filters';

/** What the application has taken in of its address; it comes after what was written there. */
let address = '';
jest.mock('next/navigation', () => ({ useSearchParams: () => new URLSearchParams(address) }));

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

test('what is chosen quickly stands before the address is taken in, one choice upon the other; a link to elsewhere is followed', () => {
  address = 'kind=link';
  const { result, rerender } = renderHook(() => useAddressFilters(NAMES));
  const choose = (name: (typeof NAMES)[number], value: string) =>
    act(() => result.current[1](withFilter(result.current[0], name, value)));
  const arrives = (text: string) => {
    address = text;
    rerender();
  };
  choose('search', 'a');
  choose('search', 'ab');
  choose('kind', '');
  expect(result.current[0]).toEqual({ search: 'ab' });
  expect(window.location.search).toBe('?search=ab');
  arrives('search=a&kind=link');
  expect(result.current[0]).toEqual({ search: 'ab' });
  arrives('search=ab');
  expect(result.current[0]).toEqual({ search: 'ab' });
  arrives('kind=link');
  expect(result.current[0]).toEqual({ kind: 'link' });
  choose('kind', '');
  arrives('tag=money');
  expect(result.current[0]).toEqual({ tag: 'money' });
});
