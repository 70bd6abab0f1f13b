import type { Expression } from '@/core/expression';
import { ruleOf } from '@/core/testing/galleries';
import { cascade, CASCADES, down, fixed, from, touring, up, when } from '@/core/testing/touring';
import type { Cascade } from './cascade';
import { sentenceOf } from '@/core/rules';
import { compileCascade } from './check-cascade';

const model = touring();
const { coordinator } = CASCADES;
const self = { type: 'institution', route: [down('institution', 'partOf')] } as const;
const text = (value: string): Cascade['assignments'][number] => ({
  target: 'climate',
  value: { kind: 'text', text: value },
});

/** The places and codes of what is refused. */
function problemsOf(given: Partial<Cascade>, on: Cascade = coordinator): string[] {
  const compiled = compileCascade(model, ruleOf({ ...on, ...given }, 1));
  return compiled.ok ? [] : compiled.problems.map(({ place, code }) => `${place}: ${code}`);
}

test.each(Object.entries(CASCADES))(
  '%s is sound, and each field that it assigns is a part of its own',
  (_, definition) => {
    const compiled = compileCascade(model, ruleOf<Cascade>(definition, 1));
    if (!compiled.ok) throw new Error(compiled.problems[0]!.message);
    const { rule } = compiled;
    expect([rule, ...rule.parts].map(({ target }) => target.key)).toEqual(
      definition.assignments.map(({ target }) => target),
    );
    expect(rule.kind).toBe(definition.moment === 'inStep' ? 'keptCascade' : 'reactingCascade');
  },
);

test.each<[string, Partial<Cascade>, string[]]>([
  ['a type that isn’t there', { type: 'painting' }, ['type: rule.type']],
  ['a link that isn’t there', { route: [down('loan', 'venue')] }, ['route: rule.route']],
  [
    'more steps than four',
    {
      route: [
        down('loan', 'exhibition'),
        up('exhibition'),
        down('loan', 'exhibition'),
        up('exhibition'),
        down('loan', 'exhibition'),
      ],
    },
    ['route: rule.route'],
  ],
  ['no field', { assignments: [] }, ['assignments: cascade.empty']],
  [
    'only fields that are switched off',
    { assignments: [{ ...from('coordinator'), isOff: true }] },
    ['assignments: cascade.empty'],
  ],
  [
    'a field twice',
    { assignments: [from('coordinator'), fixed('coordinator', 'Elsie')] },
    ['assignments.1.target: cascade.twice'],
  ],
  ['a field that isn’t there', { assignments: [from('curator')] }, ['assignments.0.target: rule.target']],
  [
    'a value of another kind',
    { assignments: [from('weight', 'coordinator')] },
    ['assignments.0.value: rule.kinds'],
  ],
  ['no change', { moment: when() }, ['moment: cascade.tests']],
  [
    'a change of a field that isn’t there',
    { moment: when({ kind: 'changed', field: 'curator' }) },
    ['moment.tests.0: cascade.watched'],
  ],
  ['siblings by a field that both don’t have', { same: ['coordinator', 'weight'] }, ['same.1: cascade.same']],
  ['all the way down another link', { isAllTheWay: true }, ['route: cascade.allTheWay']],
])('refused: %s', (_, given, expected) => {
  expect(problemsOf(given)).toEqual(expected);
});

test('by when it acts it reaches other records', () => {
  const upward = { type: 'loan', route: [up('exhibition')], assignments: [from('coordinator')] } as const;
  expect(problemsOf({ ...upward, moment: 'inStep' })).toEqual([]);
  expect(problemsOf({ ...upward, moment: 'atCreation' })).toEqual(['moment: cascade.atCreation']);
  expect(problemsOf({ ...upward, moment: when({ kind: 'changed', field: 'coordinator' }) })).toEqual([]);
  const siblings = {
    type: 'loan',
    route: [up('exhibition'), down('loan', 'exhibition')],
    assignments: [from('climate')],
  } as const;
  expect(problemsOf({ ...siblings, moment: 'inStep' })).toEqual(['assignments.0.value: cascade.itself']);
  expect(problemsOf({ ...siblings, moment: 'atCreation' })).toEqual([]);
});

test('kept in step it goes wherever others lie, to a field that isn’t what is cascaded', () => {
  expect(problemsOf({ moment: 'inStep' }, CASCADES.dealings)).toEqual([]);
  expect(
    problemsOf({ moment: 'inStep', assignments: [from('instruction', 'coordinator')] }, CASCADES.newest),
  ).toEqual([]);
  expect(problemsOf({ moment: 'inStep', assignments: [from('told', 'title')] }, CASCADES.courier)).toEqual(
    [],
  );
  expect(problemsOf({ moment: 'inStep' }, CASCADES.before)).toEqual(['moment: cascade.inStep']);
  expect(problemsOf({ moment: 'inStep' }, CASCADES.newest)).toEqual(['assignments.0.value: cascade.itself']);
});

test('of several its sentence says which cascades', () => {
  const compiled = compileCascade(model, ruleOf({ ...CASCADES.dealings, moment: 'inStep' }, 1));
  if (!compiled.ok) throw new Error(compiled.problems[0]!.message);
  expect(sentenceOf(model, compiled.rule)).toBe(
    'From every Loan to its Lender, kept in step: Dealings by Stage. Of them cascades the last by Due back. With the save.',
  );
});

test('all the way down goes over one link of a type to itself, on a change', () => {
  const given = { ...self, assignments: [fixed('dealings', 'past')] };
  const on = when({ kind: 'changed', field: 'dealings' });
  expect(problemsOf({ ...given, isAllTheWay: true, moment: on })).toEqual([]);
  expect(problemsOf({ ...given, isAllTheWay: true, moment: 'atCreation' })).toEqual([
    'route: cascade.allTheWay',
  ]);
});

test('text with values in it goes into texts, and names fields that are there', () => {
  expect(problemsOf({ assignments: [text('At {title}, until {closes}')] })).toEqual([]);
  expect(problemsOf({ assignments: [text('At {titel}')] })).toHaveLength(1);
  expect(problemsOf({ assignments: [{ ...text('At {title}'), target: 'weight' }] })).toHaveLength(1);
});

test('what is refused says what to do', () => {
  const compiled = compileCascade(model, ruleOf(cascade({ ...coordinator, assignments: [] }), 1));
  expect(compiled).toMatchObject({ ok: false, problems: [{ message: 'Assign at least one field.' }] });
});

test('a condition is asked of the records that take the value', () => {
  const stage: Expression = {
    ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: [], field: 'stage' } },
    right: { kind: 'constant', value: 'agreed' },
  };
  expect(problemsOf({ condition: stage })).toEqual([]);
  const phase: Expression = { ...stage, left: { kind: 'field', route: [], field: 'phase' } };
  expect(problemsOf({ condition: phase })).toHaveLength(1);
});
