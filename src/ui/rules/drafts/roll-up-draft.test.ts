import { readModel, type RuleDefaults, stepDown } from '@/core/model';
import { fieldOf, galleries, GALLERIES, INSURED_TOTAL, stageIs } from '@/core/testing/galleries';
import { changePart, definitionOf, draftOf, NEW_DRAFT, type RuleDraft } from './roll-up-draft';
import { NEW_FORMULA, withTarget } from './formula-draft';
import { routesUp } from '@/ui/expression/field-choices';

const model = galleries();
const loans = [stepDown({ type: 'loan', link: 'exhibition' })];

/** Changes parts one after the other, as a person would. */
const written = (...parts: { [K in keyof RuleDraft]: [K, RuleDraft[K]] }[keyof RuleDraft][]): RuleDraft =>
  parts.reduce((draft, [part, chosen]) => changePart(model, draft, part, chosen as never), NEW_DRAFT);

const total = written(
  ['type', 'exhibition'],
  ['aggregate', 'sum'],
  ['route', loans],
  ['value', fieldOf('insuredValue')],
  ['target', 'insuredTotal'],
  ['condition', stageIs('agreed')],
);

test('a sentence that is written part by part is the rule', () => {
  expect(definitionOf(total)).toEqual({ ...INSURED_TOTAL, whenNone: { amount: '0', currency: 'GBP' } });
});

test('a rule opens into the draft that it came from', () => {
  expect(definitionOf(draftOf(INSURED_TOTAL))).toEqual(INSURED_TOTAL);
});

test('while a part is missing there is no definition', () => {
  expect(definitionOf(NEW_DRAFT)).toBeNull();
  expect(definitionOf({ ...total, value: null })).toBeNull();
  expect(definitionOf({ ...total, aggregate: 'count', value: null, target: 'artefactCount' })).not.toBeNull();
});

describe('what no longer fits is let go, what does stays', () => {
  test('a count has no value; the target stays although it takes no count', () => {
    expect(changePart(model, total, 'aggregate', 'count')).toMatchObject({
      value: null,
      target: 'insuredTotal',
      condition: stageIs('agreed'),
    });
  });
  test('a value of another kind or unit leaves the target, for whoever puts it right', () => {
    expect(changePart(model, total, 'value', fieldOf('weight'))).toMatchObject({ target: 'insuredTotal' });
  });
  test('an average of nothing is empty, a sum of nothing 0', () => {
    const average = changePart(model, total, 'aggregate', 'average');
    expect(average).toMatchObject({ target: 'insuredTotal', whenNone: null });
    expect(changePart(model, average, 'aggregate', 'sum').whenNone).toEqual({ amount: '0', currency: 'GBP' });
  });
  test('another type starts the sentence again, but for the aggregate', () => {
    expect(changePart(model, total, 'type', 'institution')).toEqual({
      ...NEW_DRAFT,
      type: 'institution',
      aggregate: 'sum',
    });
  });
  test('other children let go of the condition on the old ones', () => {
    const lent = written(
      ['type', 'institution'],
      ['aggregate', 'count'],
      ['route', [stepDown({ type: 'loan', link: 'lender' })]],
      ['target', 'partCount'],
      ['condition', stageIs('agreed')],
    );
    expect(
      changePart(model, lent, 'route', [stepDown({ type: 'institution', link: 'partOf' })]),
    ).toMatchObject({
      condition: null,
      target: 'partCount',
    });
  });
});

test('conditions may read up two links', () => {
  expect(routesUp(model, 'artefact').map(({ name, type }) => [name, type])).toEqual([
    ['Loan', 'loan'],
    ['Loan’s Exhibition', 'exhibition'],
    ['Loan’s Lender', 'institution'],
  ]);
});

describe('a new rule begins with the workspace’s defaults', () => {
  const begun = (ruleDefaults: RuleDefaults, aggregate: 'sum' | 'maximum', value: string, target: string) => {
    const own = readModel({ ...GALLERIES, ruleDefaults });
    const parts: [keyof RuleDraft, unknown][] = [
      ['type', 'exhibition'],
      ['aggregate', aggregate],
      ['route', loans],
      ['value', fieldOf(value)],
      ['target', target],
    ];
    return parts.reduce((draft, [part, chosen]) => changePart(own, draft, part, chosen as never), NEW_DRAFT);
  };
  const steps: RuleDefaults = {
    ...{ rounding: { mode: 'up', places: 0, step: '50' }, limits: { least: '0' }, pace: 'withTheSave' },
  };

  test('rounding and limits, where the target holds amounts', () => {
    expect(begun(steps, 'sum', 'insuredValue', 'insuredTotal')).toMatchObject({
      ...{ rounding: steps.rounding, limits: { least: '0' }, whenNone: { amount: '0', currency: 'GBP' } },
    });
    expect(begun(steps, 'maximum', 'dueBack', 'lastDue')).toMatchObject({ rounding: null, limits: null });
  });
  test('places only where the target has as many, as it would be rounded twice', () => {
    const places = (many: number): RuleDefaults => ({
      ...steps,
      rounding: { mode: 'nearest', places: many },
    });
    const rounding = (many: number) => begun(places(many), 'sum', 'insuredValue', 'insuredTotal').rounding;
    expect(rounding(2)).toEqual({ mode: 'nearest', places: 2 });
    expect(rounding(3)).toBeNull();
  });
  test('a formula too; what is chosen afterwards stays when the target changes', () => {
    const own = readModel({ ...GALLERIES, ruleDefaults: steps });
    const formula = withTarget(own, { ...NEW_FORMULA, type: 'exhibition' }, 'insuredTotal');
    expect(formula).toMatchObject({ target: 'insuredTotal', rounding: steps.rounding });
    const chosen = { ...formula, rounding: null };
    expect(withTarget(own, chosen, 'averageInsured').rounding).toBeNull();
  });
});
