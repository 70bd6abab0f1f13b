import { CASES_MODEL } from '@/core/testing/feel-cases';
import type { Expression } from '@/core/expression';
import { emptyNote, type Test, testOn, withOperator } from './condition-model';

const scope = { model: CASES_MODEL, type: 'thing', nameOf: () => undefined };
const isOpen = { kind: 'field', route: [], field: 'isOpen' } as const;
const notYes = withOperator(isOpen, '!=', testOn(scope, 'isOpen') as Test);
const isEmpty: Expression = { kind: 'presence', operator: 'isEmpty', operand: isOpen };

test('a test on a yes/no begins with yes', () => {
  expect(testOn(scope, 'isOpen')).toEqual({
    ...{ kind: 'compare', operator: '=', left: isOpen },
    right: { kind: 'constant', value: true },
  });
});

test('“is not” says that empty doesn’t count, and offers that it does', () => {
  expect(emptyNote(notYes, [notYes])).toEqual({
    ...{ says: 'not where it is empty', other: 'empty too' },
    instead: { kind: 'group', operator: 'any', of: [notYes, isEmpty] },
  });
  expect(emptyNote(testOn(scope, 'isOpen') as Test, [])).toBeNull();
});

test('nothing is said where it is asked beside it, or where nothing is chosen yet', () => {
  expect(emptyNote(notYes, [notYes, isEmpty])).toBeNull();
  expect(emptyNote(withOperator({ ...isOpen, field: 'size' }, '!=', null), [])).toBeNull();
});

test('“is not among” says that empty counts, and offers that it doesn’t', () => {
  const stage = { kind: 'field', route: [], field: 'stage' } as const;
  const among: Test = { kind: 'among', operator: 'isNotAmong', operand: stage, options: ['low'] };
  expect(emptyNote(among, [])).toMatchObject({
    says: 'also where it is empty',
    other: 'only where it is filled',
  });
  expect(emptyNote({ ...among, options: [] }, [])).toBeNull();
});
