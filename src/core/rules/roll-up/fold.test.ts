import { MemoryStore, readerOf } from '@/core/engine';
import { type Field, readModel } from '@/core/model';
import { rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { Decimal, displayValue, isError, type Value, type ValueType, type WireValue } from '@/core/values';
import {
  type Aggregate,
  aggregate,
  compileRollUp,
  type FieldRead,
  type Joining,
  type RollUp,
  sentenceOf,
} from '@/core/rules';

const MARKS: ValueType = {
  kind: 'choice',
  options: ['green', 'amber', 'red'].map((key) => ({ key, name: key })),
};
const field = (key: string, type: ValueType): Field => ({ key, name: key, type });
const title: Field = { key: 'title', name: 'Title', type: { kind: 'text' }, required: true };
const GBP: ValueType = { kind: 'money', currency: 'GBP' };
const model = readModel({
  types: [
    {
      ...{ key: 'crate', name: 'Crate', plural: 'Crates', title: 'title' },
      fields: [
        title,
        field('number', { kind: 'number', scale: 2 }),
        field('money', GBP),
        field('grade', { kind: 'rating', lowest: 0, highest: 6 }),
        field('answer', { kind: 'yesNo' }),
        field('mark', MARKS),
        field('names', { kind: 'text' }),
      ],
    },
    {
      ...{ key: 'piece', name: 'Piece', plural: 'Pieces', title: 'title' },
      fields: [
        title,
        {
          ...field('crate', { kind: 'link', target: 'crate' }),
          ...{ otherEnd: 'Pieces', whenParentGoes: 'refuse' as const },
        },
        field('maker', { kind: 'text' }),
        field('weight', { kind: 'number', scale: 2 }),
        field('value', GBP),
        field('grade', { kind: 'rating', lowest: 1, highest: 6 }),
        field('sealed', { kind: 'yesNo' }),
        field('mark', MARKS),
        field('odd', { kind: 'choice', options: [{ key: 'other', name: 'other' }] }),
      ],
    },
  ],
});

const rollUp = (aggregate: Aggregate, value: string, target: string, whenNone: WireValue = null): RollUp => ({
  ...{ kind: 'rollUp', type: 'crate', target, aggregate, whenNone, condition: null, rounding: null },
  ...(aggregate === 'percentile' ? { percent: 60 } : {}),
  route: [{ direction: 'down', type: 'piece', link: 'crate' }],
  value: { kind: 'field', route: [], field: value },
  pace: 'withTheSave',
});
const compiled = (definition: RollUp) => {
  const result = compileRollUp(model, ruleOf(definition, 1));
  if (!result.ok) throw new Error(result.problems.map(({ message }) => message).join(' '));
  return result.rule;
};
const store = new MemoryStore(model, true);

/** What pieces with these values come to, in words. */
const worked = (definition: RollUp, values: readonly Value[]): string =>
  workedOn(
    definition,
    values.map((value) => ({ [(definition.value as FieldRead).field]: value })),
  );

function workedOn(definition: RollUp, pieces: readonly Readonly<Record<string, Value>>[]): string {
  const rule = compiled(definition);
  const rows = pieces.map((values, at) => rowOf(model, 'piece', uuid(`4${at}`), values));
  const reader = readerOf(model, store);
  const brought = aggregate(rule, [{ source: rule.sources[0]!, rows, reader }], { at: rows[0]!, reader });
  if (typeof brought === 'symbol' || isError(brought.outcome)) return 'problem';
  return displayValue(rule.target.type, brought.outcome.value);
}
const n = (digits: string): Value => new Decimal(digits);
const gbp = (digits: string): Value => ({ amount: new Decimal(digits), currency: 'GBP' });

test.each<[Aggregate, string, string, readonly Value[], string]>([
  ['range', 'weight', 'number', [n('2.5'), n('-1'), n('7.25')], '8.25'],
  ['range', 'weight', 'number', [n('2.5')], '0.00'],
  ['range', 'value', 'money', [gbp('10'), null, gbp('900.50')], '890.50 GBP'],
  ['range', 'grade', 'grade', [n('2'), n('5')], '3'],
  ['median', 'weight', 'number', [n('7'), n('-1'), n('2.5')], '2.50'],
  ['median', 'weight', 'number', [n('7'), null, n('2'), n('2.25'), n('1')], '2.13'],
  ['median', 'value', 'money', [gbp('10'), gbp('900.51')], '455.26 GBP'],
  ['percentile', 'weight', 'number', [n('5'), n('1'), n('2'), null, n('9')], '4.40'],
  ['percentile', 'value', 'money', [gbp('10'), gbp('20')], '16.00 GBP'],
  ['percentile', 'weight', 'number', [n('7.25')], '7.25'],
  ['deviation', 'weight', 'number', [2, 4, 4, 4, 5, 5, 7, 9].map((of) => n(String(of))), '2.14'],
  ['deviation', 'weight', 'number', [n('2.5')], 'empty'],
  ['deviation', 'value', 'money', [gbp('1'), gbp('3')], '1.41 GBP'],
  ['countDistinct', 'maker', 'number', ['Fell', 'Harrow', 'Fell', null], '2.00'],
  ['countDistinct', 'weight', 'number', [n('1.5'), n('1.50'), n('2')], '2.00'],
  ['countDistinct', 'mark', 'number', ['red', 'red'], '1.00'],
  ['all', 'sealed', 'answer', [true, true], 'yes'],
  ['all', 'sealed', 'answer', [true, false, true], 'no'],
  ['all', 'sealed', 'answer', [true, null], 'yes'],
  ['any', 'sealed', 'answer', [false, true], 'yes'],
  ['any', 'sealed', 'answer', [false, false], 'no'],
  ['none', 'sealed', 'answer', [false, false], 'yes'],
  ['none', 'sealed', 'answer', [true], 'no'],
  ['best', 'mark', 'mark', ['red', 'amber', null], 'amber'],
  ['worst', 'mark', 'mark', ['green', 'amber', 'green'], 'amber'],
])('the %s of %s into %s', (aggregate, value, target, values, expected) => {
  expect(worked(rollUp(aggregate, value, target), values)).toBe(expected);
});

test.each<[Aggregate, string, string]>([
  ['range', 'weight', 'number'],
  ['all', 'sealed', 'answer'],
  ['best', 'mark', 'mark'],
])('where nothing has a value, the %s is what the rule says', (aggregate, value, target) => {
  expect(worked(rollUp(aggregate, value, target), [null])).toBe('empty');
  const said = { range: '1.00', all: true, best: 'red' }[aggregate as 'range' | 'all' | 'best'];
  expect(worked(rollUp(aggregate, value, target, said), [])).toBe(
    { range: '1.00', all: 'yes', best: 'red' }[aggregate as 'all'],
  );
});

test('texts are joined from the first or from the last by an order, few of them; each once in their own order', () => {
  const pieces = [
    { maker: 'Fell', weight: n('3') },
    { maker: 'Harrow', weight: n('9') },
    { maker: 'Brae', weight: null },
    { maker: 'Fell', weight: n('7') },
  ];
  const joined = (joining: Omit<Joining, 'separator'>, isOrdered: boolean) =>
    workedOn(
      {
        ...rollUp('joined', 'maker', 'names'),
        ...(isOrdered ? { order: [{ kind: 'field', route: [], field: 'weight' }] } : {}),
        joining: { separator: ', ', ...joining },
      },
      pieces,
    );
  expect(joined({}, true)).toBe('Brae, Fell, Fell, Harrow');
  expect(joined({ isFromLast: true }, true)).toBe('Harrow, Fell, Fell, Brae');
  expect(joined({ isFromLast: true, most: 2 }, true)).toBe('Harrow, Fell and 2 more');
  expect(joined({ isFromLast: true, isDistinct: true }, false)).toBe('Harrow, Fell, Brae');
});

test('what doesn’t fit is refused while it is written', () => {
  const problems = (definition: RollUp) => {
    const result = compileRollUp(model, ruleOf(definition, 1));
    return result.ok ? [] : result.problems.map(({ place, message }) => `${place}: ${message}`);
  };
  expect(problems(rollUp('all', 'weight', 'answer'))).toEqual([
    expect.stringMatching(/^value: The all takes yes\/no/),
  ]);
  expect(problems(rollUp('worst', 'mark', 'answer'))).toEqual([
    expect.stringMatching(/^target: The result is choice/),
  ]);
  expect(problems(rollUp('worst', 'odd', 'mark'))).toEqual([expect.stringMatching(/^target: /)]);
  const percentile = rollUp('percentile', 'weight', 'number');
  expect(problems({ ...percentile, percent: 100 })).toEqual([
    expect.stringMatching(/^percent: .*whole number of 1 to 99; found 100/),
  ]);
  expect(problems({ ...percentile, percent: undefined })).toEqual([
    expect.stringMatching(/^percent: .*found nothing/),
  ]);
});

test('the sentence reads as a question or as a number', () => {
  const words = (definition: RollUp) => sentenceOf(model, compiled(definition));
  expect(words(rollUp('all', 'sealed', 'answer'))).toBe(
    'On every Crate, keep answer equal to whether all of its Pieces have sealed. When none count: empty. With the save.',
  );
  expect(words(rollUp('percentile', 'weight', 'number'))).toBe(
    'On every Crate, keep number equal to the percentile of weight over its Pieces, under which lie 60 in a hundred. When none count: empty. With the save.',
  );
  expect(words(rollUp('countDistinct', 'maker', 'number', '0'))).toBe(
    'On every Crate, keep number equal to the number of different maker over its Pieces. When none count: 0.00. With the save.',
  );
  expect(words(rollUp('worst', 'mark', 'mark'))).toContain('equal to the worst of mark over its Pieces');
});
