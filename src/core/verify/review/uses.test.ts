import type { Expression } from '@/core/expression';
import { readModel } from '@/core/model';
import {
  fieldOf,
  galleries,
  GALLERIES,
  INSURED_TOTAL,
  LENT_TOTAL,
  LOAN_ARTEFACTS,
  ruleOf,
  stageIs,
} from '@/core/testing/galleries';
import { type Named, type UsedBy, usesOf } from '@/core/verify';

const RULES = [
  ruleOf(INSURED_TOTAL, 1, 'Insured total'),
  ruleOf(LENT_TOTAL, 2, 'Lent total'),
  ruleOf(LOAN_ARTEFACTS, 3, 'Pieces'),
].map((rule) => ({ ...rule, state: 'live' as const }));
const [total] = RULES;
const due: Expression = {
  ...{ kind: 'compare', operator: '>=', left: fieldOf('weight'), right: { kind: 'constant', value: '5' } },
};
const model = readModel({
  ...GALLERIES,
  types: GALLERIES.types.map((type) =>
    type.key === 'loan'
      ? { ...type, sections: [{ name: 'Transport', fields: ['weight'], condition: stageIs('agreed') }] }
      : type,
  ),
  selections: [{ key: 'heavy', name: 'Heavy', type: 'loan', condition: due }],
});
const BY: UsedBy = {
  rules: RULES,
  lists: [
    {
      ...{ id: 'l1', name: 'By stage' },
      definition: {
        kind: 'list',
        type: 'loan',
        columns: ['stage', 'dueBack'],
        sort: '-weight',
        condition: null,
      },
    },
    { id: 'l2', name: 'Joined', definition: { kind: 'joined', selections: ['heavy'] } },
  ],
  proofs: [
    {
      ...{ id: 'p1', rule: total!.id, name: 'As it stands', people: ['ines'] },
      expectations: [{ kind: 'becomes', type: 'exhibition', id: 'x', field: 'insuredTotal', value: null }],
    },
  ],
  requests: [{ id: 'r1', name: 'For the insurer', rules: [total!.id] }],
  nameOf: () => 'Ines',
};
const uses = (named: Named) => usesOf(model, BY, named).map(({ where, name }) => `${where} ${name}`);

test.each<[Named, string[]]>([
  [
    { kind: 'field', type: 'loan', field: 'stage' },
    ['rule Insured total', 'section Transport of Loan', 'list By stage', 'request For the insurer'],
  ],
  [
    { kind: 'field', type: 'exhibition', field: 'insuredTotal' },
    ['rule Insured total', 'proof As it stands', 'request For the insurer'],
  ],
  [
    { kind: 'field', type: 'loan', field: 'weight' },
    ['selection Heavy', 'section Transport of Loan', 'list By stage'],
  ],
  [
    { kind: 'option', type: 'loan', field: 'stage', option: 'agreed' },
    ['rule Insured total', 'section Transport of Loan', 'request For the insurer'],
  ],
  [{ kind: 'option', type: 'loan', field: 'stage', option: 'returned' }, []],
  [{ kind: 'selection', selection: 'heavy' }, ['list Joined']],
  [{ kind: 'person', person: 'ines' }, ['proof As it stands']],
  [{ kind: 'type', type: 'artefact' }, ['rule Pieces']],
])('where %j is used', (named, expected) => expect(uses(named)).toEqual(expected));

test('a rule that doesn’t fit the model is left out', () => {
  const broken = { ...total!, definition: { ...INSURED_TOTAL, target: 'gone' } };
  const found = usesOf(
    galleries(),
    { ...BY, rules: [broken] },
    { kind: 'field', type: 'loan', field: 'stage' },
  );
  expect(found.map(({ where }) => where)).toEqual(['list']);
});
