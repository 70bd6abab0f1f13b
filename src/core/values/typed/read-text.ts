import { certain, itemAt } from '@/core/basics/certain';
import dayjs from 'dayjs';
import timezone from 'dayjs/plugin/timezone.js';
import utc from 'dayjs/plugin/utc.js';
import { currencyPlaces } from '@/core/values/currencies';
import { shiftDay } from '@/core/values/time/day';
import { Decimal } from '@/core/values/decimal';
import { type Form, PLAIN_FORM, SHORT_MONTHS, writeDate, writeDigits } from '@/core/values/form';
import { parseValue } from '@/core/values/parse';
import { bad, good, type Result } from '@/core/values/problem';
import type { Option, Value, ValueType } from '@/core/values/value';

dayjs.extend(utc);
dayjs.extend(timezone);

/** How a text writes what can be written in several ways. */
export interface TextForms {
  /** What stands before decimal places. Blanks and apostrophes may group digits, and `grouping`. */
  readonly decimal: Form['decimal'];
  /** What stands between thousands; the other of point and comma where it isn't said. */
  readonly grouping?: Form['grouping'];
  /** How dates are written that aren't year-month-day (which is always read). */
  readonly dates: Form['dates'];
  /** The IANA name of the zone of date-times without an offset. */
  readonly timeZone: string;
  /** What amounts are in that don't say it themselves, where a field takes any currency. */
  readonly currency?: string;
  /**
   * The day on which a person types it, by which “tomorrow”, a year that was left out, and one of two digits are told. Left out for files: what they
   * say mustn't hang on when they are read.
   */
  readonly today?: string;
}

/** How a file writes: what it says doesn't hang on when it is read. */
export type FileForms = Omit<TextForms, 'grouping' | 'today'>;

/** `Insured value (EUR)`: the currency that a column’s heading names. */
export const currencyOfHeading = (heading: string): string | undefined =>
  /\(([A-Z]{3})\)\s*$/.exec(heading)?.[1];

export const PLAIN_FORMS: FileForms = { decimal: '.', dates: 'dayFirst', timeZone: 'UTC' };

/** What a person types, by their form; date-times are of the zone that they are shown in. */
export const typedForms = (form: Form, today: string): TextForms => ({ ...form, today, timeZone: 'UTC' });

/**
 * Reads what stands in a file or was typed, for a field. Blanks at the ends don't count, and nothing is empty. Numbers may be grouped, by threes; amounts
 * may have their currency before or after them, numbers their unit; dates are year-month-day, in the form's order, or with the month's name;
 * options go by name or key, people and links by id. Refuses what doesn't fit in words for whoever wrote it; never rounds or guesses.
 */
export function readText(type: ValueType, text: string, forms: TextForms): Result<Value> {
  if (type.kind === 'longText' || type.kind === 'text') return parseValue(type, text.trim());
  const trimmed = text.trim();
  // A person may type what stands where nothing does.
  if (trimmed === '' || (forms.today !== undefined && trimmed.toLowerCase() === 'empty')) return good(null);
  switch (type.kind) {
    case 'number':
      return readNumber(type, withoutUnit(trimmed, type.unit), { text, forms });
    case 'rating':
      return readRating(type, trimmed, { text, forms });
    case 'money':
      return readMoney(type, trimmed, forms);
    case 'anyMoney':
      return readAnyMoney(trimmed, forms);
    case 'yesNo':
      return readYesNo(trimmed);
    case 'date':
      return readDay(trimmed, forms);
    case 'dateTime':
      return readMoment(trimmed, forms);
    case 'choice': {
      const key = optionNamed(type.options, trimmed);
      return key === undefined ? notAnOption(type.options, trimmed) : good(key);
    }
    case 'choices': {
      const whole = optionNamed(type.options, trimmed);
      const parts = whole === undefined ? trimmed.split(/[;,|]/).map((part) => part.trim()) : [trimmed];
      const named = parts.filter((part) => part !== '');
      const unknown = named.find((part) => optionNamed(type.options, part) === undefined);
      if (unknown !== undefined) return notAnOption(type.options, unknown);
      return parseValue(
        type,
        named.map((part) => optionNamed(type.options, part)),
      );
    }
    case 'person':
    case 'link':
      return parseValue(type, trimmed.toLowerCase());
    case 'serial':
      return parseValue(type, trimmed);
  }
}

/** A text as it stands, shortened where it is long. */
const found = (text: string): string => `“${text.length > 80 ? `${text.slice(0, 79)}…` : text}”`;

