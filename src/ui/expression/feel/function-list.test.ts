import { CASES_MODEL } from '@/core/testing/feel-cases';
import { readFeel } from '@/core/expression';
import { ALL_FUNCTIONS, asInserted, functionsFound } from './function-list';

const names = (search: string) => functionsFound(search).map(({ name }) => name);

test('functions are found by name first, then by what is said of them', () => {
  expect(names('text').slice(0, 2)).not.toContain('floor');
  expect(names('round')[0]).toMatch(/^round/);
  expect(names('as text notation')).toEqual(['string']);
  expect(names('month').indexOf('end of month')).toBeLessThan(names('month').indexOf('duration'));
  expect(names('no such thing')).toEqual([]);
  expect(functionsFound(' ')).toBe(ALL_FUNCTIONS);
});

test('one that takes nothing is put in whole', () => {
  const written = (name: string) => asInserted(ALL_FUNCTIONS.find((one) => one.name === name)!);
  expect(written('today')).toBe('today()');
  expect(written('floor')).toBe('floor(');
});

test('every example that needs no field can be read', () => {
  const texts = ALL_FUNCTIONS.flatMap(({ examples }) => examples)
    .filter(({ comesTo }) => comesTo !== null)
    .flatMap(({ text, comesTo }) => [text, comesTo!]);
  expect(texts.length).toBeGreaterThan(40);
  for (const text of texts) expect([text, readFeel(CASES_MODEL, 'thing', text).ok]).toEqual([text, true]);
});
