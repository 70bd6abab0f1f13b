import { fieldOf, galleries, INSURED_TOTAL, rollUp, ruleOf } from '@/core/testing/galleries';
import { Decimal, type Value } from '@/core/values';
import {
  compileRollUp,
  isDue,
  isReacting,
  limited,
  NONE,
  OTHERWISE,
  type ResultMap,
  type RollUp,
  sentenceOf,
  writtenAt,
  writtenFrom,
} from '@/core/rules';
import { buildPlan } from '@/core/plan';

const model = galleries();
const loans: RollUp['route'] = [{ direction: 'down', type: 'loan', link: 'exhibition' }];

function compiled(definition: RollUp) {
  const result = compileRollUp(model, ruleOf(definition, 1));
  if (!result.ok) throw new Error(result.problems.map(({ message }) => message).join(' '));
  return result.rule;
}
const problemsOf = (definition: RollUp) => {
  const result = compileRollUp(model, ruleOf(definition, 1));
  return result.ok ? [] : result.problems.map(({ place, message }) => [place, message]);
};
const number = (digits: string): Value => new Decimal(digits);

describe('limits', () => {
  const rounding = { mode: 'nearest', places: 0 } as const;
  test.each([
    ['2.4', '3'],
    ['3.5', '4'],
    ['99', '6'],
    ['-1', '3'],
  ])('after rounding %s becomes %s, between 3 and 6', (given, wanted) => {
    const limits = { least: new Decimal(3), most: new Decimal(6) };
    expect(String(limited(number(given), rounding, limits))).toBe(wanted);
  });

  test('empty stays empty, and a text is left alone', () => {
    const limits = { least: new Decimal(3), most: null };
    expect([limited(null, null, limits), limited('a', null, limits)]).toEqual([null, 'a']);
  });

  test.each([
    [{ least: 'many' }, /A limit is a number, .* found “many”/],
    [{ least: '7', most: '5' }, /lower limit 7 is above the upper limit 5/],
  ])('%j is refused', (limits, message) => {
    const [[place, found] = []] = problemsOf({ ...INSURED_TOTAL, limits });
    expect([place, found]).toEqual(['limits', expect.stringMatching(message)]);
  });

  test('of what has no amount are refused', () => {
    const last = rollUp({
      ...{
        type: 'exhibition',
        target: 'lastDue',
        aggregate: 'maximum',
        route: loans,
        value: fieldOf('dueBack'),
      },
      limits: { least: '1' },
    });
    expect(problemsOf(last)[0]![1]).toContain('Only numbers, money and ratings have limits');
  });
});

const MAP: ResultMap = {
  rows: [
    { operator: '>=', than: '4', writes: '6' },
    { operator: '>=', than: '2.5', writes: '3' },
  ],
  otherwise: { kind: 'writes', value: null },
};
const WEIGHED = rollUp({
  ...{ type: 'exhibition', target: 'grade', aggregate: 'average', route: loans, value: fieldOf('weight') },
  map: MAP,
});

describe('a table of results', () => {
  test('the first row that holds says what is written, exactly on its limit too', () => {
    const rule = compiled(WEIGHED);
    const written = (digits: string) => writtenFrom(rule, number(digits));
    expect(['4', '3.99999999', '2.5', '2.49'].map(written)).toEqual(
      [number('6'), number('3'), number('3'), null].map((value) => ({ value })),
    );
  });

  test('reads as a part of the sentence', () => {
    expect(sentenceOf(model, compiled(WEIGHED))).toBe(
      'On every Exhibition, keep Grade by the average of Weight over its Loans: 6 when at least 4, 3 when at least 2.5, otherwise empty. When none count: empty. With the save.',
    );
  });

  test('what it writes must fit the target, what it compares the result', () => {
    const wrong = (rows: ResultMap['rows']) => problemsOf({ ...WEIGHED, map: { ...MAP, rows } })[0];
    expect(wrong([{ operator: '>=', than: '4', writes: '9' }])).toEqual([
      'map.0',
      expect.stringContaining('Expected a whole rating from 1 to 6'),
    ]);
    expect(wrong([{ operator: '>=', than: 'much', writes: '6' }])![0]).toBe('map.0');
    expect(wrong([{ operator: '>=', than: null, writes: '6' }])![1]).toContain(
      'Say what the result is compared with',
    );
    expect(wrong([])![1]).toContain('1 to 50 rows');
  });

  test('a question isn’t more or less than an answer', () => {
    const all = rollUp({
      ...{ type: 'exhibition', target: 'grade', aggregate: 'all', route: loans },
      value: { kind: 'feel', text: 'stage = "agreed"' },
      map: { ...MAP, rows: [{ operator: '<', than: true, writes: '1' }] },
    });
    expect(problemsOf(all)[0]![1]).toContain('can’t be compared by “<”');
  });
});

