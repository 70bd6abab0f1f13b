import { convertStored, Decimal, kindsInto, sameValue, type Value, type ValueType } from '.';

const text: ValueType = { kind: 'text' };
const number = (scale: number): ValueType => ({ kind: 'number', scale });
const gbp: ValueType = { kind: 'money', currency: 'GBP' };
const money = (amount: string) => ({ amount: new Decimal(amount), currency: 'GBP' });
const stages = (...keys: string[]) =>
  ({ kind: 'choice', options: keys.map((key) => ({ key, name: key.toUpperCase() })) }) as const;
const several = (...keys: string[]): ValueType => ({ ...stages(...keys), kind: 'choices' });

test.each<[string, Value, ValueType, ValueType, Value, string]>([
  ['digits', '1,250.50', text, number(2), new Decimal('1250.50'), 'same'],
  ['digits that must be rounded', '0.125', text, number(2), new Decimal('0.13'), 'same'],
  ['words', 'about ten', text, number(0), null, 'lost'],
  ['digits grouped wrongly', '12,50', text, number(2), null, 'lost'],
  ['an amount with its currency', '1250.5 GBP', text, gbp, money('1250.50'), 'same'],
  ['an amount of another currency', '1250 EUR', text, gbp, null, 'lost'],
  ['fewer places, away from zero', new Decimal('-2.5'), number(1), number(0), new Decimal(-3), 'altered'],
  ['more places', new Decimal('2.5'), number(1), number(3), new Decimal('2.5'), 'same'],
  ['a number as an amount', new Decimal('2.555'), number(3), gbp, money('2.56'), 'altered'],
  ['an amount as a number', money('2.50'), gbp, number(2), new Decimal('2.5'), 'same'],
  ['an amount of another currency', money('2.50'), gbp, { kind: 'money', currency: 'EUR' }, null, 'lost'],
  [
    'a number outside a rating',
    new Decimal(7),
    number(0),
    { kind: 'rating', lowest: 1, highest: 6 },
    null,
    'lost',
  ],
  ['an option by name', 'agreed', text, stages('agreed', 'declined'), 'agreed', 'same'],
  ['two options for one', 'AGREED, declined', text, stages('agreed', 'declined'), null, 'lost'],
  [
    'two options for several',
    'declined; AGREED',
    text,
    several('agreed', 'declined'),
    ['agreed', 'declined'],
    'same',
  ],
  ['a choice as several', 'agreed', stages('agreed'), several('agreed'), ['agreed'], 'same'],
  ['several of which one is left', ['a', 'b'], several('a', 'b'), several('b'), ['b'], 'altered'],
  ['an option that is gone', 'a', stages('a', 'b'), stages('b'), null, 'lost'],
  ['a choice in words', 'agreed', stages('agreed'), text, 'AGREED', 'same'],
  ['a yes in words', true, { kind: 'yesNo' }, text, 'yes', 'same'],
  ['words as a yes', ' Yes ', text, { kind: 'yesNo' }, true, 'same'],
  ['a date in words', '2027-02-28', { kind: 'date' }, text, '2027-02-28', 'same'],
  ['words as a date', '2027-02-28', text, { kind: 'date' }, '2027-02-28', 'same'],
  ['a day that isn’t', '2027-02-29', text, { kind: 'date' }, null, 'lost'],
  ['a date as a number', '2027-02-28', { kind: 'date' }, number(0), null, 'lost'],
  ['a text too long for its kind', 'x'.repeat(501), { kind: 'longText' }, text, null, 'lost'],
])('%s', (_, before, from, into, after, fate) => {
  const converted = convertStored(before, from, into);
  expect(converted.fate).toBe(fate);
  expect(sameValue(converted.value, after)).toBe(true);
});

test('an option that goes may be replaced, also among several', () => {
  expect(convertStored('a', stages('a', 'b'), stages('b'), { a: 'b' })).toEqual({
    value: 'b',
    fate: 'altered',
  });
  expect(convertStored(['a', 'b'], several('a', 'b'), several('b'), { a: 'b' })).toEqual({
    ...{ value: ['b'], fate: 'altered' },
  });
});

test('what is empty stays empty, whatever it becomes', () => {
  expect(convertStored(null, text, number(0))).toEqual({ value: null, fate: 'same' });
});

test('links and people become nothing else', () => {
  expect(kindsInto('link')).toEqual(['link']);
  expect(kindsInto('person')).toEqual(['person']);
});
