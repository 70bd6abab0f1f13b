import type { Expression } from '@/core/expression';
import { readModel } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { Cascade, RollUp, Rule, RuleDefinition } from '@/core/rules';
import { fieldOf, galleries, INSURED_TOTAL, LENT_TOTAL, rollUp, ruleOf } from '@/core/testing/galleries';
import { CASCADES, touring } from '@/core/testing/touring';
import { findingsAmong, fixesOf, reviewOf, type Rewritten } from '@/core/verify';

const model = galleries();
const review = (definition: RuleDefinition, others: readonly Rule[] = [], of = model) =>
  reviewOf(of, others, ruleOf(definition, 1));
const codes = (...given: Parameters<typeof review>) => review(...given).map(({ code }) => code);
const stage = (value: string): Expression => ({
  ...{ kind: 'compare', operator: '=', left: fieldOf('stage'), right: { kind: 'constant', value } },
});
const group = (operator: 'all' | 'any', ...of: Expression[]): Expression => ({ kind: 'group', operator, of });

/** What a fix makes fits the model, and isn't found any more. */
function expectFixed(definition: RuleDefinition, others: readonly Rule[] = [], of = model): RuleDefinition {
  const [finding] = review(definition, others, of);
  const fixed = finding!.fix!.definition;
  expect(buildPlan(of, [ruleOf(fixed, 1)]).problems).toEqual([]);
  expect(codes(fixed, others, of)).not.toContain(finding!.code);
  return fixed;
}

test('a plain rule has nothing to look at', () => {
  expect(codes(INSURED_TOTAL)).toEqual([]);
  expect(codes(LENT_TOTAL, [ruleOf(INSURED_TOTAL, 2)])).toEqual([]);
});

test('a condition that can’t hold is told, and how it might be meant', () => {
  const never = rollUp({ ...INSURED_TOTAL, condition: group('all', stage('agreed'), stage('declined')) });
  expect(review(never)).toMatchObject([
    {
      code: 'review.never',
      why: 'The condition which Loans count can’t hold for any record: “Stage is Agreed and Stage is Declined”.',
    },
  ]);
  expect((expectFixed(never) as RollUp).condition).toMatchObject({ operator: 'any' });
  const bounds = (least: string, most: string): Expression =>
    group(
      'all',
      { kind: 'compare', operator: '>', left: fieldOf('weight'), right: { kind: 'constant', value: least } },
      { kind: 'compare', operator: '<', left: fieldOf('weight'), right: { kind: 'constant', value: most } },
    );
  expect(codes(rollUp({ ...INSURED_TOTAL, condition: bounds('2', '2.001') }))).toEqual(['review.never']);
  expect(codes(rollUp({ ...INSURED_TOTAL, condition: bounds('2', '2.002') }))).toEqual([]);
});

test('a condition that always holds is told, unless a field may be empty', () => {
  const isEmpty = (operator: 'isEmpty' | 'isNotEmpty', field: string): Expression => ({
    ...{ kind: 'presence', operator, operand: fieldOf(field) },
  });
  const always = rollUp({
    ...INSURED_TOTAL,
    condition: group('any', isEmpty('isEmpty', 'weight'), isEmpty('isNotEmpty', 'weight')),
  });
  expect(codes(always)).toEqual(['review.always']);
  expect((expectFixed(always) as RollUp).condition).toBeNull();
  // People must give a title; a weight they needn't.
  expect(codes(rollUp({ ...INSURED_TOTAL, condition: isEmpty('isNotEmpty', 'title') }))).toEqual([
    'review.always',
  ]);
  expect(codes(rollUp({ ...INSURED_TOTAL, condition: isEmpty('isNotEmpty', 'weight') }))).toEqual([]);
});

test('what it reads is brought up to date more slowly than itself', () => {
  const weekly = ruleOf(
    rollUp({
      ...INSURED_TOTAL,
      pace: { kind: 'timetable', every: 'week', at: '06:00', weekday: 1 },
    }),
    2,
    'Weekly',
  );
  const reading: RuleDefinition = {
    ...{ kind: 'formula', type: 'exhibition', target: 'averageInsured', appliesWhen: null, otherwise: null },
    ...{ value: fieldOf('insuredTotal'), rounding: null, pace: 'withTheSave' },
  };
  expect(review(reading, [weekly])).toMatchObject([
    {
      code: 'review.slowerInput',
      why: expect.stringMatching(/^It reads Insured total, which “Weekly” brings/) as unknown,
    },
  ]);
  expect(expectFixed(reading, [weekly])).toMatchObject({ pace: weekly.definition.pace });
  expect(
    codes(reading, [{ ...weekly, definition: { ...weekly.definition, pace: 'withTheSave' } as RollUp }]),
  ).toEqual([]);
});

