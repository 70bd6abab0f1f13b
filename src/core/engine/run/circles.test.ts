import { cases } from '@/core/testing/cases';
import fc from 'fast-check';
import { readModel } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { Cascade, RollUp, RuleDefinition } from '@/core/rules';
import { AGREED, ALL_AGREED, BACK, CIRCLES, OPENS } from '@/core/testing/circles';
import { keptIn, keptPlainly, printRows } from '@/core/testing/compare';
import { fieldOf, rowOf, uuid } from '@/core/testing/galleries';
import { edit, numbered, RuleDesk } from '@/core/testing/rule-desk';
import { cascade, CASCADES, down, fixed, from, touring, when } from '@/core/testing/touring';
import { Decimal } from '@/core/values';
import type { Edit, Row } from '@/core/engine';

const model = touring();
const [silk, salt] = [uuid('11'), uuid('12')];
const LOANS = ['21', '22', '23', '24'].map(uuid);
const [robes, pots, kites, drums] = LOANS as [string, string, string, string];
const ROWS = [
  rowOf(model, 'exhibition', silk, {
    coordinator: 'Farid',
    phase: 'proposed',
    artefactCount: new Decimal(0),
  }),
  rowOf(model, 'exhibition', salt, {
    coordinator: 'Elsie',
    phase: 'proposed',
    artefactCount: new Decimal(0),
  }),
  ...LOANS.map((id, at) =>
    rowOf(model, 'loan', id, { exhibition: at < 3 ? silk : salt, stage: 'requested', coordinator: 'Farid' }),
  ),
];

const desk = (...rules: RuleDefinition[]) => new RuleDesk(model, numbered(rules), ROWS);
const on = (at: RuleDesk, field: string) => [robes, pots, kites].map((id) => at.at('loan', id, field));

test('two cascades that cascade to one another go round once: each record cascades at most once', () => {
  const at = desk(CASCADES.coordinator, BACK).run([edit('loan', pots, { coordinator: 'Priya' })]);
  expect(at.at('exhibition', silk, 'coordinator')).toBe('Priya');
  expect(on(at, 'coordinator')).toEqual(['Priya', 'Priya', 'Priya']);
  expect(at.at('loan', drums, 'coordinator')).toBe('Farid');
  expect(at.ripple!.changes.map(({ wave }) => wave)).toEqual([0, 1, 2, 2]);
  at.run([edit('exhibition', silk, { coordinator: 'Zoe' }), edit('loan', kites, { coordinator: 'Mine' })]);
  expect([at.at('exhibition', silk, 'coordinator'), ...on(at, 'coordinator')]).toEqual([
    'Zoe',
    'Zoe',
    'Zoe',
    'Mine',
  ]);
  expect(at.ripple!.lapsed).toEqual([]);
});

test('what is kept in a circle is right at its end', () => {
  const at = desk(AGREED, OPENS, ALL_AGREED).run([
    edit('loan', robes, { stage: 'agreed' }),
    edit('loan', pots, { stage: 'agreed' }),
  ]);
  expect(at.at('exhibition', silk, 'phase')).toBe('open');
  expect(on(at, 'stage')).toEqual(['agreed', 'agreed', 'agreed']);
  expect(at.at('exhibition', silk, 'artefactCount')).toEqual(new Decimal(3));
  at.run([edit('loan', kites, { stage: 'declined' })]);
  expect(at.at('exhibition', silk, 'artefactCount')).toEqual(new Decimal(2));
  expect(at.at('loan', kites, 'stage')).toBe('declined');
});

test('a rule that acts on what it wrote on other records goes on until nothing follows', () => {
  const [top, middle, leaf] = [uuid('1'), uuid('2'), uuid('3')];
  const part = (id: string, partOf: string | null) =>
    rowOf(model, 'institution', id, { partOf, dealings: 'active' });
  const past: RollUp = {
    ...{ kind: 'rollUp', type: 'institution', target: 'dealings', aggregate: 'count', value: null },
    ...{ route: [down('institution', 'partOf')], rounding: null, whenNone: null, pace: 'withTheSave' },
    condition: {
      ...{ kind: 'compare', operator: '=', left: fieldOf('dealings') },
      right: { kind: 'constant', value: 'past' },
    },
    map: { rows: [{ operator: '>=', than: '1', writes: 'past' }], otherwise: { kind: 'asItIs' } },
  };
  const rows = [part(top, null), part(middle, top), part(leaf, middle)];
  const at = new RuleDesk(model, numbered<RuleDefinition>([past]), rows);
  at.run([edit('institution', leaf, { dealings: 'past' })]);
  expect([leaf, middle, top].map((id) => at.at('institution', id, 'dealings'))).toEqual([
    'past',
    'past',
    'past',
  ]);
  expect(at.ripple!.changes.map(({ wave }) => wave)).toEqual([0, 1, 2]);
});

