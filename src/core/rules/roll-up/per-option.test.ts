import { readModel } from '@/core/model';
import { GALLERIES, fieldOf, INSURED_TOTAL, rollUp, ruleOf, stageIs } from '@/core/testing/galleries';
import { compileRule, partsOf, proposedName, type RollUp, sentenceOf } from '@/core/rules';

const model = readModel({
  ...GALLERIES,
  types: GALLERIES.types.map((type) =>
    type.key === 'exhibition'
      ? {
          ...type,
          fields: [
            ...type.fields,
            { key: 'returnedTotal', name: 'Returned total', type: { kind: 'money', currency: 'GBP' } },
          ],
        }
      : type,
  ),
});

const BY_STAGE: RollUp = rollUp({
  ...{ ...INSURED_TOTAL, condition: null },
  perOption: {
    by: fieldOf('stage'),
    option: 'agreed',
    others: [
      { option: 'returned', target: 'returnedTotal' },
      { option: null, target: 'averageInsured' },
    ],
  },
});

const compiled = (definition: RollUp) => {
  const found = compileRule(model, ruleOf(definition, 1));
  if (!found.ok || found.rule.kind !== 'rollUp') throw new Error(JSON.stringify(found));
  return found.rule;
};
const refusedAt = (change: Partial<RollUp>) => {
  const found = compileRule(model, ruleOf({ ...BY_STAGE, ...change }, 1));
  return found.ok ? [] : found.problems.map(({ place, message }) => `${place}: ${message}`);
};
const perOption = BY_STAGE.perOption!;

test('a field for each option is one rule, which keeps each of them, and says so', () => {
  const rule = compiled(BY_STAGE);
  expect(partsOf(rule).map(({ writes }) => writes.field)).toEqual([
    'insuredTotal',
    'returnedTotal',
    'averageInsured',
  ]);
  expect(rule.definition).toEqual(BY_STAGE);
  expect(sentenceOf(model, rule)).toBe(
    'On every Exhibition, keep Insured total equal to the sum of Insured value over its Loans, of those whose Stage is Agreed; Returned total of those whose Stage is Returned; Average insured of those whose Stage is empty. When none count: 0. With the save.',
  );
  expect(proposedName(model, rule, new Set())).toBe('Insured value by stage');
});

test('what all options are asked stands before them', () => {
  const heavy = { ...BY_STAGE, condition: stageIs('agreed') };
  expect(sentenceOf(model, compiled(heavy))).toContain(
    'over its Loans where Stage is Agreed, of those whose Stage is Agreed;',
  );
});

test('an option or a field twice, one that is gone, and what is no choice are refused where they stand', () => {
  expect(
    refusedAt({ perOption: { ...perOption, others: [{ option: 'agreed', target: 'returnedTotal' }] } }),
  ).toEqual(['perOption.0.option: This option has a field already. Choose another.']);
  expect(
    refusedAt({ perOption: { ...perOption, others: [{ option: 'returned', target: 'insuredTotal' }] } }),
  ).toEqual(['perOption.0.target: This rule keeps that field already. Choose another.']);
  expect(
    refusedAt({ perOption: { ...perOption, others: [{ option: 'lost', target: 'returnedTotal' }] } }).join(),
  ).toContain('“lost” isn’t an option of it any more');
  expect(refusedAt({ perOption: { ...perOption, by: fieldOf('dueBack') } }).join()).toContain(
    'A field for each option needs a choice; this field is date.',
  );
  expect(
    refusedAt({ perOption: { ...perOption, others: [{ option: 'returned', target: 'grade' }] } }).join(),
  ).toContain('perOption.0.');
});

test('it doesn’t go with what is said of one result', () => {
  expect(refusedAt({ own: { whenNone: fieldOf('averageInsured') } }).join()).toContain(
    'A rule with a field for each option takes no value of the record itself. Leave one of the two out.',
  );
  expect(
    refusedAt({ also: [{ route: BY_STAGE.route, value: BY_STAGE.value, condition: null }] }).join(),
  ).toContain('brings one kind of records together');
});
