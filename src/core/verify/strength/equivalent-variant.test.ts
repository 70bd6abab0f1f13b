import type { Expression } from '@/core/expression';
import { fieldOf, galleries, INSURED_TOTAL, rollUp } from '@/core/testing/galleries';
import { CRATE, lending } from '@/core/testing/lending';
import { isProvablyEquivalent } from './equivalent-variant';

const model = galleries();
const compare = (
  field: string,
  operator: Extract<Expression, { kind: 'compare' }>['operator'],
  value: string | boolean,
): Expression => ({
  ...{ kind: 'compare', operator, left: fieldOf(field), right: { kind: 'constant', value } },
});
const group = (operator: 'all' | 'any' | 'none', ...of: Expression[]): Expression => ({
  kind: 'group',
  operator,
  of,
});
const empty: Expression = { kind: 'presence', operator: 'isEmpty', operand: fieldOf('weight') };
const agreed = compare('stage', '=', 'agreed');
const withCondition = (condition: Expression | null) => rollUp({ ...INSURED_TOTAL, condition });

test.each<[boolean, string, Expression | null, Expression | null]>([
  [true, 'the same test written twice', agreed, group('all', agreed, agreed)],
  [
    true,
    'a bound and the next value of its field',
    compare('weight', '>', '2.5'),
    compare('weight', '>=', '2.501'),
  ],
  [false, 'a bound moved', compare('weight', '>', '2.5'), compare('weight', '>', '2.501')],
  [
    true,
    'a bound that another implies',
    compare('weight', '>', '3'),
    group('all', compare('weight', '>', '3'), compare('weight', '>', '2')),
  ],
  [
    false,
    'a bound that doesn’t',
    compare('weight', '>', '3'),
    group('all', compare('weight', '>', '3'), compare('weight', '<', '9')),
  ],
  [
    true,
    'what can’t hold',
    group('all', agreed, compare('stage', '=', 'declined')),
    group('none', group('any', agreed, group('none', agreed))),
  ],
  [
    false,
    'unlike, which empty isn’t, and not alike, which it is',
    compare('stage', '!=', 'agreed'),
    group('none', agreed),
  ],
  [true, 'all there may be', null, group('any', empty, group('none', empty))],
  [false, 'no condition and one', null, agreed],
  [
    false,
    'what isn’t a test against constants is undecided',
    { kind: 'compare', operator: '<', left: fieldOf('weight'), right: fieldOf('weight') },
    group('all', agreed, group('none', agreed)),
  ],
])('%s: %s', (isSame, _, one, other) => {
  expect(isProvablyEquivalent(model, withCondition(one), withCondition(other))).toBe(isSame);
  expect(isProvablyEquivalent(model, withCondition(other), withCondition(one))).toBe(isSame);
});

test('what a rule that fills only what is empty leaves where it finds none, and how often a largest value comes', () => {
  expect(isProvablyEquivalent(lending(), CRATE, { ...CRATE, none: 'clear' })).toBe(true);
  expect(
    isProvablyEquivalent(
      lending(),
      { ...CRATE, holds: 'always' },
      { ...CRATE, holds: 'always', none: 'clear' },
    ),
  ).toBe(false);
  for (const [aggregate, isSame] of [
    ['maximum', true],
    ['sum', false],
  ] as const) {
    const rule = rollUp({ ...INSURED_TOTAL, aggregate });
    expect(isProvablyEquivalent(model, rule, { ...rule, isEveryWay: true })).toBe(isSame);
  }
  expect(isProvablyEquivalent(model, INSURED_TOTAL, { ...INSURED_TOTAL, target: 'loans' })).toBe(false);
});