test('what acted on something that no longer stands is told', () => {
  const self = (field: string, assignment: Cascade['assignments'][number], more: Partial<Cascade> = {}) =>
    cascade({
      ...{
        type: 'exhibition',
        route: [],
        moment: when({ kind: 'changed', field }),
        assignments: [assignment],
      },
      ...more,
    });
  const at = desk(
    self('title', fixed('phase', 'open')),
    self('phase', fixed('climate', 'Dry'), {
      moment: when({ kind: 'became', field: 'phase', value: 'open' }),
    }),
    self('climate', fixed('phase', 'closed'), { precedence: 1 }),
  ).run([edit('exhibition', silk, { title: 'Silk' })]);
  expect(at.at('exhibition', silk, 'phase')).toBe('closed');
  expect(at.at('exhibition', silk, 'climate')).toBe('Dry');
  expect(at.ripple!.lapsed).toEqual([{ rule: numbered([BACK, BACK])[1]!.id, type: 'exhibition', id: silk }]);
});

test('a circle that doesn’t come to an end in time is refused by name, and nothing is saved', () => {
  const text = (key: string) => ({ key, name: key, type: { kind: 'text' } }) as const;
  const small = readModel({
    types: [
      {
        ...{ key: 'part', name: 'Part', plural: 'Parts', title: 'title' },
        fields: [
          ...[text('title'), text('asked'), text('given')],
          { key: 'within', name: 'Within', type: { kind: 'link', target: 'part' }, otherEnd: 'Parts' },
        ],
      },
    ],
  });
  const idOf = (at: number) => uuid(String(1_000 + at));
  const rows = Array.from({ length: 70 }, (_, at) =>
    rowOf(small, 'part', idOf(at), { within: at === 0 ? null : idOf(at - 1) }),
  );
  const rules = [
    cascade({
      ...{ type: 'part', route: [down('part', 'within')], assignments: [from('given', 'asked')] },
      moment: when({ kind: 'changed', field: 'asked' }),
    }),
    cascade({
      ...{ type: 'part', route: [], assignments: [from('asked', 'given')] },
      moment: when({ kind: 'changed', field: 'given' }),
    }),
  ];
  const at = new RuleDesk(small, numbered(rules), rows);
  at.run([edit('part', idOf(0), { asked: 'Wales' })]);
  expect(at.refused).toMatch(/“Rule 1”, “Rule 2” run in a circle that didn’t come to an end in 100 rounds/);
  expect(at.at('part', idOf(1), 'given')).toBeNull();
  expect(at.run([edit('part', idOf(40), { asked: 'Kent' })]).at('part', idOf(69), 'asked')).toBe('Kent');
});

test('a circle is told while writing; one that can’t settle is refused with its path', () => {
  const { problems, advice } = buildPlan(model, numbered([CASCADES.coordinator, BACK]));
  expect(problems).toEqual([]);
  expect(advice.map(({ code, message }) => `${code}: ${message}`)[0]).toBe(
    'plan.settles: These rules run in a circle: “Rule 1” writes Coordinator of Loan, which “Rule 2” reads; “Rule 2” writes Coordinator of Exhibition, which “Rule 1” reads. A save goes round until nothing follows: what is kept is worked out, then each that is due acts, at most once for each record.',
  );
});

describe('whatever is saved', () => {
  const value = fc.constantFrom('Priya', 'Zoe', 'Farid', null);
  const stage = fc.constantFrom('requested', 'agreed', 'declined');
  const phase = fc.constantFrom('proposed', 'open');
  const loan = fc.record(
    { coordinator: value, stage, exhibition: fc.constantFrom(silk, salt, null) },
    { requiredKeys: [] },
  );
  const exhibition = fc.record({ coordinator: value, phase }, { requiredKeys: [] });
  const anEdit = fc.oneof(
    fc
      .record({ id: fc.constantFrom(...LOANS), values: loan })
      .map(({ id, values }) => edit('loan', id, values)),
    fc
      .record({ id: fc.constantFrom(silk, salt), values: exhibition })
      .map(({ id, values }) => edit('exhibition', id, values)),
  );
  const save = fc.uniqueArray(anEdit, { selector: ({ id }) => id, minLength: 1, maxLength: 3 });
  const saves = fc.array(save, { minLength: 1, maxLength: 6 });
  const rows = (at: RuleDesk): Row[] => model.types.flatMap(({ key }) => [...at.store.rows(key)]);

  test('what is kept is right, and the end hangs neither on the order of the rules nor on that of the edits', () => {
    let wentRound = 0;
    fc.assert(
      fc.property(saves, fc.shuffledSubarray([0, 1, 2, 3, 4], { minLength: 5 }), (given, order) => {
        const rules = numbered([...CIRCLES]);
        const one = new RuleDesk(model, rules, ROWS);
        const other = new RuleDesk(
          model,
          order.map((at) => rules[at]!),
          ROWS,
        );
        for (const edits of given) {
          one.run(edits as readonly Edit[]);
          other.run([...edits].reverse() as readonly Edit[]);
          wentRound += one.ripple?.changes.some(({ wave }) => wave >= 2) ? 1 : 0;
          expect(one.refused).toBe('');
          expect(keptIn(one.plan, rows(one))).toEqual(keptPlainly(model, one.plan, rows(one)));
          expect(printRows(rows(one))).toBe(printRows(rows(other)));
        }
      }),
      { numRuns: cases(200) },
    );
    expect(wentRound).toBeGreaterThan(100);
  });
});
