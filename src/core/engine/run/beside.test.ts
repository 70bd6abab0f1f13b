import { buildPlan } from '@/core/plan';
import type { Cascade, Formula, Pilot, RollUp, Rule, RuleDefinition } from '@/core/rules';
import {
  decimal,
  fieldOf,
  gbp,
  INSURED_TOTAL,
  LENT_TOTAL,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import { edit, RuleDesk } from '@/core/testing/rule-desk';
import { amount, model, OPEN, pots, robes, ROWS, salt, silk, SILK } from '@/core/testing/piloted';

const LARGEST: RollUp = { ...INSURED_TOTAL, aggregate: 'maximum' };

/** A rule whose change is tried on the records of a pilot, while the version before stays live. */
const tried = (definition: RuleDefinition, live: RuleDefinition, pilot: Pilot): Rule => ({
  ...ruleOf(definition, 1, 'Total'),
  pilot,
  beside: { version: uuid('77'), definition: live },
});

const deskOf = (rule: Rule, rows = ROWS): RuleDesk =>
  new RuleDesk(model, [rule], rows).run([], { fill: [rule.id] });

const amounts = (desk: RuleDesk) => [silk, salt].map((id) => amount(desk, id));

describe('a roll-up tried beside its live version', () => {
  const more = [
    rowOf(model, 'loan', uuid('23'), {
      title: 'Fans',
      exhibition: silk,
      stage: 'agreed',
      insuredValue: gbp(30),
    }),
    rowOf(model, 'loan', uuid('24'), {
      title: 'Jars',
      exhibition: salt,
      stage: 'agreed',
      insuredValue: gbp(3),
    }),
  ];

  test('keeps its field on the records of the pilot, the live one on all others', () => {
    const desk = deskOf(tried(LARGEST, INSURED_TOTAL, SILK), [...ROWS, ...more]);
    expect(amounts(desk)).toEqual(['100', '10']);
    desk.run([edit('loan', pots, { insuredValue: gbp(9) }), edit('loan', robes, { insuredValue: gbp(20) })]);
    expect(amounts(desk)).toEqual(['30', '12']);
    desk.run([edit('loan', pots, { exhibition: silk })]);
    expect(amounts(desk)).toEqual(['30', '3']);
  });

  test('nobody enters the field anywhere: on each record one of the two keeps it', () => {
    const desk = deskOf(tried(LARGEST, INSURED_TOTAL, SILK));
    expect(desk.plan.keeper({ type: 'exhibition', field: 'insuredTotal' })?.name).toBe('Total');
  });

  test('a record that comes into the selection goes over to the version that is tried, and back', () => {
    const desk = deskOf(tried(LARGEST, INSURED_TOTAL, OPEN), [...ROWS, ...more]);
    expect(amounts(desk)).toEqual(['100', '10']);
    desk.run([edit('exhibition', salt, { open: true }), edit('exhibition', silk, { open: false })]);
    expect(amounts(desk)).toEqual(['130', '7']);
    desk.run([edit('exhibition', silk, { open: true })]);
    expect(amounts(desk)).toEqual(['100', '7']);
  });

  test('what each writes is told by its version', () => {
    const desk = deskOf(tried(LARGEST, INSURED_TOTAL, SILK));
    const ripple = desk.run([
      edit('loan', pots, { insuredValue: gbp(9) }),
      edit('loan', robes, { insuredValue: gbp(20) }),
    ]).ripple;
    const versions = ripple!.changes.filter(({ field }) => field === 'insuredTotal');
    expect(new Map(versions.map(({ id, version }) => [id, version]))).toEqual(
      new Map([
        [silk, ruleOf(LARGEST, 1).version],
        [salt, uuid('77')],
      ]),
    );
  });
});

const DOUBLED: Formula = {
  ...{ kind: 'formula', type: 'exhibition', target: 'insuredTotal', pace: 'withTheSave' },
  ...{ appliesWhen: null, otherwise: null, rounding: null },
  value: {
    ...{ kind: 'arithmetic', operator: '*', left: fieldOf('averageInsured') },
    right: fieldOf('artefactCount'),
  },
};

test('a formula tried beside its live version', () => {
  const desk = deskOf(tried({ ...DOUBLED, value: fieldOf('averageInsured') }, DOUBLED, SILK));
  desk.run(
    [silk, salt].map((id) => edit('exhibition', id, { averageInsured: gbp(10), artefactCount: decimal(2) })),
  );
  expect(amounts(desk)).toEqual(['10', '20']);
});

describe('a cascade tried beside its live version', () => {
  const cascade = (
    moment: Cascade['moment'],
    stage: string,
    condition: Cascade['condition'] = null,
  ): Cascade => ({
    ...{ kind: 'cascade', type: 'exhibition', condition, moment, pace: 'withTheSave' },
    route: [{ direction: 'down', type: 'loan', link: 'exhibition' }],
    assignments: [
      { target: 'stage', value: { kind: 'expression', expression: { kind: 'constant', value: stage } } },
    ],
  });
  const stages = (desk: RuleDesk) => [robes, pots].map((id) => desk.at('loan', id, 'stage'));

  test('on change each exhibition cascades by its own version', () => {
    const onChange: Cascade['moment'] = {
      ...{ kind: 'onChange', tests: [{ kind: 'changed', field: 'title' }], where: null },
    };
    const rule = tried(cascade(onChange, 'declined'), cascade(onChange, 'returned'), SILK);
    const desk = new RuleDesk(model, [rule], ROWS);
    desk.run([silk, salt].map((id) => edit('exhibition', id, { title: `New ${id.slice(-2)}` })));
    expect(stages(desk)).toEqual(['declined', 'returned']);
  });

  test('kept in step by the record that cascades; what moves goes over to the other version', () => {
    const heavy: Cascade['condition'] = {
      ...{ kind: 'compare', operator: '>', left: fieldOf('weight') },
      right: { kind: 'constant', value: '5' },
    };
    const desk = deskOf(tried(cascade('inStep', 'declined', heavy), cascade('inStep', 'returned'), SILK));
    expect(stages(desk)).toEqual(['agreed', 'returned']);
    desk.run([edit('loan', robes, { exhibition: salt })]);
    expect(stages(desk)).toEqual(['returned', 'returned']);
    // There the version that is tried claims nothing: people enter it.
    desk.run([edit('loan', pots, { exhibition: silk, stage: 'requested' })]);
    expect([desk.refused, ...stages(desk)]).toEqual(['', 'returned', 'requested']);
    desk.run([edit('loan', robes, { stage: 'requested' })]);
    expect(desk.refused).toMatch(/kept in step here by the rule “Total”/);
    desk.run([edit('loan', pots, { weight: decimal(6) })]);
    expect(stages(desk)).toEqual(['returned', 'declined']);
  });
});

describe('what can’t be tried beside its live version is refused in words', () => {
  const said = (rule: Rule) =>
    buildPlan(model, [rule]).problems.map(({ code, message }) => `${code}: ${message}`);
  const ofSiblings = (stage: string): Cascade => ({
    ...{ kind: 'cascade', type: 'loan', condition: null, pace: 'withTheSave' },
    moment: { kind: 'onChange', tests: [{ kind: 'changed', field: 'weight' }], where: null },
    route: [
      { direction: 'up', link: 'exhibition' },
      { direction: 'down', type: 'loan', link: 'exhibition' },
    ],
    assignments: [
      { target: 'stage', value: { kind: 'expression', expression: { kind: 'constant', value: stage } } },
    ],
  });
  const parts = {
    route: [{ direction: 'down', type: 'institution', link: 'partOf' } as const],
    ...{ value: fieldOf('lentTotal'), condition: null },
  };
  test.each<[string, Rule, RegExp]>([
    [
      'other fields',
      tried({ ...INSURED_TOTAL, target: 'averageInsured' }, INSURED_TOTAL, SILK),
      /other fields/,
    ],
    ['another kind', tried(DOUBLED, INSURED_TOTAL, SILK), /in another way/],
    [
      'all the way down',
      tried({ ...LENT_TOTAL, also: [parts] }, LENT_TOTAL, { kind: 'records', ids: [uuid('31')] }),
      /all the way down/,
    ],
    [
      'siblings, of which some may be of the pilot',
      tried(ofSiblings('declined'), ofSiblings('returned'), { kind: 'records', ids: [robes] }),
      /Several may cascade to one record/,
    ],
    ['no records', tried(LARGEST, INSURED_TOTAL, { kind: 'records', ids: [] }), /1 to 1,000 records/],
  ])('%s', (_, rule, expected) => {
    const [first] = said(rule);
    expect(first).toMatch(expected);
    expect(first).toMatch(/^pilot\./);
  });
});
