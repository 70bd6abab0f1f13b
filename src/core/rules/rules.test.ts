import {
  AVERAGE_INSURED,
  fieldOf,
  galleries,
  GRADE,
  gbp,
  INSURED_TOTAL,
  LENT_TOTAL,
  LOAN_ARTEFACTS,
  ruleOf,
  stageIs,
} from '@/core/testing/galleries';
import { Failure, OUTSIDE, type TypedField } from '@/core/expression';
import { routeKey } from '@/core/model';
import { Decimal, type Value, type ValueType } from '@/core/values';
import {
  type Aggregate,
  aggregate,
  type Reader,
  compileRollUp,
  proposedName,
  type RollUp,
  routesOffered,
  sentenceOf,
  sentenceParts,
  targetsOffered,
  targetsWithWhy,
  isValueOffered,
  precedenceWords,
} from '.';

const model = galleries();

function compiled(definition: RollUp) {
  const result = compileRollUp(model, ruleOf(definition, 1));
  if (!result.ok) throw new Error(result.problems.map(({ message }) => message).join(' '));
  return result.rule;
}

describe('checking', () => {
  test.each<[string, Partial<RollUp>, string, RegExp]>([
    ['an unknown type', { type: 'crate' }, 'type', /Choose the type/],
    ['an unknown target', { target: 'colour' }, 'target', /Choose the field of Exhibition/],
    ['a required target', { target: 'title' }, 'target', /isn’t required/],
    [
      'a link that goes elsewhere',
      { route: [{ direction: 'down', type: 'loan', link: 'lender' }] },
      'route',
      /Choose which records/,
    ],
    ['an unknown aggregate', { aggregate: 'mode' as never }, 'aggregate', /isn’t an aggregate/],
    [
      'a value that the aggregate doesn’t take',
      { value: fieldOf('dueBack') },
      'value',
      /sum takes number, money; this field is date/,
    ],
    ['no value for a sum', { value: null }, 'value', /whose sum is taken/],
    [
      'a value for a count',
      { aggregate: 'count', target: 'artefactCount', whenNone: '0' },
      'value',
      /takes no value/,
    ],
    [
      'a result of another kind',
      { target: 'artefactCount', whenNone: '0' },
      'target',
      /money in GBP, which can’t be written into Artefact count/,
    ],
    ['a value for none that isn’t one', { whenNone: 'nil' }, 'whenNone', /number with at most 2/],
    ['a condition on what isn’t there', { condition: stageIs('lost') }, 'condition.right', /Expected one of/],
    [
      'a rounding that isn’t one',
      { rounding: { mode: 'nearest', places: 30 } },
      'rounding',
      /0 to 20 places/,
    ],
  ])('refuses %s, at its part of the sentence', (_, change, place, message) => {
    const result = compileRollUp(model, ruleOf({ ...INSURED_TOTAL, ...change }, 1));
    const found = result.ok ? [] : result.problems.filter((problem) => problem.place === place);
    expect(found.map((problem) => problem.message).join(' ')).toMatch(message);
  });

  test('knows everything that it reads: link, value, condition, and each link of a route', () => {
    const reads = compiled(LENT_TOTAL).reads.map(
      ({ type, field, path }) => `${type}.${field} by ${routeKey(path)}`,
    );
    expect(new Set(reads)).toEqual(
      new Set([
        'loan.lender by loan.lender',
        'loan.insuredValue by loan.lender',
        'exhibition.open by loan.lender ^exhibition',
        'loan.exhibition by loan.lender',
      ]),
    );
  });
});

