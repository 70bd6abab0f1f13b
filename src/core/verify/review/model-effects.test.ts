import { changeModel, type ModelChange, readModel } from '@/core/model';
import {
  fieldOf,
  galleries,
  GALLERIES,
  INSURED_TOTAL,
  LENT_TOTAL,
  LOAN_ARTEFACTS,
  rollUp,
  ruleOf,
} from '@/core/testing/galleries';
import { type MetRule, modelEffects } from '@/core/verify';

const rules: MetRule[] = [
  { ...ruleOf(INSURED_TOTAL, 1, 'Total'), state: 'live' },
  { ...ruleOf(LENT_TOTAL, 2, 'Lent'), state: 'live' },
  { ...ruleOf(LOAN_ARTEFACTS, 3, 'Pieces'), state: 'paused' },
];

function effectsOf(changes: ModelChange[], of: readonly MetRule[] = rules) {
  const result = changeModel(GALLERIES, changes);
  if (!result.ok) throw new Error(result.problems[0]!.message);
  return modelEffects(galleries(), readModel(result.definition), result.steps, of, () => undefined);
}
const loan = GALLERIES.types.find(({ key }) => key === 'loan')!;
const field = (key: string) => loan.fields.find((one) => one.key === key)!;

test('a field that rules read can’t go, and they are named with their reasons, paused ones too', () => {
  const effects = effectsOf([{ kind: 'removeField', type: 'loan', key: 'insuredValue' }]);
  expect(effects.blocked.map(({ rule }) => rule.name)).toEqual(['Total', 'Lent']);
  expect(effects.blocked[0]!.problems.length).toBeGreaterThan(0);
  expect(effects.again).toEqual([]);
  const paused = effectsOf([{ kind: 'removeField', type: 'loan', key: 'artefactCount' }]);
  expect(paused.blocked.map(({ rule }) => rule.name)).toEqual(['Pieces']);
});

test('a new name is carried through: the sentence before and after, nothing to work out', () => {
  const effects = effectsOf([
    {
      ...{ kind: 'changeType', key: 'loan' },
      to: { name: 'Loan in', plural: 'Loans in', title: 'title' },
    },
  ]);
  expect(effects.blocked).toEqual([]);
  const renamed = effectsOf([
    {
      ...{ kind: 'changeField', type: 'loan' },
      to: { ...field('insuredValue'), name: 'Cover' },
    },
  ]);
  const total = renamed.touched.find(({ name }) => name === 'Total')!;
  expect(total.before).toContain('Insured value');
  expect(total.after).toContain('Cover');
});

test('an option that a condition asks for can’t go', () => {
  const stage = field('stage');
  const options = stage.type.kind === 'choice' ? stage.type.options : [];
  const effects = effectsOf([
    {
      ...{ kind: 'changeField', type: 'loan' },
      to: { ...stage, type: { kind: 'choice', options: options.filter(({ key }) => key !== 'agreed') } },
      replaced: { agreed: 'requested' },
    },
  ]);
  expect(effects.blocked.map(({ rule }) => rule.name)).toContain('Total');
});

test('live rules over values that change are worked out again, with what follows from them', () => {
  const count = field('artefactCount');
  const live = rules.map((rule): MetRule => ({ ...rule, state: 'live' }));
  const scaled: ModelChange = {
    ...{ kind: 'changeField', type: 'loan' },
    to: { ...count, type: { kind: 'number', scale: 2 } },
  };
  expect(effectsOf([scaled], live).again).toEqual([live[2]!.id]);
  const helped: ModelChange = {
    ...{ kind: 'changeField', type: 'loan' },
    to: { ...field('insuredValue'), help: 'As the lender says.' },
  };
  expect(effectsOf([helped]).again).toEqual([]);
});

test('defaults for new rules change nothing of those that are there; what couldn’t be kept is refused', () => {
  const to = { rounding: { mode: 'up', places: 1 }, limits: { most: '100' }, pace: 'withTheSave' } as const;
  const effects = effectsOf([{ kind: 'changeRuleDefaults', to }]);
  expect(effects).toEqual({ blocked: [], unreadable: [], touched: [], again: [], reacting: [] });
  const problems = (given: object) =>
    effectsOf([{ kind: 'changeRuleDefaults', to: { ...to, ...given } }]).unreadable.map(({ code }) => code);
  expect(problems({ rounding: { mode: 'up', places: 0, step: '0' } })).toEqual(['rule.rounding']);
  expect(problems({ limits: { least: 'much' } })).toEqual(['rule.limits']);
  expect(problems({ limits: { least: '10', most: '1' } })).toEqual(['rule.limits']);
});

test('a rule that takes several fields together isn’t worked out again for nothing', () => {
  const last: MetRule = {
    ...ruleOf(
      rollUp({
        ...{ type: 'exhibition', target: 'lastDue', aggregate: 'last' },
        route: [{ direction: 'down', type: 'loan', link: 'exhibition' }],
        ...{ value: fieldOf('dueBack'), order: [fieldOf('dueBack')] },
        together: [{ target: 'averageInsured', values: [fieldOf('insuredValue')] }],
      }),
      4,
    ),
    state: 'live',
  };
  const to = { rounding: null, limits: { least: '0' }, pace: 'withTheSave' } as const;
  expect(effectsOf([{ kind: 'changeRuleDefaults', to }], [...rules, last]).again).toEqual([]);
});