interface Written {
  /** As it stands. */
  readonly text: string;
  readonly forms: TextForms;
}

/** `1,250.50` or `1.250,50` → `1250.50`; nothing where it isn't written so. */
function plainDigits(text: string, { decimal, grouping }: TextForms): string | null {
  const group = grouping ?? (decimal === '.' ? ',' : '.');
  const [whole = '', places, ...more] = text
    .replace(/^\+/, '')
    .replace(/^\u2212/, '-')
    .split(decimal);
  if (more.length > 0 || (places !== undefined && !/^\d+$/.test(places))) return null;
  const grouped = new RegExp(`^-?\\d{1,3}([${group}\\u0020\\u00a0\\u202f'’])\\d{3}(\\1\\d{3})*$`);
  const digits = grouped.test(whole) ? whole.replace(/[^\d-]/g, '') : whole;
  if (places === undefined) return /^-?\d+$/.test(digits) ? digits : null;
  return /^-?\d*$/.test(digits)
    ? `${digits === '' || digits === '-' ? `${digits}0` : digits}.${places}`
    : null;
}

const withoutUnit = (text: string, unit: string | undefined): string =>
  unit !== undefined && unit !== '' && text.toLowerCase().endsWith(unit.toLowerCase())
    ? text.slice(0, -unit.length).trim()
    : text;

const shownForm = ({ decimal, grouping, dates }: TextForms): Form => ({
  ...{ decimal, dates },
  grouping: grouping ?? (decimal === '.' ? ',' : '.'),
});

function readNumber(
  type: Extract<ValueType, { kind: 'number' }>,
  digits: string,
  written: Written,
): Result<Value> {
  const plain = plainDigits(digits, written.forms);
  if (plain !== null && !/^-?\d{1,60}(\.\d{1,60})?$/.test(plain))
    return bad('value.range', 'The number has more than 60 digits. Enter a smaller one.');
  return plain === null || new Decimal(plain).decimalPlaces() > type.scale
    ? notANumber(plain, type.scale, written)
    : parseValue(type, plain);
}

/** Refuses what isn't a number by the form, or has more places than fit. */
function notANumber(plain: string | null, scale: number, { text, forms }: Written): Result<never> {
  const form = shownForm(forms);
  const example = writeDigits(scale === 0 ? '1250' : `1250.${'5'.padEnd(Math.min(scale, 2), '0')}`, form);
  const what = scale === 0 ? 'a whole number' : `a number with at most ${scale} decimal places`;
  return bad(
    'value.kind',
    `Expected ${what}, such as ${example}, found ${found(text.trim())}. ${adviceFor(plain, { text, forms })}`,
    { expected: what },
  );
}

function adviceFor(plain: string | null, { text, forms }: Written): string {
  if (plain !== null) return 'Round it first; Oikon doesn’t round what people enter.';
  const { decimal } = forms;
  const other = decimal === '.' ? ',' : '.';
  const otherwise = plainDigits(text.trim(), { ...forms, decimal: other, grouping: decimal });
  if (otherwise === null) return 'Write it in digits.';
  const mark = decimal === '.' ? 'a point' : 'a comma';
  return `Decimal places come after ${mark} here: write ${writeDigits(otherwise, shownForm(forms))}.`;
}

function readRating(
  type: Extract<ValueType, { kind: 'rating' }>,
  trimmed: string,
  { text, forms }: Written,
): Result<Value> {
  const read = parseValue(type, plainDigits(trimmed, forms) ?? trimmed);
  if (read.ok) return read;
  const what = `a whole rating from ${type.lowest} to ${type.highest}`;
  return bad('value.kind', `Expected ${what}, found ${found(text.trim())}. Choose one of them.`, {
    expected: what,
  });
}

/** Signs of currencies that stand for one code only where the field says which. */
const SIGNS = /[£$€¥]/;

function readMoney(
  type: Extract<ValueType, { kind: 'money' }>,
  text: string,
  forms: TextForms,
): Result<Value> {
  const [code = type.currency, digits] = amountIn(text);
  if (code !== type.currency) {
    const message = `Expected an amount in ${type.currency}, found “${text}”. Give it in ${type.currency}.`;
    return bad('value.kind', message);
  }
  return amountOf(digits, code, { text, forms });
}

function amountOf(digits: string, currency: string, written: Written): Result<Value> {
  const type = { kind: 'number', scale: currencyPlaces(currency) } as const;
  const read = readNumber(type, digits, written);
  return read.ok
    ? parseValue({ kind: 'anyMoney' }, { amount: plainDigits(digits, written.forms), currency })
    : read;
}

