import fc from 'fast-check';
import {
  ALL_RULES,
  EXHIBITION_ARTEFACTS,
  fieldOf,
  galleries,
  INSURED_TOTAL,
  LOAN_ARTEFACTS,
  rollUp,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import type { Formula, Pilot } from '@/core/rules';
import { buildPlan, circleThrough, components, downstream, feedsOf, type Graph } from '.';

const model = galleries();
const graphOf = (edges: Record<string, string[]>): Graph => ({
  nodes: Object.keys(edges),
  edges: new Map(Object.entries(edges).map(([node, next]) => [node, new Set(next)])),
});

describe('a graph', () => {
  test('gives its components in topological order, circles together', () => {
    expect(
      components(graphOf({ a: ['b'], b: ['c'], c: ['b', 'd'], d: [], e: ['a'] })).map((component) =>
        component.sort().join(''),
      ),
    ).toEqual(['e', 'a', 'bc', 'd']);
  });

  test('orders any graph: what must come after comes after, unless both lie on a circle', () => {
    const anyGraph = fc.integer({ min: 1, max: 8 }).chain((size) =>
      fc.array(fc.tuple(fc.nat(size - 1), fc.nat(size - 1)), { maxLength: 20 }).map((pairs) => {
        const edges: Record<string, string[]> = Object.fromEntries(
          Array.from({ length: size }, (_, node) => [`n${node}`, []]),
        );
        for (const [from, to] of pairs) edges[`n${from}`]!.push(`n${to}`);
        return edges;
      }),
    );
    fc.assert(
      fc.property(anyGraph, (edges) => {
        const found = components(graphOf(edges));
        const position = new Map(
          found.flatMap((component, index) => component.map((node) => [node, index] as const)),
        );
        expect(position.size).toBe(Object.keys(edges).length);
        for (const [from, next] of Object.entries(edges))
          for (const to of next) expect(position.get(from)!).toBeLessThanOrEqual(position.get(to)!);
      }),
    );
  });

  test('names a shortest way round', () => {
    const graph = graphOf({ a: ['b', 'c'], b: ['d'], c: ['a'], d: ['a'] });
    expect(circleThrough('a', graph)).toEqual(['a', 'c', 'a']);
    expect(circleThrough('b', graph)).toEqual(['b', 'd', 'a', 'b']);
  });
});

describe('a plan', () => {
  test('puts a rule after all that it reads, whatever order the rules are given in', () => {
    const order = buildPlan(model, ALL_RULES).plan.rules.map(({ id }) => id);
    const at = (number: number) => order.indexOf(ALL_RULES[number - 1]!.id);
    expect(at(2)).toBeLessThan(at(3)); // the loans' artefact count before the exhibitions'
    fc.assert(
      fc.property(fc.shuffledSubarray([...ALL_RULES], { minLength: ALL_RULES.length }), (rules) => {
        expect(buildPlan(model, rules).plan.rules.map(({ id }) => id)).toEqual(order);
      }),
      { numRuns: 20 },
    );
  });

  test('refuses two rules that keep one field, each with the other’s name, and leaves both out', () => {
    const { plan, problems } = buildPlan(model, [
      ruleOf(INSURED_TOTAL, 1, 'Total'),
      ruleOf({ ...INSURED_TOTAL, condition: null }, 2, 'Everything'),
    ]);
    expect(plan.rules).toEqual([]);
    expect(problems.map(({ message }) => message)).toEqual([
      'Insured total of Exhibition is kept by “Everything” already. Choose another field, pause the other rule, or state both in one formula: a value where its condition holds, otherwise the other.',
      'Insured total of Exhibition is kept by “Total” already. Choose another field, pause the other rule, or state both in one formula: a value where its condition holds, otherwise the other.',
    ]);
  });

  test.each<[string, Pilot | null]>([
    ['that runs for all', null],
    ['in a pilot', { kind: 'records', ids: [uuid('1')] }],
  ])('a formula %s can’t read what it keeps itself', (_, pilot) => {
    const formula: Formula = {
      ...{ kind: 'formula', type: 'loan', target: 'weight', rounding: null, pace: 'withTheSave' },
      ...{ appliesWhen: null, otherwise: null, value: { kind: 'feel', text: 'if weight > 1 then 0 else 2' } },
    };
    const { problems } = buildPlan(model, [{ ...ruleOf(formula, 1), pilot }]);
    expect(problems).toMatchObject([{ code: 'plan.circle' }]);
    const other = { ...formula, value: { kind: 'feel', text: 'artefactCount' } } as const;
    expect(buildPlan(model, [{ ...ruleOf(other, 1), pilot }]).problems).toEqual([]);
  });

  test('names a circle: who writes what, and who reads it', () => {
    const parts = rollUp({
      ...{ type: 'institution', target: 'partCount', aggregate: 'sum' },
      route: [{ direction: 'down', type: 'institution', link: 'partOf' }],
      value: fieldOf('partCount', 'partOf'),
    });
    const { problems } = buildPlan(model, [ruleOf(parts, 1, 'Parts')]);
    expect(problems[0]!.message).toBe(
      'These rules run in a circle: “Parts” writes Part count of Institution, which “Parts” reads. Change one of them so that none reads what it leads to.',
    );
  });

  test('knows what follows from a rule', () => {
    const { plan } = buildPlan(model, ALL_RULES);
    const follows = downstream(
      plan,
      plan.rules.find(({ definition }) => definition === LOAN_ARTEFACTS)!,
    );
    expect(follows.map(({ writes }) => writes.field).sort()).toEqual(['artefactCount', 'grade']);
    expect(
      downstream(
        plan,
        plan.rules.find(({ definition }) => definition === EXHIBITION_ARTEFACTS)!,
      ),
    ).toEqual([]);
  });
});

test('what feeds what is told with the place of each rule in the order', () => {
  const rules = [ruleOf(EXHIBITION_ARTEFACTS, 1), ruleOf(LOAN_ARTEFACTS, 2), ruleOf(INSURED_TOTAL, 3)];
  const feeding = feedsOf(buildPlan(model, rules).plan);
  const [exhibition, loan, total] = rules.map(({ id }) => feeding.find((one) => one.id === id)!);
  expect(loan!.feeds).toEqual([rules[0]!.id]);
  expect([exhibition!.feeds, total!.feeds]).toEqual([[], []]);
  expect(loan!.place).toBeLessThan(exhibition!.place);
  expect(feeding.map(({ place }) => place)).toEqual([1, 2, 3]);
});
