import { readModel } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { RuleDefinition } from '@/core/rules';
import { CIRCLES } from '@/core/testing/circles';
import { ALL_RULES, fieldOf, galleries, INSURED_TOTAL, rollUp, ruleOf } from '@/core/testing/galleries';
import { inspections, LINE, TREATMENT } from '@/core/testing/inspections';
import { CASCADES, touring } from '@/core/testing/touring';
import { variantsOf } from '@/core/verify';

const model = galleries();
const what = (definition: RuleDefinition, of = model) =>
  variantsOf(of, ruleOf(definition, 1)).map((one) => one.what);

describe('the variants of a rule', () => {
  test('leave out and turn round each test, move each limit, and take another aggregate, field and empty case', () => {
    const both = rollUp({
      ...INSURED_TOTAL,
      condition: {
        ...{ kind: 'group', operator: 'all' },
        of: [
          INSURED_TOTAL.condition!,
          {
            kind: 'compare',
            operator: '>',
            left: fieldOf('weight'),
            right: { kind: 'constant', value: '2.5' },
          },
        ],
      },
    });
    const found = what(both);
    expect(found).toEqual(
      expect.arrayContaining([
        'without “Stage is Agreed”',
        'without “Weight is more than 2.500”',
        'with “Stage is not Agreed” in place of “Stage is Agreed”',
        'with “Weight is at least 2.500” in place of “Weight is more than 2.500”',
        'with “Weight is more than 2.501” in place of “Weight is more than 2.500”',
        'with “Weight is more than 2.499” in place of “Weight is more than 2.500”',
        'with the average in place of the sum',
        'with nothing where none count',
      ]),
    );
    expect(new Set(found).size).toBe(found.length);
  });

  test('are rules that fit the model, each unlike the rule itself, for every kind of rule', () => {
    const cases = [
      ...ALL_RULES.map(({ definition }) => [model, definition] as const),
      ...[...Object.values(CASCADES), ...CIRCLES].map((definition) => [touring(), definition] as const),
      ...[TREATMENT, LINE].map((definition) => [inspections(), definition] as const),
    ];
    for (const [of, definition] of cases) {
      const variants = variantsOf(of, ruleOf(definition, 1));
      expect(variants.length).toBeGreaterThan(0);
      for (const variant of variants) {
        expect(buildPlan(of, [ruleOf(variant.definition, 1)]).problems).toEqual([]);
        expect(variant.definition).not.toEqual(definition);
      }
    }
  });

  test('of a percentile move its number, of joined texts begin at the other end', () => {
    const percentile = rollUp({ ...INSURED_TOTAL, aggregate: 'percentile', percent: 90 });
    expect(what(percentile)).toEqual(
      expect.arrayContaining([
        'with 89 in a hundred in place of 90 in a hundred',
        'with 91 in a hundred in place of 90 in a hundred',
        'with the median in place of the percentile',
      ]),
    );
    const joined = rollUp({
      ...INSURED_TOTAL,
      ...{
        type: 'exhibition',
        target: 'title',
        aggregate: 'joined',
        value: fieldOf('title'),
        whenNone: null,
      },
      joining: { separator: ', ', isFromLast: true },
    });
    const within = readModel({
      types: model.types.map((type) => ({
        ...type,
        fields: type.fields.map((field) =>
          type.key === 'exhibition' && field.key === 'title' ? { ...field, required: false } : field,
        ),
      })),
    });
    expect(what(joined, within)).toContain(
      'from the first to the last in place of from the last to the first',
    );
  });

  test('of a cascade watch something else, write elsewhere, and cascade less', () => {
    expect(what(CASCADES.courier, touring())).toEqual(
      expect.arrayContaining([
        'whenever Phase changes',
        'when Phase stops being it',
        'with Availability emptied',
      ]),
    );
  });
});