describe('bringing together', () => {
  const given = (definition: RollUp, values: readonly (Value | 'error')[]) => {
    const rule = compiled(definition);
    const isTested = ({ field }: TypedField) => field === 'stage' || field === 'open';
    const reader: Reader<Value | 'error'> = {
      value: (value, field) =>
        isTested(field) ? (field.field === 'stage' ? 'agreed' : true) : value === 'error' ? null : value,
      given: (value, field) =>
        value === 'error' && !isTested(field) ? Failure.of('input_has_problem') : reader.value(value, field),
      idOf: () => '',
      beneath: () => [],
    };
    const members = [{ source: rule.sources[0]!, rows: values, reader }];
    const brought = aggregate(rule, members, { at: null, reader });
    return brought === OUTSIDE ? brought : brought.outcome;
  };

  test('by hand: 12,250.00 and 900.50 make 13,150.50; empty values are left out', () => {
    expect(given(INSURED_TOTAL, [gbp('12250.00'), null, gbp('900.50')])).toEqual({ value: gbp('13150.50') });
  });

  test('an average of 2, 3 and 3 is 2.67, of nothing empty', () => {
    expect(given(AVERAGE_INSURED, [gbp(2), gbp(3), gbp(3)])).toEqual({ value: gbp('2.67') });
    expect(given(AVERAGE_INSURED, [])).toEqual({ value: null });
    expect(given(AVERAGE_INSURED, [null])).toEqual({ value: null });
  });

  test('a sum of nothing is what the rule says', () => {
    expect(given(INSURED_TOTAL, [])).toEqual({ value: gbp(0) });
    expect(given({ ...INSURED_TOTAL, whenNone: null }, [null])).toEqual({ value: null });
  });

  test('smallest and largest', () => {
    expect(given({ ...INSURED_TOTAL, aggregate: 'minimum' }, [gbp(3), gbp(-1), gbp(2)])).toEqual({
      value: gbp(-1),
    });
    expect(given({ ...INSURED_TOTAL, aggregate: 'maximum' }, [gbp(3), gbp(-1), null])).toEqual({
      value: gbp(3),
    });
  });

  test.each<['nearest' | 'up' | 'down', string, string, string]>([
    ['nearest', '0.25', '10.37', '10.25'],
    ['nearest', '0.25', '10.38', '10.5'],
    ['nearest', '5', '12.5', '15'],
    ['nearest', '5', '-12.5', '-15'],
    ['up', '50', '100.01', '150'],
    ['up', '50', '-100.01', '-100'],
    ['up', '50', '100', '100'],
    ['down', '0.05', '10.09', '10.05'],
    ['down', '0.05', '-10.06', '-10.1'],
    ['down', '0.05', '-10.05', '-10.05'],
  ])('to a step, %s of %s: %s becomes %s', (mode, step, from, to) => {
    const rounding = { mode, places: 0, step };
    expect(given({ ...INSURED_TOTAL, rounding }, [gbp(from)])).toEqual({ value: gbp(to) });
  });

  test.each(['0', '-5', 'five', '1e3'])('“%s” is no step', (step) => {
    const rounding = { mode: 'nearest', places: 0, step } as const;
    const result = compileRollUp(model, ruleOf({ ...INSURED_TOTAL, rounding }, 1));
    expect(result.ok ? '' : result.problems[0]!.message).toMatch(/A step is a number above 0/);
  });

  test('a rounding of its own comes before the field’s places', () => {
    expect(given({ ...INSURED_TOTAL, rounding: { mode: 'up', places: 0 } }, [gbp('10.01')])).toEqual({
      value: gbp(11),
    });
  });

  test('what reads a problem carries it on; what doesn’t fit is one', () => {
    expect(given(INSURED_TOTAL, [gbp(1), 'error'])).toEqual({ error: 'input_has_problem' });
    expect(given(GRADE, [new Decimal(4), new Decimal(3)])).toEqual({ error: 'out_of_range' });
  });
});

