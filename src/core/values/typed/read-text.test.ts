import fc from 'fast-check';
import { displayValue } from '@/core/values/display';
import {
  DATE_ORDERS,
  type Form,
  formKey,
  formOfKey,
  formWords,
  NUMBER_FORMS,
  PLAIN_FORM,
  sameForm,
  writeBy,
} from '@/core/values/form';
import { convertStored } from '@/core/values/convert-stored';
import { Decimal } from '@/core/values/decimal';
import { parseValue } from '@/core/values/parse';
import { readText, typedForms } from './read-text';
import { toWire } from '@/core/values/wire';
import type { ValueType } from '@/core/values/value';

const COMMA: Form = { decimal: ',', grouping: '.', dates: 'dayFirst' };
const BLANK: Form = { decimal: ',', grouping: ' ', dates: 'dayFirst' };
const MONTH: Form = { decimal: '.', grouping: ',', dates: 'monthFirst' };
const TODAY = '2026-09-15';
const TWO: ValueType = { kind: 'number', scale: 2 };
const GBP: ValueType = { kind: 'money', currency: 'GBP' };
const ALL: readonly Form[] = NUMBER_FORMS.flatMap((numbers) =>
  DATE_ORDERS.map((dates) => ({ ...numbers, dates })),
);

const typed = (type: ValueType, text: string, form: Form = PLAIN_FORM): unknown => {
  const read = readText(type, text, typedForms(form, TODAY));
  return read.ok ? toWire(type, read.value) : read.problem.message;
};

afterEach(() => writeBy(() => PLAIN_FORM));

test.each([
  ['42.5', PLAIN_FORM, '42.50'],
  ['42,5', COMMA, '42.50'],
  ['42,5', BLANK, '42.50'],
  ['1.250', COMMA, '1250.00'],
  ['1,250', PLAIN_FORM, '1250.00'],
  ['1 250,5', BLANK, '1250.50'],
  ['1 250,5', COMMA, '1250.50'],
  ['−3,5', COMMA, '-3.50'],
  [',5', COMMA, '0.50'],
])('“%s” is read by the form of whoever types it', (text, form, wire) => {
  expect(typed(TWO, text, form)).toBe(wire);
});

test.each([
  [
    '42,5',
    PLAIN_FORM,
    /such as 1,250\.50, found “42,5”\. Decimal places come after a point here: write 42\.5\./,
  ],
  ['42.5', COMMA, /such as 1\.250,50, found “42\.5”\. Decimal places come after a comma here: write 42,5\./],
  ['1.250', BLANK, /found “1\.250”/],
  ['12,50,000', PLAIN_FORM, /found “12,50,000”/],
  ['1,250 000', PLAIN_FORM, /found “1,250 000”/],
  ['1,2500', PLAIN_FORM, /found “1,2500”/],
  ['1.255', PLAIN_FORM, /at most 2 decimal places.*Oikon doesn’t round what people enter/],
  ['a lot', PLAIN_FORM, /found “a lot”\. Write it in digits\./],
  ['9'.repeat(61), PLAIN_FORM, /more than 60 digits/],
])('“%s” is refused in words, never read as something else', (text, form, words) => {
  expect(typed(TWO, text, form)).toMatch(words);
});

test('a unit or a currency may stand beside a number, if it is the field’s own', () => {
  expect(typed({ kind: 'number', scale: 3, unit: 'kg' }, '1,5 kg', COMMA)).toBe('1.500');
  expect(typed({ kind: 'number', scale: 3, unit: 'kg' }, '1.5 m')).toMatch(/found “1\.5 m”/);
  expect(typed(GBP, '£1.250,5', COMMA)).toEqual({ amount: '1250.50', currency: 'GBP' });
  expect(typed(GBP, '12 EUR')).toMatch(/in GBP/);
  expect(typed({ kind: 'anyMoney' }, '12,5 EUR', COMMA)).toEqual({ amount: '12.50', currency: 'EUR' });
});

