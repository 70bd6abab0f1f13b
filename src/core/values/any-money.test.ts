import { currencyOfHeading, PLAIN_FORMS, readText } from './typed/read-text';
import {
  conversion,
  convertStored,
  currenciesIn,
  Decimal,
  displayResult,
  displayValue,
  parseValue,
  toWire,
  type Value,
  type ValueType,
} from '.';

const ANY: ValueType = { kind: 'anyMoney' };
const GBP: ValueType = { kind: 'money', currency: 'GBP' };
const money = (amount: string, currency: string): Value => ({ amount: new Decimal(amount), currency });

test.each([
  [{ amount: '12.50', currency: 'EUR' }, money('12.5', 'EUR')],
  [{ amount: '1250', currency: 'JPY' }, money('1250', 'JPY')],
  [null, null],
])('%j is read', (input, wanted) => {
  expect(parseValue(ANY, input)).toEqual({ ok: true, value: wanted });
});

test.each([
  ['12.50', /Expected an amount with its currency/],
  [{ amount: '12.50' }, /Expected an amount with its currency/],
  [{ amount: '12.50', currency: 'GLD' }, /ISO 4217 code/],
  [{ amount: '12.505', currency: 'EUR' }, /at most 2 decimal places/],
  [{ amount: '1.5', currency: 'JPY' }, /a whole number/],
])('%j is refused', (input, message) => {
  const read = parseValue(ANY, input);
  expect(read.ok ? '' : read.problem.message).toMatch(message);
});

test('is shown and sent with its currency and its places', () => {
  expect(displayValue(ANY, money('1250.5', 'EUR'))).toBe('1,250.50 EUR');
  expect(toWire(ANY, money('1250.5', 'EUR'))).toEqual({ amount: '1250.50', currency: 'EUR' });
  expect(toWire(ANY, money('1250', 'JPY'))).toEqual({ amount: '1250', currency: 'JPY' });
});

test('goes into its like, and into one currency by a rate only', () => {
  expect([conversion(ANY, ANY), conversion(ANY, GBP), conversion(GBP, ANY)]).toEqual(['exact', null, null]);
});

test.each<[ValueType, Value, ValueType, Value]>([
  [GBP, money('3', 'GBP'), ANY, money('3', 'GBP')],
  [ANY, money('3', 'GBP'), GBP, money('3', 'GBP')],
  [ANY, money('3', 'EUR'), GBP, null],
  [{ kind: 'text' }, '1,250.50 EUR', ANY, money('1250.5', 'EUR')],
  [{ kind: 'text' }, '1,250.50', ANY, null],
  [ANY, money('1250.5', 'EUR'), { kind: 'text' }, '1250.50 EUR'],
])('a field of %j with %j becomes %j', (from, value, into, wanted) => {
  expect(convertStored(value, from, into).value).toEqual(wanted);
});

describe('in a file', () => {
  const read = (text: string, currency?: string) => {
    const found = readText(ANY, text, { ...PLAIN_FORMS, ...(currency ? { currency } : {}) });
    return found.ok ? found.value : found.problem.message;
  };

  test('the currency stands before or after the amount, or in the heading', () => {
    expect([read('1,250.50 EUR'), read('EUR 3')]).toEqual([money('1250.5', 'EUR'), money('3', 'EUR')]);
    expect(currencyOfHeading('Insured value (CHF)')).toBe('CHF');
    expect(read('3', currencyOfHeading('Insured value (CHF)'))).toEqual(money('3', 'CHF'));
    expect(read('3 EUR', 'CHF')).toEqual(money('3', 'EUR'));
  });

  test('without one it says how to give it', () => {
    expect(read('3')).toBe(
      'Expected an amount with its currency, found “3”. Give it as 12.50 EUR, or name the currency in the column’s heading.',
    );
  });
});

test('the currencies of a model come first', () => {
  expect(currenciesIn([{ kind: 'money', currency: 'NOK' }, GBP]).slice(0, 3)).toEqual(['NOK', 'GBP', 'EUR']);
});

test('a result has as many places as people read', () => {
  const number: ValueType = { kind: 'number', scale: 20, unit: 'kg' };
  const shown = ['2.5', '4', '3.33333333333333333333'].map((digits) =>
    displayResult(number, new Decimal(digits)),
  );
  expect(shown).toEqual(['2.5 kg', '4 kg', '3.333333… kg']);
});