describe('in words', () => {
  test('a rule reads as its sentence', () => {
    expect(sentenceOf(model, compiled(INSURED_TOTAL))).toBe(
      'On every Exhibition, keep Insured total equal to the sum of Insured value over its Loans where Stage is Agreed. When none count: 0. With the save.',
    );
    expect(sentenceOf(model, compiled(LOAN_ARTEFACTS))).toBe(
      'On every Loan, keep Artefact count equal to the count of its Artefacts. When none count: 0. With the save.',
    );
    expect(
      sentenceOf(model, compiled({ ...AVERAGE_INSURED, rounding: { mode: 'down', places: 0 } })),
    ).toMatch(/, rounded down to whole numbers\. When none count: empty\./);
  });
  test('its parts that can be edited are told apart', () => {
    const parts = sentenceParts(model, compiled(INSURED_TOTAL)).flatMap(({ part }) => part ?? []);
    expect(parts).toEqual([
      ...['type', 'target', 'aggregate', 'value', 'route', 'condition', 'whenNone', 'pace'],
    ]);
  });
  test('a short name is proposed: what one would say, and no other rule’s', () => {
    const named = (...taken: string[]) => proposedName(model, compiled(INSURED_TOTAL), new Set(taken));
    expect(named()).toBe('Insured total');
    expect(named('insured total')).toBe('Insured total of exhibitions');
    expect(named('insured total', 'insured total of exhibitions')).toBe('Insured total of exhibitions 2');
  });
});

describe('what fits', () => {
  const keys = (fields: readonly { key: string }[]) => fields.map(({ key }) => key);
  test('links to the type, fields of kinds that the aggregate takes', () => {
    const values = (aggregate: Aggregate) =>
      keys(model.type('loan')!.fields.filter((field) => isValueOffered(aggregate, field, false)));
    expect(routesOffered(model, 'institution').map(({ route }) => routeKey(route))).toEqual([
      'institution.partOf',
      'exhibition.venue',
      'loan.lender',
      'institution.partOf*',
      'exhibition.venue loan.exhibition',
      'loan.lender artefact.loan',
      'institution.partOf* exhibition.venue',
      'institution.partOf* loan.lender',
      'exhibition.venue loan.exhibition ^lender',
      'exhibition.venue loan.exhibition artefact.loan',
    ]);
    expect(values('sum')).toEqual(['insuredValue', 'artefactCount', 'weight']);
    expect(values('maximum')).toEqual(['insuredValue', 'dueBack', 'artefactCount', 'weight']);
    expect(values('count')).toEqual([]);
  });
  test('targets into which the result can be written, and that no other rule keeps', () => {
    const money = { kind: 'money', currency: 'GBP' } as const;
    expect(keys(targetsOffered(model, 'exhibition', money, () => false))).toEqual([
      'insuredTotal',
      'averageInsured',
    ]);
    expect(keys(targetsOffered(model, 'exhibition', money, (field) => field === 'insuredTotal'))).toEqual([
      'averageInsured',
    ]);
    expect(keys(targetsOffered(model, 'exhibition', { kind: 'number', scale: 3 }, () => false))).toEqual([
      'artefactCount',
      'grade',
    ]);
  });
  test('of other fields it is said why not', () => {
    const why = (result: ValueType | null) =>
      Object.fromEntries(
        targetsWithWhy(model, 'exhibition', result, (field) =>
          field === 'averageInsured' ? 'Mean' : undefined,
        )
          .filter(({ field }) =>
            ['title', 'venue', 'averageInsured', 'insuredTotal', 'lastDue'].includes(field.key),
          )
          .map(({ field, why: words }) => [field.key, words]),
      );
    expect(why({ kind: 'number', scale: 3, unit: 'kg' })).toEqual({
      title: 'required: people enter it',
      venue: 'a link: a link rule fills it',
      averageInsured: 'kept by “Mean”',
      insuredTotal: 'money in GBP; the result is a number in kg',
      lastDue: 'date; the result is a number in kg',
    });
    expect(why({ kind: 'money', currency: 'EUR' }).insuredTotal).toBe(
      'money in GBP; the result is money in EUR',
    );
    expect(why(null).insuredTotal).toBeNull();
  });
});

test('a place among several rules is said as people say it', () => {
  expect([1, 2, 3, 4, 11, 12, 13, 20, 21, 22, 23, 101, 111, 112, null].map(precedenceWords)).toEqual([
    ...['first', 'second', 'third', '4th', '11th', '12th', '13th', '20th', '21st', '22nd', '23rd'],
    ...['101st', '111th', '112th', 'last'],
  ]);
});