test.each([
  ['15.09.2026', PLAIN_FORM, '2026-09-15'],
  ['15/9/26', PLAIN_FORM, '2026-09-15'],
  ['9/15/26', MONTH, '2026-09-15'],
  ['17 sep', PLAIN_FORM, '2026-09-17'],
  ['Sept 17, 2027', PLAIN_FORM, '2027-09-17'],
  ['17. September 2027', PLAIN_FORM, '2027-09-17'],
  ['3.10.', PLAIN_FORM, '2026-10-03'],
  ['tomorrow', PLAIN_FORM, '2026-09-16'],
  ['Yesterday', PLAIN_FORM, '2026-09-14'],
  ['1/1/77', PLAIN_FORM, '1977-01-01'],
  ['1/1/76', PLAIN_FORM, '2076-01-01'],
  ['2026-9-5', MONTH, '2026-09-05'],
  ['29.2.2028', PLAIN_FORM, '2028-02-29'],
])('“%s” is a day', (text, form, day) => {
  expect(typed({ kind: 'date' }, text, form)).toBe(day);
});

test.each([
  ['31.02.', PLAIN_FORM, /no such day: found “31\.02\.”, and Feb 2026 has 28 days/],
  ['15/9/26', MONTH, /no month 15: found “15\/9\/26”, and dates are written month first here/],
  ['soon', PLAIN_FORM, /Expected a date, such as 14 Mar 2026, 14\.3\.2026 or 2026-03-14, found “soon”/],
  ['17 xyz', PLAIN_FORM, /found “17 xyz”/],
])('“%s” is no day, and it is said why', (text, form, words) => {
  expect(typed({ kind: 'date' }, text, form)).toMatch(words);
});

test('a day and a time are typed as they are shown', () => {
  expect(typed({ kind: 'dateTime' }, '14 Mar 2026 09:30')).toBe('2026-03-14T09:30:00.000Z');
  expect(typed({ kind: 'dateTime' }, '14 Mar 2026 09:30 UTC')).toBe('2026-03-14T09:30:00.000Z');
  expect(typed({ kind: 'dateTime' }, 'tomorrow 9:30')).toBe('2026-09-16T09:30:00.000Z');
  expect(typed({ kind: 'dateTime' }, '31.2.2026 9:30')).toMatch(/Feb 2026 has 28 days/);
  expect(typed({ kind: 'dateTime' }, 'noon')).toMatch(/Expected a day and a time/);
});

test('whatever the form, what is shown is read back as it was', () => {
  const amounts = fc.bigInt(-(10n ** 14n), 10n ** 14n).map((whole) => new Decimal(whole.toString()).div(100));
  const days = fc
    .date({ min: new Date('1000-01-01'), max: new Date('9999-12-31'), noInvalidDate: true })
    .map((day) => day.toISOString().slice(0, 10));
  fc.assert(
    fc.property(fc.constantFrom(...ALL), amounts, days, (form, amount, day) => {
      expect(typed(TWO, displayValue(TWO, amount, undefined, form), form)).toBe(amount.toFixed(2));
      expect(typed({ kind: 'date' }, displayValue({ kind: 'date' }, day, undefined, form), form)).toBe(day);
      expect(formOfKey(formKey(form))).toEqual(form);
    }),
  );
  expect([formOfKey(',,dayFirst'), formOfKey('')]).toEqual([null, null]);
});

test('the form in use is how values are shown, and nothing that is stored hangs on it', () => {
  const value = new Decimal('1250.5');
  expect(displayValue(TWO, value)).toBe('1,250.50');
  writeBy(() => COMMA);
  expect([displayValue(TWO, value), displayValue({ kind: 'date' }, '2026-03-14')]).toEqual([
    '1.250,50',
    '14 Mar 2026',
  ]);
  expect(formWords(MONTH)).toBe('1,250.50 and Dec 31, 2026');
  expect(convertStored(value, TWO, { kind: 'text' })).toMatchObject({ value: '1250.50' });
  expect(sameForm(COMMA, { ...COMMA })).toBe(true);
});

test('what can’t be read is refused with its own words wherever values are read', () => {
  const read = parseValue(TWO, { typed: '42,5', why: 'Decimal places come after a point here: write 42.5.' });
  expect(read).toMatchObject({
    ok: false,
    problem: { message: expect.stringContaining('write 42.5') as string },
  });
});
