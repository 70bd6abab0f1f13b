import { fieldOf, galleries, gbp, rowOf, stageIs, uuid } from '@/core/testing/galleries';
import { MemoryStore, readerOf, type Row } from '@/core/engine';
import { type Value, type WireValue } from '@/core/values';
import {
  describe as inWords,
  evaluate,
  type Expression,
  OPERATORS,
  operatorsFor,
  OUTSIDE,
  reasonsAgainst,
  type Typed,
  typeCondition,
  type TypedField,
} from '.';

const model = galleries();
const store = new MemoryStore(model, false);
const silk = rowOf(model, 'exhibition', uuid('11'), { title: 'Rivers of Silk', open: true });
const loan = (values: Record<string, Value>): Row =>
  rowOf(model, 'loan', uuid('21'), { exhibition: silk.id, ...values });
store.put(silk);

const compare = (
  field: string,
  operator: '=' | '!=' | '<' | '<=' | '>' | '>=',
  value: WireValue,
): Expression => ({
  kind: 'compare',
  operator,
  left: fieldOf(field),
  right: { kind: 'constant', value },
});
const group = (operator: 'all' | 'any' | 'none', ...of: Expression[]): Expression => ({
  kind: 'group',
  operator,
  of,
});

function typed(condition: Expression): Typed {
  const result = typeCondition(model, 'loan', condition);
  if (!result.ok) throw new Error(result.problem.message);
  return result.value;
}
const reader = (row: Row) => (field: TypedField) => readerOf(model, store).value(row, field);
const holds = (condition: Expression, values: Record<string, Value>) =>
  evaluate(typed(condition), reader(loan(values)));

describe('logic is two-valued', () => {
  test('comparing with empty is false, also for “is not”', () => {
    expect(holds(stageIs('agreed'), { stage: null })).toBe(false);
    expect(holds(compare('stage', '!=', 'agreed'), { stage: null })).toBe(false);
    expect(holds(compare('insuredValue', '<', { amount: '1', currency: 'GBP' }), {})).toBe(false);
  });

  test('“is empty”, “is not empty” and “is not among” are the ways to ask', () => {
    const among = (operator: 'isAmong' | 'isNotAmong'): Expression => ({
      kind: 'among',
      operator,
      operand: fieldOf('stage'),
      options: ['agreed', 'declined'],
    });
    expect(holds({ kind: 'presence', operator: 'isEmpty', operand: fieldOf('stage') }, {})).toBe(true);
    expect(holds({ kind: 'presence', operator: 'isNotEmpty', operand: fieldOf('stage') }, {})).toBe(false);
    expect(holds(among('isNotAmong'), {})).toBe(true);
    expect(holds(among('isAmong'), {})).toBe(false);
    expect(holds(among('isAmong'), { stage: 'declined' })).toBe(true);
  });

  test('none of a test that is false for empty holds', () => {
    expect(holds(group('none', stageIs('agreed')), { stage: null })).toBe(true);
  });

  test('empty groups: all and none hold, any does not', () => {
    expect([holds(group('all'), {}), holds(group('none'), {}), holds(group('any'), {})]).toEqual([
      true,
      true,
      false,
    ]);
  });
});

test('amounts, dates and choices are compared by their own order', () => {
  expect(
    holds(compare('insuredValue', '>=', { amount: '900.50', currency: 'GBP' }), {
      insuredValue: gbp('900.5'),
    }),
  ).toBe(true);
  expect(
    holds(compare('insuredValue', '>', { amount: '900.50', currency: 'GBP' }), {
      insuredValue: gbp('10000'),
    }),
  ).toBe(true);
  expect(holds(compare('dueBack', '<', '2027-01-01'), { dueBack: '0999-12-31' })).toBe(true);
  expect(holds(compare('stage', '<', 'declined'), { stage: 'agreed' })).toBe(true);
});

test('texts are matched as they are written', () => {
  const title = (operator: 'contains' | 'startsWith', part: string): Expression => ({
    kind: 'match',
    operator,
    operand: fieldOf('title'),
    part: { kind: 'constant', value: part },
  });
  expect(holds(title('contains', 'est'), { title: 'Kestrel' })).toBe(true);
  expect(holds(title('startsWith', 'kes'), { title: 'Kestrel' })).toBe(false);
});

