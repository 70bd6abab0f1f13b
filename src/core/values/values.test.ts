import fc from 'fast-check';
import {
  compareText,
  compareValues,
  conversion,
  Decimal,
  displayValue,
  divide,
  fitValue,
  parseValue,
  round,
  sameValue,
  toWire,
  type ValueType,
} from '.';

const number = (scale: number): ValueType => ({ kind: 'number', scale });
const GBP: ValueType = { kind: 'money', currency: 'GBP' };
const STAGE: Extract<ValueType, { kind: 'choice' | 'choices' }> = {
  kind: 'choice',
  options: [
    { key: 'proposed', name: 'Proposed' },
    { key: 'open', name: 'Open' },
  ],
};

describe('parsing', () => {
  test.each<[string, ValueType, unknown, RegExp]>([
    ['text in a number', number(0), 'twelve', /Expected a whole number, found “twelve”/],
    ['a JSON number, which may not be exact', number(2), 1.1, /Send digits as a string/],
    ['more places than the field has', number(2), '1.005', /at most 2 decimal places/],
    ['more digits than fit', number(0), '1'.repeat(31), /more than 30 digits/],
    ['an exponent', number(0), '1e3', /Expected a whole number/],
    [
      'an option that isn’t one',
      STAGE,
      'closed',
      /Expected one of Proposed \(proposed\), Open \(open\), found “closed”/,
    ],
    ['a day that doesn’t exist', { kind: 'date' }, '2026-02-29', /Expected a date that exists/],
    ['the year 0', { kind: 'date' }, '0000-12-31', /years 1 to 9999/],
    ['a day in another order', { kind: 'date' }, '31/12/2026', /year-month-day/],
    ['an hour that doesn’t exist', { kind: 'dateTime' }, '2026-01-01T24:00:00Z', /date-time that exists/],
    ['another currency', GBP, { amount: '1', currency: 'EUR' }, /Expected an amount in GBP/],
    ['a rating beyond its limits', { kind: 'rating', lowest: 1, highest: 6 }, 7, /from 1 to 6/],
    ['a NUL character', { kind: 'text' }, 'a\u0000b', /NUL character/],
    ['half of a surrogate pair', { kind: 'text' }, 'a\ud800', /surrogate/],
    ['a long text in a text', { kind: 'text' }, 'x'.repeat(501), /at most 500 fit/],
    ['text in a yes/no', { kind: 'yesNo' }, 'yes', /true/],
    ['a name in a link', { kind: 'link', target: 'loan' }, 'Kestrel', /id of a record/],
  ])('refuses %s', (_, type, input, message) => {
    const parsed = parseValue(type, input);
    expect(parsed.ok ? 'accepted' : parsed.problem.message).toMatch(message);
  });

  test('reads what fits, in its one form', () => {
    const value = (type: ValueType, input: unknown) => {
      const parsed = parseValue(type, input);
      return parsed.ok ? toWire(type, parsed.value) : parsed.problem.message;
    };
    expect(value(number(2), '-0')).toBe('0.00');
    expect(value(number(3), '0012.5')).toBe('12.500');
    expect(value(GBP, '12250')).toEqual({ amount: '12250.00', currency: 'GBP' });
    expect(value({ kind: 'money', currency: 'JPY' }, { amount: '12250', currency: 'JPY' })).toEqual({
      amount: '12250',
      currency: 'JPY',
    });
    expect(value({ kind: 'dateTime' }, '2026-03-14T10:30+01:00')).toBe('2026-03-14T09:30:00.000Z');
    expect(value({ kind: 'date' }, '2024-02-29')).toBe('2024-02-29');
    expect(value({ kind: 'text' }, 'Sørva\u030ag')).toBe('Sørvåg');
    expect(value({ kind: 'text' }, '')).toBeNull();
    expect(value({ kind: 'choices', options: STAGE.options }, ['open', 'proposed'])).toEqual([
      'proposed',
      'open',
    ]);
    expect(value(STAGE, null)).toBeNull();
  });

  test('what is parsed and sent comes back the same', () => {
    fc.assert(
      fc.property(
        fc.bigInt({ min: -(10n ** 29n), max: 10n ** 29n }),
        fc.integer({ min: 0, max: 8 }),
        (digits, scale) => {
          const text = new Decimal(digits.toString()).div(new Decimal(10).pow(scale)).toFixed(scale);
          const parsed = parseValue(number(scale), text);
          expect(parsed).toMatchObject({ ok: true });
          if (parsed.ok)
            expect(parseValue(number(scale), toWire(number(scale), parsed.value))).toEqual(parsed);
        },
      ),
    );
  });
});