/** A currency before or after an amount, if there is one, and the amount as it is written. */
function amountIn(text: string): readonly [code: string | undefined, digits: string] {
  const match = certain(/^(?:([A-Z]{3})\s*)?(.*?)(?:\s*([A-Z]{3}))?$/s.exec(text.replace(SIGNS, '').trim()));
  return [match[1] ?? match[3], itemAt(match, 2).trim()];
}

function readAnyMoney(text: string, forms: TextForms): Result<Value> {
  const [currency = forms.currency, digits] = amountIn(text);
  if (currency) {
    const isKnown = parseValue({ kind: 'anyMoney' }, { amount: '0', currency });
    return isKnown.ok ? amountOf(digits, currency, { text, forms }) : notAnAmount(text);
  }
  return notAnAmount(text);
}

const notAnAmount = (text: string): Result<never> =>
  bad(
    'value.kind',
    `Expected an amount with its currency, found “${text}”. Give it as 12.50 EUR, or name the currency in the column’s heading.`,
  );

const YES_NO: ReadonlyMap<string, boolean> = new Map([
  ...['yes', 'y', 'true', '1', 'x'].map((word) => [word, true] as const),
  ...['no', 'n', 'false', '0'].map((word) => [word, false] as const),
]);

function readYesNo(text: string): Result<Value> {
  const value = YES_NO.get(text.toLowerCase());
  if (value !== undefined) return good(value);
  return bad(
    'value.kind',
    `Expected yes or no, found “${text.slice(0, 80)}”. Write yes, no, true, false, 1 or 0.`,
  );
}

const two = (digits: string): string => digits.padStart(2, '0');

/** Words of people for days. */
const DAYS_BY_WORD: ReadonlyMap<string, number> = new Map([
  ['yesterday', -1],
  ['today', 0],
  ['tomorrow', 1],
]);

const MONTH_NAMES = [
  ...['january', 'february', 'march', 'april', 'may', 'june'],
  ...['july', 'august', 'september', 'october', 'november', 'december'],
];

/** `sep`, `Sept.`, `September` → 9. */
function monthNamed(word: string): number | null {
  const wanted = word.toLowerCase().replace(/\.$/, '');
  if (wanted.length < 3) return null;
  const at = MONTH_NAMES.findIndex((name) => name.startsWith(wanted));
  return at === -1 ? (wanted === 'sept' ? 9 : null) : at + 1;
}

interface DayParts {
  readonly year: string | undefined;
  readonly month: number;
  readonly day: number;
}

/** What a text says of year, month and day. */
function partsOfDay(text: string, { dates }: TextForms): DayParts | null {
  const yearFirst = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})$/.exec(text);
  if (yearFirst) return { year: yearFirst[1], month: Number(yearFirst[2]), day: Number(yearFirst[3]) };
  const numbers = /^(\d{1,2})[-/.](\d{1,2})(?:[-/.](\d{4}|\d{2})?)?$/.exec(text);
  if (numbers) {
    const [first, second] = [Number(numbers[1]), Number(numbers[2])];
    const [day, month] = dates === 'dayFirst' ? [first, second] : [second, first];
    return { year: numbers[3], month, day };
  }
  const named =
    /^(?<day>\d{1,2})\.?[ -]?(?<month>\p{L}{3,9}\.?)(?:[ ,-]+(?<year>\d{4}|\d{2}))?$/u.exec(text) ??
    /^(?<month>\p{L}{3,9}\.?) (?<day>\d{1,2})(?:,? (?<year>\d{4}|\d{2}))?$/u.exec(text);
  const month = named ? monthNamed(certain(named.groups?.month)) : null;
  return month === null ? null : { year: named?.groups?.year, month, day: Number(named?.groups?.day) };
}

/** A year of two digits: the one nearest to today. */
function wholeYear(year: string | undefined, today: string | undefined): string | null {
  if (year?.length === 4) return year;
  if (today === undefined) return null;
  const now = Number(today.slice(0, 4));
  if (year === undefined) return today.slice(0, 4);
  const near = Number(year) + Math.floor(now / 100) * 100;
  return String(near - now > 50 ? near - 100 : now - near > 50 ? near + 100 : near).padStart(4, '0');
}

const daysIn = (year: number, month: number): number => {
  const last = new Date(0);
  last.setUTCFullYear(year, month, 0);
  return last.getUTCDate();
};