describe('up a route', () => {
  const isOpen: Expression = {
    kind: 'compare',
    operator: '=',
    left: fieldOf('open', 'exhibition'),
    right: { kind: 'constant', value: true },
  };
  test('reads the record that the link names; an empty link reads as empty', () => {
    expect(holds(isOpen, {})).toBe(true);
    expect(holds(isOpen, { exhibition: null })).toBe(false);
  });
  test('a record that isn’t loaded decides nothing, unless another test does', () => {
    const elsewhere = { exhibition: uuid('99'), stage: 'declined' };
    expect(holds(isOpen, elsewhere)).toBe(OUTSIDE);
    expect(holds(group('all', isOpen, stageIs('agreed')), elsewhere)).toBe(false);
    expect(holds(group('any', isOpen, stageIs('declined')), elsewhere)).toBe(true);
    expect(holds(group('none', isOpen, stageIs('agreed')), elsewhere)).toBe(OUTSIDE);
  });
});

describe('typing', () => {
  const problemOf = (condition: Expression) => {
    const result = typeCondition(model, 'loan', condition);
    return result.ok ? null : `${result.problem.place}: ${result.problem.message}`;
  };
  test.each<[string, Expression, RegExp]>([
    ['a field that doesn’t exist', compare('colour', '=', 'red'), /^left: “Loan” has no field “colour”/],
    [
      'a route that doesn’t exist',
      { kind: 'presence', operator: 'isEmpty', operand: fieldOf('open', 'stage') },
      /^operand: “stage” isn’t a route/,
    ],
    [
      'an operator that the kind doesn’t take',
      compare('exhibition', '<', uuid('1')),
      /can’t be tested with “is less than”/,
    ],
    ['a constant that doesn’t fit', compare('dueBack', '>', 'soon'), /^right: Expected a date/],
    [
      'an option that isn’t one',
      group('all', stageIs('agreed'), stageIs('lost')),
      /^of\.1\.right: Expected one of Requested/,
    ],
    [
      'unlike kinds',
      { kind: 'compare', operator: '=', left: fieldOf('stage'), right: fieldOf('dueBack') },
      /choice can’t be compared with a date/,
    ],
    ['nothing to compare with', compare('stage', '=', null), /^right: Enter what to compare with/],
    [
      'an empty list',
      { kind: 'among', operator: 'isAmong', operand: fieldOf('stage'), options: [] },
      /Add at least one/,
    ],
    ['something that isn’t a test', fieldOf('stage'), /must be true or false/],
  ])('refuses %s, at its place', (_, condition, message) => {
    expect(problemOf(condition)).toMatch(message);
  });

  test('refuses what is nested too deep', () => {
    let deep: Expression = stageIs('agreed');
    for (let level = 0; level < 41; level += 1) deep = group('all', deep);
    expect(problemOf(deep)).toMatch(/nested deeper than 40/);
  });
});

test('every operator has words for each kind that it takes, told apart', () => {
  for (const entry of OPERATORS) expect(entry.kinds.length).toBeGreaterThan(0);
  for (const kind of ['date', 'choice', 'choices', 'number', 'text'] as const) {
    const words = operatorsFor(kind).map((entry) => entry.wordsFor?.[kind] ?? entry.words);
    expect(new Set(words).size).toBe(words.length);
  }
});

test('a condition reads as words, routes and constants in them', () => {
  const condition = group(
    'all',
    stageIs('agreed'),
    group('any', compare('dueBack', '<', '2027-01-31'), {
      kind: 'presence',
      operator: 'isEmpty',
      operand: fieldOf('open', 'exhibition'),
    }),
  );
  expect(inWords(model, typed(condition))).toBe(
    'Stage is Agreed and (Due back is before 31 Jan 2027 or Exhibition’s open is empty)',
  );
  expect(inWords(model, typed(group('none', stageIs('agreed'))))).toBe('not (Stage is Agreed)');
});

test('what leaves a record out is told test by test, with what was found', () => {
  const reasons = (condition: Expression, values: Record<string, Value>) =>
    reasonsAgainst(model, typed(condition), reader(loan(values)));
  const both = group(
    'all',
    stageIs('agreed'),
    compare('insuredValue', '>', { amount: '500', currency: 'GBP' }),
  );
  expect(reasons(both, { stage: 'declined', insuredValue: gbp(900) })).toEqual([
    { test: 'Stage is Agreed', found: 'Declined' },
  ]);
  expect(reasons(both, { insuredValue: gbp(1) })).toEqual([
    { test: 'Stage is Agreed', found: 'empty' },
    { test: 'Insured value is more than 500.00 GBP', found: '1.00 GBP' },
  ]);
  expect(reasons(group('none', stageIs('agreed')), { stage: 'agreed' })).toEqual([
    { test: 'not Stage is Agreed', found: 'Agreed' },
  ]);
  expect(reasons(both, { stage: 'agreed', insuredValue: gbp(900) })).toEqual([]);
});
