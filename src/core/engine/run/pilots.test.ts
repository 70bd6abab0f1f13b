import { compileRule, type Pilot, pilotWords, type RuleDefinition } from '@/core/rules';
import {
  fieldOf,
  gbp,
  INSURED_TOTAL,
  LENT_TOTAL,
  PART_COUNT,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import { create, edit, RuleDesk } from '@/core/testing/rule-desk';
import { inspections, TREATMENT } from '@/core/testing/inspections';
import { amount, model, OPEN, pots, robes, ROWS, salt, silk, SILK } from '@/core/testing/piloted';

function deskOf(definition: RuleDefinition, pilot: Pilot, rows = ROWS): RuleDesk {
  const desk = new RuleDesk(model, [{ ...ruleOf(definition, 1, 'Tried'), pilot }], rows);
  return desk.run([], { fill: desk.plan.rules.map(({ id }) => id) });
}

describe('a roll-up in pilot', () => {
  test('keeps its field on chosen records; elsewhere what stands there stands, whatever happens beneath', () => {
    const desk = deskOf(INSURED_TOTAL, SILK);
    expect([silk, salt].map((id) => amount(desk, id))).toEqual(['100', null]);
    desk.run([edit('loan', pots, { insuredValue: gbp(9) }), edit('loan', robes, { insuredValue: gbp(101) })]);
    expect([silk, salt].map((id) => amount(desk, id))).toEqual(['101', null]);
    // A child that moves in counts there.
    desk.run([edit('loan', pots, { exhibition: silk })]);
    expect([silk, salt].map((id) => amount(desk, id))).toEqual(['110', null]);
  });

  test('people go on entering the field elsewhere, and can’t where it is kept', () => {
    const desk = deskOf(INSURED_TOTAL, SILK);
    desk.run([edit('exhibition', salt, { insuredTotal: gbp(500) })]);
    expect(desk.refused).toBe('');
    expect(amount(desk, salt)).toBe('500');
    desk.run([edit('exhibition', silk, { insuredTotal: gbp(500) })]);
    expect(desk.refused).toMatch(/kept in step here by the rule “Tried”/);
    expect(amount(desk, silk)).toBe('100');
  });

  test('for a selection it follows who is in it', () => {
    const desk = deskOf(INSURED_TOTAL, OPEN);
    expect([silk, salt].map((id) => amount(desk, id))).toEqual(['100', null]);
    desk.run([edit('exhibition', salt, { open: true }), edit('exhibition', silk, { open: false })]);
    expect([silk, salt].map((id) => amount(desk, id))).toEqual(['100', '7']);
    desk.run([edit('loan', robes, { insuredValue: gbp(5) })]);
    expect(amount(desk, silk)).toBe('100');
  });
});

test('a formula in pilot keeps its field there, and claims nothing elsewhere', () => {
  const doubled: RuleDefinition = {
    ...{ kind: 'formula', type: 'exhibition', target: 'insuredTotal', appliesWhen: null, otherwise: null },
    value: { kind: 'constant', value: '3', type: { kind: 'number' } } as never,
    ...{ rounding: null, pace: 'withTheSave' },
  };
  const desk = deskOf(doubled, SILK);
  expect([silk, salt].map((id) => amount(desk, id))).toEqual(['3', null]);
  desk.run([edit('exhibition', salt, { insuredTotal: gbp(500) })]);
  expect(amount(desk, salt)).toBe('500');
});

describe('a cascade in pilot', () => {
  const cascade = (moment: 'inStep' | 'atCreation'): RuleDefinition => ({
    ...{ kind: 'cascade', type: 'exhibition', condition: null, moment, pace: 'withTheSave' },
    route: [stepTo('loan', 'exhibition')],
    assignments: [{ target: 'dueBack', value: { kind: 'expression', expression: fieldOf('lastDue') } }],
  });

  test('kept in step: to the children of chosen records, also those that come to them', () => {
    const desk = deskOf(cascade('inStep'), SILK);
    const days = () => [robes, pots].map((id) => desk.at('loan', id, 'dueBack'));
    desk.run([silk, salt].map((id) => edit('exhibition', id, { lastDue: '2027-05-01' })));
    expect(days()).toEqual(['2027-05-01', null]);
    desk.run([edit('loan', pots, { exhibition: silk })]);
    expect(days()).toEqual(['2027-05-01', '2027-05-01']);
    desk.run([edit('loan', pots, { exhibition: salt, dueBack: '2027-06-01' })]);
    expect([desk.refused, days()[1]]).toEqual(['', '2027-06-01']);
    desk.run([edit('loan', robes, { dueBack: '2027-06-01' })]);
    expect(desk.refused).toMatch(/kept in step here/);
  });

  test('at creation: to what is made under them', () => {
    const value = { target: 'stage', value: { kind: 'expression', expression: constant('agreed') } } as const;
    const desk = deskOf({ ...cascade('atCreation'), assignments: [value] } as RuleDefinition, SILK);
    desk.run([
      create('loan', uuid('31'), { exhibition: silk }),
      create('loan', uuid('32'), { exhibition: salt }),
    ]);
    expect([uuid('31'), uuid('32')].map((id) => desk.at('loan', id, 'stage'))).toEqual(['agreed', null]);
  });
});

const stepTo = (type: string, link: string) => ({ direction: 'down', type, link }) as const;
const constant = (value: string) => ({ kind: 'constant', value }) as const;

test('a create rule in pilot makes for chosen records', () => {
  const made = inspections();
  const [first, second] = [uuid('41'), uuid('42')];
  const pilot: Pilot = { kind: 'records', ids: [first] };
  const desk = new RuleDesk(
    made,
    [{ ...ruleOf(TREATMENT, 1, 'Tried'), pilot }],
    [
      rowOf(made, 'artefact', uuid('40'), { title: 'Vase' }),
      rowOf(made, 'inspection', first, { artefact: uuid('40'), byPhoto: false }),
      rowOf(made, 'inspection', second, { artefact: uuid('40'), byPhoto: false }),
    ],
  );
  desk.run([
    edit('inspection', first, { outcome: 'damage' }),
    edit('inspection', second, { outcome: 'damage' }),
  ]);
  expect(desk.refused).toBe('');
  expect([...desk.store.rows('treatment')].map(({ values }) => values.inspection)).toEqual([first]);
});

describe('a pilot that can’t be', () => {
  const codes = (definition: RuleDefinition, pilot: Pilot) => {
    const compiled = compileRule(model, { ...ruleOf(definition, 1), pilot });
    return compiled.ok ? [] : compiled.problems.map(({ code }) => code);
  };

  test('all the way down, of no records, or of a selection that isn’t the type’s', () => {
    const whole: Pilot = { kind: 'records', ids: [uuid('1')] };
    const parts = { route: [stepTo('institution', 'partOf')], value: fieldOf('lentTotal'), condition: null };
    expect(codes({ ...LENT_TOTAL, also: [parts] }, whole)).toEqual(['pilot.allTheWay']);
    expect(codes(INSURED_TOTAL, { kind: 'records', ids: [] })).toEqual(['pilot.records']);
    expect(codes(PART_COUNT, OPEN)).toEqual(['pilot.selection']);
    expect(codes(INSURED_TOTAL, { kind: 'selection', selection: 'gone' })).toEqual(['pilot.selection']);
    expect(codes(INSURED_TOTAL, OPEN)).toEqual([]);
  });
});

test('a pilot in words', () => {
  const titles = Object.fromEntries([silk, salt, robes, pots].map((id, at) => [id, `R${at}`]));
  expect(pilotWords(model, { kind: 'records', ids: [silk, salt] }, titles)).toBe('R0, R1');
  expect(pilotWords(model, { kind: 'records', ids: [silk, salt, robes, pots, uuid('9')] }, titles)).toBe(
    'R0, R1, R2 and 2 more',
  );
  expect(pilotWords(model, OPEN, {})).toBe('those in “Open now”');
});