/** `14/3/2026`, `14.03.2026`, `14 Mar 2026`; for what is typed also `14 mar`, `14.3.26` and `tomorrow`. */
function readDay(text: string, forms: TextForms): Result<string> {
  const away = forms.today === undefined ? undefined : DAYS_BY_WORD.get(text.toLowerCase());
  if (away !== undefined)
    return parseValue({ kind: 'date' }, shiftDay(certain(forms.today), away)) as Result<string>;
  const parts = partsOfDay(text, forms);
  const year = parts && wholeYear(parts.year, forms.today);
  if (!parts || year === null) return notADay(text, forms);
  const { month, day } = parts;
  if (month < 1 || month > 12) {
    const order = forms.dates === 'dayFirst' ? 'day first' : 'month first';
    const message = `There is no month ${month}: found ${found(text)}, and dates are written ${order} here. Write it as ${exampleDay(forms)}.`;
    return bad('value.kind', message, { expected: A_DATE });
  }
  const days = daysIn(Number(year), month);
  if (year === '0000' || day < 1 || day > days) {
    const name = `${SHORT_MONTHS[month - 1]} ${year}`;
    const why = year === '0000' ? 'years are 1 to 9999' : `${name} has ${days} days`;
    return bad('value.kind', `There is no such day: found ${found(text)}, and ${why}. Enter another.`, {
      expected: A_DATE,
    });
  }
  return good(`${year}-${two(String(month))}-${two(String(day))}`);
}

const A_DATE = 'a date that exists, in the years 1 to 9999';

function exampleDay({ dates, today }: TextForms): string {
  const form = { ...PLAIN_FORM, dates };
  return [
    writeDate('2026-03-14', form),
    ...(today === undefined ? [] : [dates === 'dayFirst' ? '14.3.2026' : '3/14/2026']),
  ].join(', ');
}

function notADay(text: string, forms: TextForms): Result<never> {
  const message = `Expected a date, such as ${exampleDay(forms)} or 2026-03-14, found ${found(text)}. Write it so.`;
  return bad('value.kind', message, { expected: A_DATE });
}

/** A date and a time, with or without an offset: `14/03/2026 09:30` → the instant in the form's zone. */
function readMoment(text: string, forms: TextForms): Result<Value> {
  const match =
    /^(.+?)(?:T|,? +)(\d{1,2}):(\d{2})(?::(\d{2})(\.\d{1,3})?)?\s*(Z|UTC|[+-]\d{2}:?\d{2})?$/.exec(text);
  const day = readDay(match ? itemAt(match, 1).trim() : text, forms);
  if (!day.ok) {
    const isOfDay = match !== null || day.problem.message.startsWith('There is no');
    return isOfDay ? day : notAMoment(text, forms);
  }
  if (!match) return inZone(`${day.value}T00:00:00`, text, forms);
  const time = `${two(itemAt(match, 2))}:${match[3]}:${match[4] ?? '00'}${match[5] ?? ''}`;
  if (match[6] === undefined) return inZone(`${day.value}T${time}`, text, forms);
  const offset = match[6] === 'Z' || match[6] === 'UTC' ? 'Z' : match[6].replace(/^(...)(\d)/, '$1:$2');
  const read = parseValue({ kind: 'dateTime' }, `${day.value}T${time}${offset}`);
  return read.ok ? read : notAMoment(text, forms);
}

function notAMoment(text: string, { dates }: TextForms): Result<never> {
  const what = 'a day and a time';
  const example = `${writeDate('2026-03-14', { ...PLAIN_FORM, dates })} 09:30`;
  return bad('value.kind', `Expected ${what}, such as ${example}, found ${found(text)}. Write it so.`, {
    expected: what,
  });
}

/** The instant of a civil time. Refuses one that doesn't exist. */
function inZone(civil: string, text: string, forms: TextForms): Result<Value> {
  // A date-time that is right in itself, whatever the zone.
  if (!parseValue({ kind: 'dateTime' }, `${civil}Z`).ok) return notAMoment(text, forms);
  const instant = dayjs.tz(civil, forms.timeZone);
  return instant.isValid()
    ? parseValue({ kind: 'dateTime' }, instant.toISOString())
    : notAMoment(text, forms);
}

function optionNamed(options: readonly Option[], text: string): string | undefined {
  const wanted = text.normalize('NFC').toLowerCase();
  return (
    options.find(({ key }) => key === text) ?? options.find(({ name }) => name.toLowerCase() === wanted)
  )?.key;
}

const notAnOption = (options: readonly Option[], text: string): Result<never> =>
  bad(
    'value.option',
    `Expected one of ${options.map(({ name }) => name).join(', ')}; found ${found(text)}. Choose one of them.`,
  );
