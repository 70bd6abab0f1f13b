import type { Expression } from '@/core/expression';
import { hasOpenTests, withoutOpenTests } from './open-tests';

const stage = { kind: 'field', route: [], field: 'stage' } as const;
const whole: Expression = {
  ...{ kind: 'compare', operator: '=', left: stage, right: { kind: 'constant', value: 'agreed' } },
};
const open: Expression = { ...whole, right: { kind: 'constant', value: null } };
const among: Expression = { kind: 'among', operator: 'isAmong', operand: stage, options: [] };
const all = (...of: Expression[]): Expression => ({ kind: 'group', operator: 'all', of });

test('tests that are still open are left out, and groups of nothing else', () => {
  expect(withoutOpenTests(all(whole, open, all(among, open)))).toEqual(all(whole));
  expect(withoutOpenTests({ condition: all(among), value: stage })).toEqual({
    condition: null,
    value: stage,
  });
  expect(withoutOpenTests<Expression | null>(open)).toBeNull();
});

test('what is whole stays as it is', () => {
  const written = { condition: all(whole), map: [{ value: null }] };
  expect(withoutOpenTests(written)).toEqual(written);
  expect([hasOpenTests(written), hasOpenTests(all(whole, open))]).toEqual([false, true]);
});
