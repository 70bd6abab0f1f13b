import type { Row } from '@/core/engine';
import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { proofOf } from '@/core/testing/proofs';
import { caseSort, PlannedRules, type Proof, describeProof } from '@/core/verify';

const model = galleries();
const [silk, one] = [uuid('11'), uuid('21')];
const total = ruleOf(INSURED_TOTAL, 1, 'Insured total');
const ROWS: Row[] = [
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
  rowOf(model, 'loan', one, {
    title: 'Robes',
    exhibition: silk,
    stage: 'requested',
    insuredValue: gbp(100),
  }),
];
const AGREED: Proof['runs'] = [[{ kind: 'edit', type: 'loan', id: one, values: { stage: 'agreed' } }]];
const expected = (amount: string) => ({
  ...{ kind: 'becomes' as const, type: 'exhibition', id: silk, field: 'insuredTotal' },
  value: { amount, currency: 'GBP' },
});
const told = (more: Partial<Proof>) =>
  describeProof(model, new PlannedRules([total]), proofOf(model, total.id, ROWS, more), () => undefined);

test('a proof is told by what is done and what comes of it', () => {
  expect(told({ runs: AGREED, expectations: [expected('100')] })).toMatchObject({
    given: ['Rivers of Silk', 'Robes: Exhibition Rivers of Silk, Stage Requested, Insured value 100.00 GBP'],
    left: 0,
    saves: [['Robes gets Stage Agreed']],
    cells: [
      {
        what: 'Insured total of Rivers of Silk',
        before: '0.00 GBP',
        after: '100.00 GBP',
        expected: '100.00 GBP',
        isHeld: true,
      },
    ],
    ...{ isHeld: true, says: [], sort: 'acts' },
  });
});

test('where it doesn’t hold, what came stands beside what must', () => {
  const { cells, isHeld, says } = told({ runs: AGREED, expectations: [expected('90')] });
  expect(isHeld).toBe(false);
  expect(cells).toMatchObject([{ after: '100.00 GBP', expected: '90.00 GBP', isHeld: false }]);
  expect(says).toHaveLength(1);
});

test('one that doesn’t fit the model any more is told by its name and why', () => {
  const gone = { ...expected('1'), field: 'gone' };
  const { cells, saves, given, says } = told({ runs: AGREED, expectations: [gone] });
  expect({ cells, saves, given }).toEqual({ cells: [], saves: [], given: [] });
  expect(says[0]).toMatch(/isn’t in the model any more/);
});

test('cases in which a rule acts are told from those in which it must not', () => {
  const stays = { ...expected('0'), kind: 'stays' as const };
  expect(caseSort({ runs: AGREED, expectations: [expected('1'), stays] })).toBe('acts');
  expect(caseSort({ runs: AGREED, expectations: [stays] })).toBe('leaves');
  expect(caseSort({ runs: [], expectations: [stays] })).toBe('acts');
  expect(caseSort({ runs: AGREED, expectations: [{ kind: 'isRefused', run: 0, code: 'x' }] })).toBe('leaves');
});