describe('exact numbers', () => {
  test.each([
    ['8', '3', '2.66666666666666666667'],
    ['-8', '3', '-2.66666666666666666667'],
    ['1', '3', '0.33333333333333333333'],
    ['1', '8', '0.125'],
    ['0', '7', '0'],
    ['99999999999999999999999999999999999999999999', '1', '99999999999999999999999999999999999999999999'],
  ])('%s divided by %s has 20 places, halves away from zero', (dividend, divisor, quotient) => {
    expect(divide(new Decimal(dividend), new Decimal(divisor)).toFixed()).toBe(quotient);
  });

  test('a half of the last place is rounded away from zero', () => {
    expect(divide(new Decimal('0.000000000000000000001'), new Decimal(2)).toFixed()).toBe('0');
    expect(divide(new Decimal('0.00000000000000000001'), new Decimal(2)).toFixed()).toBe(
      '0.00000000000000000001',
    );
    expect(divide(new Decimal('-0.00000000000000000001'), new Decimal(2)).toFixed()).toBe(
      '-0.00000000000000000001',
    );
  });

  test.each([
    ['2.5', 'nearest', 0, '3'],
    ['-2.5', 'nearest', 0, '-3'],
    ['2.41', 'up', 1, '2.5'],
    ['-2.41', 'up', 1, '-2.4'],
    ['-2.41', 'down', 1, '-2.5'],
    ['-0.4', 'nearest', 0, '0'],
  ] as const)('%s rounded %s to %i places is %s', (value, mode, places, rounded) => {
    expect(round(new Decimal(value), { mode, places }).toFixed()).toBe(rounded);
  });

  test('sums never round', () => {
    expect(new Decimal('0.1').plus('0.2').toFixed()).toBe('0.3');
    expect(new Decimal('999999999999999999999999999999.99').plus('0.00000000000000000001').toFixed()).toBe(
      '999999999999999999999999999999.99000000000000000001',
    );
  });
});

describe('equality and order', () => {
  test('text is ordered by code point, not by UTF-16 unit', () => {
    expect(compareText('\uffff', '😀')).toBe(-1);
    expect(['é', 'z', '😀', '\uffee', 'Z'].sort(compareText)).toEqual(['Z', 'z', 'é', '\uffee', '😀']);
    expect(compareText('a', 'ab')).toBe(-1);
  });

  test('choices rank by position, whatever their names', () => {
    expect(compareValues(STAGE, 'proposed', 'open')).toBeLessThan(0);
  });

  test('numbers are the same whatever their trailing zeros; amounts only in one currency', () => {
    expect(sameValue(new Decimal('1.50'), new Decimal('1.5'))).toBe(true);
    expect(
      sameValue({ amount: new Decimal(1), currency: 'GBP' }, { amount: new Decimal(1), currency: 'EUR' }),
    ).toBe(false);
    expect(sameValue(null, null)).toBe(true);
    expect(sameValue(['a'], ['a', 'b'])).toBe(false);
  });
});

describe('writing into a field', () => {
  test('unlike currencies, units and kinds have no conversion', () => {
    expect(conversion(GBP, { kind: 'money', currency: 'EUR' })).toBeNull();
    expect(
      conversion({ kind: 'number', scale: 0, unit: 'kg' }, { kind: 'number', scale: 0, unit: 'm³' }),
    ).toBeNull();
    expect(conversion({ kind: 'date' }, number(0))).toBeNull();
    expect(conversion(GBP, GBP)).toBe('rounded');
    expect(conversion({ kind: 'rating', lowest: 1, highest: 6 }, number(0))).toBe('exact');
  });

  test('rounds to the field’s places, first by the rule’s own rounding', () => {
    expect(fitValue(new Decimal('2.667'), { kind: 'rating', lowest: 1, highest: 6 }, null)).toEqual({
      value: new Decimal(3),
    });
    expect(fitValue(new Decimal('2.345'), number(1), { mode: 'up', places: 2 })).toEqual({
      value: new Decimal('2.4'),
    });
  });

  test('tells what is out of range', () => {
    expect(fitValue(new Decimal(7), { kind: 'rating', lowest: 1, highest: 6 }, null)).toEqual({
      error: 'out_of_range',
    });
    expect(fitValue(new Decimal(10).pow(30), number(0), null)).toEqual({ error: 'out_of_range' });
  });
});

test('values are shown as people write them', () => {
  expect(displayValue(GBP, { amount: new Decimal('-1234567.5'), currency: 'GBP' })).toBe('-1,234,567.50 GBP');
  expect(displayValue({ kind: 'number', scale: 1, unit: 'm³' }, new Decimal('2240'))).toBe('2,240.0 m³');
  expect(displayValue({ kind: 'date' }, '2027-03-04')).toBe('4 Mar 2027');
  expect(displayValue({ kind: 'yesNo' }, false)).toBe('no');
  expect(displayValue(STAGE, 'open')).toBe('Open');
  expect(displayValue({ kind: 'person' }, 'p1', () => 'Maren Oduya')).toBe('Maren Oduya');
  expect(displayValue(STAGE, null)).toBe('empty');
});
