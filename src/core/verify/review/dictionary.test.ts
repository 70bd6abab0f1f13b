import { galleries, INSURED_TOTAL, LOAN_ARTEFACTS, ruleOf } from '@/core/testing/galleries';
import { dictionaryOf } from '@/core/verify';

const rule = (given: ReturnType<typeof ruleOf>, state: 'live' | 'draft') => ({
  ...{ ...given, state, note: 'Asked for by the insurer', tags: ['Insurer'] },
});

test('types with their fields, options, selections and who writes them; rules as sentences, by type', () => {
  const { types, rules } = dictionaryOf(
    galleries(),
    [
      rule(ruleOf(LOAN_ARTEFACTS, 1, 'Pieces'), 'draft'),
      rule(ruleOf(INSURED_TOTAL, 2, 'Insured total'), 'live'),
    ],
    () => undefined,
  );
  const field = (type: string, name: string) =>
    types.find((one) => one.name === type)!.fields.find((one) => one.name === name);
  expect(field('Exhibition', 'Insured total')).toMatchObject({
    ...{ kind: 'money, GBP', writtenBy: ['Insured total'], isRequired: false },
  });
  // A draft writes nothing.
  expect(field('Loan', 'Artefact count')!.writtenBy).toEqual([]);
  expect(field('Loan', 'Stage')!.options).toEqual(['Requested', 'Agreed', 'Declined', 'Returned']);
  expect(field('Loan', 'Title')).toMatchObject({ kind: 'text', isRequired: true });
  expect(rules.map(({ name, type, state }) => [name, type, state])).toEqual([
    ['Insured total', 'Exhibition', 'live'],
    ['Pieces', 'Loan', 'draft'],
  ]);
  expect(rules[0]!.sentence).toMatch(/^On every Exhibition, keep Insured total equal to the sum of/);
});

test('a rule that doesn’t fit the model any more says so', () => {
  const gone = rule(ruleOf({ ...INSURED_TOTAL, target: 'gone' }, 1, 'Old'), 'draft');
  expect(dictionaryOf(galleries(), [gone], () => undefined).rules[0]!.sentence).toMatch(
    /^It doesn’t fit the model: /,
  );
});