describe('a rule that reacts', () => {
  const OPENED = rollUp({
    ...{ type: 'exhibition', target: 'open', aggregate: 'all', route: loans },
    value: { kind: 'feel', text: 'stage = "agreed"' },
    map: { rows: [{ operator: '=', than: true, writes: true }], otherwise: { kind: 'asItIs' } },
    appliesWhen: { kind: 'presence', operator: 'isEmpty', operand: fieldOf('open') },
  });
  const rule = compiled(OPENED);
  const map = rule.map!;

  test.each([
    ['it wasn’t there', null, 0, true],
    ['left as it is before, a value now', OTHERWISE, 0, true],
    ['the same before and now', 0, 0, false],
    ['a value before, left as it is now', 0, OTHERWISE, false],
    ['none counted before and now', NONE, NONE, false],
  ])('%s', (_, before, after, due) => {
    expect(isDue(map, null, before, after)).toBe(due);
  });

  test('where none count it asks for what the rule says then', () => {
    expect([writtenAt(map, null, NONE), writtenAt(map, false, NONE)]).toEqual([undefined, false]);
  });

  test('leaves its field open, may read it, and stands in the plan', () => {
    const { plan, problems } = buildPlan(model, [ruleOf(OPENED, 1)]);
    expect(problems).toEqual([]);
    expect([isReacting(rule), plan.keeper({ type: 'exhibition', field: 'open' })]).toEqual([true, undefined]);
    expect(sentenceOf(model, rule)).toBe(
      'On every Exhibition where Open is empty, change Open with whether all of its Loans are such that Stage is Agreed: yes when yes, otherwise left as it is. When none count: left as it is. With the save.',
    );
  });

  test('a rule that keeps its field has no such condition', () => {
    const kept = { ...OPENED, map: { ...OPENED.map!, otherwise: { kind: 'writes', value: false } as const } };
    expect(problemsOf(kept)[0]).toEqual(['appliesWhen', expect.stringContaining('Leave the condition out')]);
  });

  test('nor may it go all the way down', () => {
    const parts = rollUp({
      ...{ type: 'institution', target: 'partCount', aggregate: 'sum' },
      ...{ route: [{ direction: 'down', type: 'institution', link: 'partOf' }], value: fieldOf('partCount') },
      map: { rows: [{ operator: '>', than: '1', writes: '1' }], otherwise: { kind: 'asItIs' } },
    });
    expect(problemsOf(parts)[0]![1]).toContain('goes all the way down keeps its field');
  });
});

describe('several fields of one record', () => {
  const LAST = rollUp({
    ...{ type: 'exhibition', target: 'lastDue', aggregate: 'last', route: loans, value: fieldOf('dueBack') },
    ...{
      order: [fieldOf('dueBack')],
      together: [{ target: 'artefactCount', values: [fieldOf('artefactCount')] }],
    },
  });

  test('each stands in the plan for itself, under one rule', () => {
    const { plan, problems } = buildPlan(model, [ruleOf(LAST, 1)]);
    expect(problems).toEqual([]);
    expect(plan.rules.map(({ id, writes }) => [id, writes.field]).sort()).toEqual(
      [
        [ruleOf(LAST, 1).id, 'artefactCount'],
        [ruleOf(LAST, 1).id, 'lastDue'],
      ].sort(),
    );
    expect(sentenceOf(model, compiled(LAST))).toContain(
      ', and with it Artefact count equal to its Artefact count',
    );
  });

  test.each<[string, Partial<RollUp>, string, RegExp]>([
    ['of a sum', { ...INSURED_TOTAL, together: LAST.together! }, 'together', /Only the first and the last/],
    [
      'into one field twice',
      { together: [{ target: 'lastDue', values: [fieldOf('dueBack')] }] },
      'together.0.target',
      /keeps that field already/,
    ],
    [
      'of a kind that doesn’t fit',
      { together: [{ target: 'grade', values: [fieldOf('dueBack')] }] },
      'together.0.target',
      /can’t be written into Grade/,
    ],
    [
      'without a value',
      { together: [{ target: 'grade', values: [] }] },
      'together.0.value',
      /Choose the field whose last is taken/,
    ],
  ])('%s it is refused', (_, change, place, message) => {
    expect(problemsOf({ ...LAST, ...change })).toContainEqual([place, expect.stringMatching(message)]);
  });

  test('a field that another rule keeps is refused by name', () => {
    const count = rollUp({
      ...{ type: 'exhibition', target: 'artefactCount', aggregate: 'count', route: loans, whenNone: '0' },
    });
    const { problems } = buildPlan(model, [ruleOf(LAST, 1, 'Last'), ruleOf(count, 2, 'Count')]);
    expect(problems.map(({ message }) => message)).toContain(
      'Artefact count of Exhibition is kept by “Count” already. Choose another field, pause the other rule, or state both in one formula: a value where its condition holds, otherwise the other.',
    );
  });
});
