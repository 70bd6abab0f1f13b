import {
  fieldOf,
  galleries,
  GALLERIES,
  INSURED_TOTAL,
  LENT_TOTAL,
  LOAN_ARTEFACTS,
} from '@/core/testing/galleries';
import { readModel } from '@/core/model';
import { ruleOnType } from './on-type';

const model = galleries();

test('a roll-up is copied over the only link that leads to the same records from there', () => {
  const { definition, problems } = ruleOnType(
    model,
    { ...INSURED_TOTAL, target: 'lentTotal' },
    'institution',
  );
  expect(definition).toMatchObject({
    ...{ type: 'institution', target: 'lentTotal' },
    route: [{ direction: 'down', type: 'loan', link: 'lender' }],
  });
  expect(problems).toEqual([]);
});

test('what is read beyond the link is read over the other one', () => {
  const rule = {
    ...{ ...INSURED_TOTAL, target: 'lentTotal' },
    condition: {
      ...({ kind: 'compare', operator: '=', right: { kind: 'constant', value: 'x' } } as const),
      left: fieldOf('title', 'exhibition'),
    },
  };
  const { definition } = ruleOnType(model, rule, 'institution');
  expect(definition).toMatchObject({ condition: { left: { route: ['lender'], field: 'title' } } });
});

test('what doesn’t fit there stays and is told', () => {
  const noField = ruleOnType(model, INSURED_TOTAL, 'institution');
  expect(noField.problems).toMatchObject([{ code: 'rule.target', place: 'target' }]);
  const noLink = ruleOnType(model, LOAN_ARTEFACTS, 'exhibition');
  expect(noLink.definition).toMatchObject({ type: 'exhibition', route: LOAN_ARTEFACTS.route });
  expect(noLink.problems).not.toEqual([]);
});

test('of two links none is guessed', () => {
  const [institution, exhibition, loan, ...others] = GALLERIES.types;
  const second = loan!.fields.find(({ key }) => key === 'lender')!;
  const two = readModel({
    types: [
      ...[institution!, exhibition!, ...others],
      { ...loan!, fields: [...loan!.fields, { ...second, key: 'payer', otherEnd: 'Paid loans' }] },
    ],
  });
  const { definition } = ruleOnType(two, INSURED_TOTAL, 'institution');
  expect(definition).toMatchObject({ route: INSURED_TOTAL.route });
  expect(ruleOnType(two, LENT_TOTAL, 'institution')).toMatchObject({ definition: LENT_TOTAL, problems: [] });
});
