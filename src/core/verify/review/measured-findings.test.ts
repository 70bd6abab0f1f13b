import { INSURED_TOTAL, fieldOf, galleries, LENT_TOTAL } from '@/core/testing/galleries';
import { closedFields, measuredFindings, testedFields, withoutTestsOf } from '@/core/verify';

const model = galleries();

test('fields whose values a condition tests are measured, up its ways too; asked whether empty they aren’t', () => {
  expect(testedFields(model, INSURED_TOTAL)).toEqual([{ type: 'loan', field: 'stage' }]);
  expect(testedFields(model, LENT_TOTAL)).toEqual([{ type: 'exhibition', field: 'open' }]);
  const asked = { kind: 'presence', operator: 'isEmpty', operand: fieldOf('dueBack') } as const;
  expect(testedFields(model, { ...INSURED_TOTAL, condition: asked })).toEqual([]);
});

test('what a rule keeps is closed to imports; what it reacts into isn’t', () => {
  expect(closedFields(model, INSURED_TOTAL)).toEqual([{ type: 'exhibition', field: 'insuredTotal' }]);
  const map = { rows: [], otherwise: { kind: 'asItIs' } } as const;
  expect(closedFields(model, { ...INSURED_TOTAL, map })).toEqual([]);
});

test('a field that hardly any of enough records has is told, and an import with its day', () => {
  const stage = { type: 'loan', field: 'stage' };
  type Given = Parameters<typeof measuredFindings>;
  const why = (fields: Given[2], imports: Given[3]) =>
    measuredFindings(model, INSURED_TOTAL, fields, imports).map((finding) => finding.why);
  expect(why([{ ...stage, records: 1_250, empty: 1_225 }], [])).toEqual([
    'A condition tests Stage, which is empty in 1,225 of 1,250 Loans: of these it holds for none.',
  ]);
  expect(why([{ ...stage, records: 1_250, empty: 1_200 }], [])).toEqual([]);
  expect(why([{ ...stage, records: 10, empty: 10 }], [])).toEqual([]);
  const total = { type: 'exhibition', field: 'insuredTotal' };
  expect(why([], [{ ...total, records: 3, lastDay: '2026-03-14' }])[0]).toMatch(
    /^An import filled Insured total on 3 Exhibitions, last on 14 Mar 2026: while the rule keeps it/,
  );
});

test('the tests of such a field are left out by a press; what else the condition asks stays', () => {
  const stage = { type: 'loan', field: 'stage' };
  const left = (condition: typeof INSURED_TOTAL.condition) => {
    const fix = withoutTestsOf(model, { ...INSURED_TOTAL, condition }, stage);
    return fix && [fix.label, (fix.definition as typeof INSURED_TOTAL).condition];
  };
  const isAgreed = INSURED_TOTAL.condition!;
  const isDue = { kind: 'presence', operator: 'isNotEmpty', operand: fieldOf('dueBack') } as const;
  const all = (...of: (typeof isAgreed)[]) => ({ kind: 'group', operator: 'all', of }) as const;
  expect(left(isAgreed)).toEqual(['Don’t test Stage', null]);
  expect(left(all(isAgreed, isDue))).toEqual(['Don’t test Stage', isDue]);
  expect(left(all(isDue, isAgreed, isDue))).toEqual(['Don’t test Stage', all(isDue, isDue)]);
  const none = (...of: (typeof isAgreed)[]) => ({ kind: 'group', operator: 'none', of }) as const;
  expect(left(none(isAgreed, isDue))).toEqual(['Don’t test Stage', none(isDue)]);
  expect(left(isDue)).toBeNull();
});
