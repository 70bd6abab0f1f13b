import type { RollUp } from '@/core/rules';
import { sentenceOf } from '@/core/rules';
import { fieldOf, galleries, gbp, rollUp, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { edit, RuleDesk } from '@/core/testing/rule-desk';
import { buildPlan } from '@/core/plan';
import { variantsOf } from '@/core/verify';

const model = galleries();
const BENEATH = { direction: 'down', type: 'institution', link: 'partOf', isAllTheWay: true } as const;
const LOANS = { direction: 'down', type: 'loan', link: 'lender' } as const;
const [trust, north, hall, south, apart] = ['1', '2', '3', '4', '5'].map(uuid) as [
  string,
  string,
  string,
  string,
  string,
];
const institution = (id: string, title: string, partOf: string | null) =>
  rowOf(model, 'institution', id, { title, partOf });
const loan = (id: string, lender: string, amount: number) =>
  rowOf(model, 'loan', uuid(id), { title: id, lender, insuredValue: gbp(amount) });
const ROWS = [
  institution(trust, 'Trust', null),
  institution(north, 'North', trust),
  institution(hall, 'Hall', north),
  institution(south, 'South', trust),
  institution(apart, 'Apart', null),
  ...[loan('21', trust, 10), loan('22', hall, 20), loan('23', hall, 60), loan('24', south, 30)],
];
const all = (given: Partial<RollUp>): RollUp =>
  rollUp({
    ...{ type: 'institution', target: 'lentTotal', aggregate: 'average', whenNone: null },
    route: [LOANS],
    value: fieldOf('insuredValue'),
    also: [{ route: [BENEATH, LOANS], value: fieldOf('insuredValue'), condition: null }],
    ...given,
  });
const desk = (rule: RollUp) => new RuleDesk(model, [ruleOf(rule, 1)], ROWS).run([], { fill: [uuid('a1')] });
const given = (at: RuleDesk, field = 'lentTotal') =>
  [trust, north, hall, south, apart].map((id) => at.at('institution', id, field));

test('an average over any depth is that of all, not of averages', () => {
  const at = desk(all({}));
  expect(given(at)).toEqual([gbp(30), gbp(40), gbp(40), gbp(30), null]);
  at.run([edit('loan', uuid('22'), { insuredValue: gbp(100) })]);
  expect(given(at)).toEqual([gbp(50), gbp(80), gbp(80), gbp(30), null]);
});

test('what is moved leaves all that lay above it, and comes to all that does now', () => {
  const at = desk(all({})).run([edit('institution', north, { partOf: apart })]);
  expect(given(at)).toEqual([gbp(20), gbp(40), gbp(40), gbp(30), gbp(40)]);
  at.run([{ kind: 'delete', type: 'loan', id: uuid('23') }]);
  expect(given(at)).toEqual([gbp(20), gbp(20), gbp(20), gbp(30), gbp(20)]);
});

test('the parts themselves are counted at any depth, and a range spans them', () => {
  const count = all({
    ...{ target: 'partCount', aggregate: 'count', value: null, route: [BENEATH], also: [], whenNone: '0' },
  });
  expect(given(desk(count), 'partCount').map(String)).toEqual(['3', '1', '0', '0', '0']);
  const range = all({ aggregate: 'range', whenNone: null });
  expect(given(desk(range))).toEqual([gbp(50), gbp(40), gbp(40), gbp(0), null]);
});

test('its sentence says so, and one level in its place is another rule', () => {
  const rule = ruleOf(all({ route: [BENEATH, LOANS], also: [] }), 1);
  const { plan } = buildPlan(model, [rule]);
  expect(sentenceOf(model, plan.rules[0]!)).toContain('over the Loans out of its Parts at any depth');
  expect(variantsOf(model, rule).map(({ what }) => what)).toContain('one level down in place of all the way');
});

test('it goes over a link of the type to itself, and first', () => {
  const problems = (route: RollUp['route']) =>
    buildPlan(model, [ruleOf(all({ route, also: [] }), 1)]).problems.map(({ place, code }) => [place, code]);
  expect(problems([{ ...LOANS, isAllTheWay: true }])).toEqual([['route', 'rule.route']]);
  expect(problems([BENEATH, { ...BENEATH }, LOANS])).toEqual([['route', 'rule.route']]);
});
