import { readFileSync } from 'node:fs';
import type { Description } from 'joi';
import { AGGREGATES } from '@/core/rules';
import { definition } from '@/server/forms/rules';
import { expectations, settings } from '@/server/forms/proofs';
import { familyData } from '@/server/forms/bundle';
import { ACCESS } from './access';
import { PROBLEM_CODES, WHOLE_CODES } from '@/core/values';

const text = readFileSync('docs/api.md', 'utf8');
const holds = (word: string): boolean =>
  new RegExp(`["\`/{ (]${word.replace(/[^a-zA-Z]/g, '\\$&')}["\`?:},) ]`).test(text);

/** Every key that a form may have, and every word that may stand as a value. */
function wordsOf(of: unknown, found = new Set<string>()): Set<string> {
  if (Array.isArray(of)) of.forEach((one) => wordsOf(one, found));
  else if (typeof of === 'object' && of !== null) {
    const { keys, allow, ...rest } = of as Description & { keys?: object; allow?: readonly unknown[] };
    for (const key of Object.keys(keys ?? {})) found.add(key);
    for (const word of allow ?? []) if (typeof word === 'string' && /^[a-z]{2,}/i.test(word)) found.add(word);
    Object.values({ ...rest, ...keys }).forEach((one) => wordsOf(one, found));
  }
  return found;
}

test.each([
  ['a rule', definition],
  ['what a proof expects', expectations],
  ['settings of a proof', settings],
  ['a family', familyData],
])('the document of the API names everything that %s may hold', (_, form) => {
  const words = [...wordsOf(form.describe())];
  expect(words.length).toBeGreaterThan(1);
  expect(words.filter((word) => !holds(word))).toEqual([]);
});

test('the document of the API names every aggregate', () => {
  expect(AGGREGATES.map(({ aggregate }) => aggregate).filter((word) => !holds(word))).toEqual([]);
});

test('the document of the API names every route with its methods', () => {
  const rows = text.split('\n').filter((line) => line.startsWith('| `'));
  const missing = Object.entries(ACCESS).flatMap(([path, methods]) => {
    const short = path.replace('/api/v1', '');
    const of = rows.filter((row) => row.split(' | ')[0]!.includes(`${short}\``));
    const told = of.map((row) => row.split(' | ')[0]!).join(' ');
    return Object.keys(methods).flatMap((method) => (told.includes(method) ? [] : [`${method} ${short}`]));
  });
  expect(missing).toEqual([]);
});

test('the document of the API names every code of a problem, and no other', () => {
  const codes = Object.entries(PROBLEM_CODES).flatMap(([about, whats]) =>
    whats.map((what) => `${about}.${what}`),
  );
  const told = text.slice(text.indexOf('### Codes'), text.indexOf('## Importing a file'));
  const named = [...told.matchAll(/`([a-zA-Z.]+)`/g)]
    .map(([, code]) => code)
    .filter((code) => code !== 'code');
  expect([...new Set(named)].sort()).toEqual([...codes, ...WHOLE_CODES].sort());
});
