import type { RuleView } from '@/core/api';
import { isFirstLook, lookName, lookRules, lookSteps } from './first-look';

const rule = (id: string, state: string, aggregate: string, type = 'loan') =>
  ({ id, name: id, state, definition: { kind: 'rollUp', aggregate, type } }) as unknown as RuleView;

test('it goes through a live sum and a draft, of one type where there are such', () => {
  const rules = [
    rule('count', 'live', 'count'),
    rule('sum of shows', 'live', 'sum', 'show'),
    rule('sum of loans', 'live', 'sum'),
    rule('draft', 'draft', 'maximum'),
  ];
  const found = lookRules(rules)!;
  expect([found.read.id, found.draft.id]).toEqual(['sum of loans', 'draft']);
  expect(lookRules(rules.slice(0, 3))).toBeNull();
  expect(lookRules([rules[0]!, rules[3]!])!.read.id).toBe('count');
  expect(lookSteps(found).map(({ deed }) => deed)).toEqual([
    'read',
    'edited',
    'opened',
    'proofKept',
    'takenLive',
  ]);
});

test('what stands in its place and isn’t one is as none', () => {
  expect(isFirstLook({ workspace: 'a', name: 'A', from: 'b', done: [] })).toBe(true);
  for (const other of [null, 'a', { workspace: 'a' }, { workspace: 'a', name: 'A', from: 'b', done: 1 }])
    expect(isFirstLook(other)).toBe(false);
});

test('several people look at the same time', () => {
  expect(lookName(['Wrenfield'])).toBe('A first look');
  expect(lookName(['A first look', 'A FIRST LOOK 2'])).toBe('A first look 3');
});