test('what hangs on today is brought up to date at least every day', () => {
  const today = readModel(model, '2027-03-01');
  const dated = (pace: RollUp['pace']) =>
    rollUp({
      ...INSURED_TOTAL,
      pace,
      condition: {
        ...{ kind: 'compare', operator: '<', left: fieldOf('dueBack') },
        right: { kind: 'day', from: 'today', plus: 0, unit: 'day' },
      },
    });
  expect(codes(dated({ kind: 'onRequest', field: null }), [], today)).toEqual(['review.slowDate']);
  expect(expectFixed(dated({ kind: 'onRequest', field: null }), [], today)).toMatchObject({
    pace: 'withTheSave',
  });
  expect(codes(dated({ kind: 'timetable', every: 'day', at: '06:00' }), [], today)).toEqual([]);
});

describe('what counts more than once', () => {
  const crates = readModel({
    types: [
      {
        ...{ key: 'shipment', name: 'Shipment', plural: 'Shipments', title: 'title' },
        fields: [
          { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
          { key: 'cover', name: 'Cover', type: { kind: 'number', scale: 0 } },
        ],
      },
      {
        ...{ key: 'crate', name: 'Crate', plural: 'Crates', title: 'title' },
        fields: [
          { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
          {
            key: 'inside',
            name: 'Inside',
            type: { kind: 'link', target: 'crate' },
            otherEnd: 'Crates inside',
          },
          {
            key: 'shipment',
            name: 'Shipment',
            type: { kind: 'link', target: 'shipment' },
            otherEnd: 'Crates',
          },
          { key: 'own', name: 'Own cover', type: { kind: 'number', scale: 0 } },
          { key: 'cover', name: 'Cover', type: { kind: 'number', scale: 0 } },
          { key: 'sealed', name: 'Sealed', type: { kind: 'yesNo' } },
        ],
      },
    ],
  });
  const down = (link: string) => [{ direction: 'down' as const, type: 'crate', link }];
  const sum = (more: Partial<RollUp>): RollUp => ({
    ...{ kind: 'rollUp', type: 'crate', target: 'cover', aggregate: 'sum', route: down('inside') },
    ...{ value: fieldOf('cover'), condition: null, whenNone: '0', rounding: null, pace: 'withTheSave' },
    ...more,
  });
  const cover = ruleOf(sum({}), 2, 'Crate cover');
  const total = sum({ type: 'shipment', route: down('shipment') });

  test('is a total of sub-totals', () => {
    expect(review(total, [cover], crates)).toMatchObject([
      {
        code: 'review.subTotals',
        why: 'Cover of a Crate holds that of the Crates beneath it already, by “Crate cover”: added up over all of them they count more than once.',
        fix: { label: 'Only Crates where Inside is empty' },
      },
    ]);
    expect(expectFixed(total, [cover], crates)).toMatchObject({ condition: { operator: 'isEmpty' } });
    expect(codes(total, [], crates)).toEqual([]);
  });

  test('and a flag that nobody clears stays', () => {
    const flag: RuleDefinition = {
      ...{ kind: 'cascade', type: 'crate', route: [], condition: null, pace: 'withTheSave' },
      moment: { kind: 'onChange', tests: [{ kind: 'became', field: 'own', value: '1' }], where: null },
      assignments: [
        { target: 'sealed', value: { kind: 'expression', expression: { kind: 'constant', value: true } } },
      ],
    };
    const [finding] = review(flag, [], crates);
    expect(finding).toMatchObject({ code: 'review.flag', fix: null });
    expect(finding!.why).toContain('Sealed is set to yes, and no rule sets it back');
    const back = {
      ...flag,
      assignments: [{ target: 'sealed', value: { kind: 'empty' as const } }],
    };
    expect(codes(flag, [ruleOf(back, 3)], crates)).toEqual([]);
    expect(codes(flag, [ruleOf(flag, 3)], crates)).toEqual(['review.flag']);
  });
});

test('a flag that is set where something becomes so is kept equal to whether it is so', () => {
  const flag = (to: boolean): RuleDefinition => ({
    ...{ kind: 'cascade', type: 'loan', condition: null, pace: 'withTheSave' },
    route: [{ direction: 'down', type: 'artefact', link: 'loan' }],
    moment: { kind: 'onChange', tests: [{ kind: 'became', field: 'stage', value: 'agreed' }], where: null },
    assignments: [
      { target: 'fragile', value: { kind: 'expression', expression: { kind: 'constant', value: to } } },
    ],
  });
  for (const to of [true, false]) {
    expect(codes(flag(to))).toEqual(['review.flag']);
    expect(expectFixed(flag(to))).toMatchObject({ moment: 'inStep' });
  }
  // Set at several changes it is kept equal to whether one of them stands.
  const tests = [
    { kind: 'became', field: 'stage', value: 'agreed' },
    { kind: 'stoppedBeing', field: 'stage', value: 'declined' },
  ] as const;
  const several = { ...flag(true), moment: { kind: 'onChange', tests, where: null } } as RuleDefinition;
  const fixed = expectFixed(several) as Cascade;
  expect(fixed.assignments[0]!.value).toMatchObject({
    expression: { operator: 'any', of: [{ operator: '=' }, { operator: 'none' }] },
  });
  const rose = { kind: 'onChange', tests: [...tests, { kind: 'changed', field: 'stage' }], where: null };
  expect(review({ ...flag(true), moment: rose } as RuleDefinition)[0]).toMatchObject({ fix: null });
});

test('where another rule keeps the same field, or rules run in a circle, another one can be paused', () => {
  const fixed = (rule: Rule, ...others: Rule[]) => {
    const { problems } = findingsAmong(model, others, rule);
    return problems.flatMap((problem) => fixesOf(model, others, rule, problem));
  };
  const own = ruleOf(INSURED_TOTAL, 1, 'Insured total');
  const other = ruleOf({ ...INSURED_TOTAL, condition: null }, 2, 'All of it');
  expect(fixed(own, other)).toEqual([{ label: 'Pause “All of it”', pauses: other.id }]);
  const formula = (target: string, text: string, at: number): Rule =>
    ruleOf(
      {
        ...{
          kind: 'formula',
          type: 'exhibition',
          target,
          appliesWhen: null,
          otherwise: null,
          rounding: null,
        },
        ...{ value: { kind: 'feel', text }, pace: 'withTheSave' },
      },
      at,
      `Kept ${target}`,
    );
  const first = formula('open', 'artefactCount > 1', 1);
  const second = formula('artefactCount', 'if open then 1 else 2', 2);
  expect(fixed(first, second)).toEqual([{ label: 'Pause “Kept artefactCount”', pauses: second.id }]);
});

describe('of what is cascaded', () => {
  const of = touring();
  const mapped = Object.values(CASCADES).find(({ assignments }) =>
    assignments.some(({ value }) => value.kind === 'map' && value.otherwise.kind === 'asItIs'),
  );

  test('an option without a row is named', () => {
    expect(mapped).toBeDefined();
    const one = mapped!.assignments[0]!;
    const value = one.value as Extract<typeof one.value, { kind: 'map' }>;
    const less = {
      ...mapped!,
      assignments: [{ ...one, value: { ...value, rows: value.rows.slice(0, 1) } }],
    };
    const [finding] = review(less, [], of);
    expect(finding).toMatchObject({ code: 'review.options' });
    const writes = {
      ...value,
      rows: value.rows.slice(0, 1),
      otherwise: { kind: 'writes' as const, value: value.rows[0]!.to },
    };
    expect(codes({ ...mapped!, assignments: [{ ...one, value: writes }] }, [], of)).not.toContain(
      'review.options',
    );
  });

  test('every finding of the rules that are tested is of one sort, and its fix fits the model', () => {
    for (const definition of Object.values(CASCADES))
      for (const { code, why, fix } of review(definition, [], of)) {
        expect(code).toMatch(/^review\.(options|flag|slowDate|never|always)$/);
        expect(why).toMatch(/[.]$/);
        if (fix) expect(buildPlan(of, [ruleOf(fix.definition, 1)]).problems).toEqual([]);
      }
  });
});

const LOANS: RollUp['route'] = [{ direction: 'down', type: 'loan', link: 'exhibition' }];

describe('two rules that react into one field', () => {
  const reacting = (precedence?: number): RollUp => ({
    ...rollUp({ type: 'exhibition', target: 'open', aggregate: 'count', value: null, route: LOANS }),
    map: { rows: [{ operator: '>', than: '0', writes: true }], otherwise: { kind: 'asItIs' } },
    ...(precedence === undefined ? {} : { precedence }),
  });
  const fixed = (own: RollUp, other: RollUp) => {
    const rule = ruleOf(own, 1);
    const others = [ruleOf(other, 2, 'The other')];
    const problem = buildPlan(model, [rule, ...others]).problems.find((one) => one.rule === rule.id);
    return problem ? ((fixesOf(model, others, rule, problem)[0] ?? null) as Rewritten | null) : null;
  };

  test('one is let come first, or after where the first place is taken', () => {
    const first = fixed(reacting(), reacting());
    expect(first).toMatchObject({
      label: 'Let it come before “The other”',
      definition: { precedence: 1 },
    });
    const after = fixed(reacting(1), reacting(1));
    expect(after).toMatchObject({ label: 'Let it come after “The other”', definition: { precedence: 2 } });
    for (const { definition } of [first!, after!])
      expect(
        fixed(definition as RollUp, reacting(definition === first!.definition ? undefined : 1)),
      ).toBeNull();
  });
});

test('a result of a choice without a row is told, and rows of the same options are added', () => {
  const worst: RollUp = {
    ...rollUp({ type: 'exhibition', target: 'state', aggregate: 'worst', route: LOANS }),
    value: fieldOf('stage'),
    map: { rows: [{ operator: '=', than: 'agreed', writes: 'agreed' }], otherwise: { kind: 'asItIs' } },
  };
  const types = model.types.map((type) =>
    type.key === 'exhibition'
      ? {
          ...type,
          fields: [...type.fields, { ...model.field('loan', 'stage')!, key: 'state', name: 'State' }],
        }
      : type,
  );
  const of = readModel({ types });
  expect(review(worst, [], of)).toMatchObject([{ code: 'review.results' }]);
  expect((expectFixed(worst, [], of) as RollUp).map!.rows.length).toBeGreaterThan(2);
});

describe('a formula whose result has a unit that its field hasn’t', () => {
  const weighed = readModel({
    types: [
      {
        ...{ key: 'loan', name: 'Loan', plural: 'Loans', title: 'title' },
        fields: [
          { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
          { key: 'volume', name: 'Volume', type: { kind: 'number', scale: 1, unit: 'm³' } },
          { key: 'levy', name: 'Levy', type: { kind: 'money', currency: 'GBP' } },
          { key: 'plain', name: 'Plain', type: { kind: 'number', scale: 2 } },
        ],
      },
    ],
  });
  const formula = (target: string, text: string): RuleDefinition => ({
    ...{ kind: 'formula', type: 'loan', target, value: { kind: 'feel', text }, appliesWhen: null },
    ...{ otherwise: null, rounding: null, pace: 'withTheSave' },
  });

  test('is told, and the number that is a rate is written as one', () => {
    const levy = formula('levy', 'if volume > 100 then volume * 0.35 else null');
    expect(review(levy, [], weighed)).toMatchObject([
      {
        code: 'review.unit',
        why: 'What the expression gives is in m³, and Levy takes it as an amount of GBP. Say what one m³ comes to, as in amount(2, "GBP/m³").',
        fix: { label: 'Write 0.35 as GBP/m³' },
      },
    ]);
    expect(expectFixed(levy, [], weighed)).toMatchObject({
      value: { text: 'if volume > 100 then volume * amount(0.35, "GBP/m³") else null' },
    });
  });

  test('without such a number, or with several, no fix is guessed', () => {
    expect(review(formula('levy', 'volume'), [], weighed)).toMatchObject([{ fix: null }]);
    expect(review(formula('levy', 'volume * 2 * 3'), [], weighed)).toMatchObject([{ fix: null }]);
    expect(review(formula('plain', 'volume + 1'), [], weighed)).toMatchObject([{ code: 'review.unit' }]);
  });

  test('isn’t told where units come out, or there are none', () => {
    for (const text of ['volume / amount(2, "m³")', 'volume / volume', '3 * 2'])
      expect(codes(formula('plain', text), [], weighed)).toEqual([]);
    expect(codes(formula('levy', 'volume * amount(2, "GBP/m³")'), [], weighed)).toEqual([]);
  });
});
