import dayjs from 'dayjs';
import timezone from 'dayjs/plugin/timezone.js';
import utc from 'dayjs/plugin/utc.js';
import {
  bad,
  certain,
  good,
  itemAt,
  type Option,
  parseValue,
  type Result,
  type Value,
  type ValueType,
} from '@/core/values';

dayjs.extend(utc);
dayjs.extend(timezone);

/** How a file writes what can be written in several ways. */
export interface TextForms {
  /** What stands before decimal places; the other of the two, blanks and apostrophes may group digits. */
  readonly decimal: '.' | ',';
  /** How dates are written that aren't year-month-day (which is always read). */
  readonly dates: 'dayFirst' | 'monthFirst';
  /** The IANA name of the zone of date-times without an offset. */
  readonly timeZone: string;
  /** What amounts are in that don't say it themselves, where a field takes any currency. */
  readonly currency?: string;
}

/** `Insured value (EUR)`: the currency that a column’s heading names. */
export const currencyOfHeading = (heading: string): string | undefined =>
  /\(([A-Z]{3})\)\s*$/.exec(heading)?.[1];

export const PLAIN_FORMS: TextForms = { decimal: '.', dates: 'dayFirst', timeZone: 'UTC' };

/**
 * Reads a cell of a text file for a field. Blanks at the ends don't count, and nothing is empty. Numbers may be grouped, amounts may
 * have their currency before or after them, dates are year-month-day or in the file's order, options go by name or key,
 * people and links by id. Refuses what doesn't fit, as `parseValue` does; never rounds or guesses.
 */
export function readText(type: ValueType, text: string, forms: TextForms): Result<Value> {
  if (type.kind === 'longText' || type.kind === 'text') return parseValue(type, text.trim());
  const trimmed = text.trim();
  if (trimmed === '') return good(null);
  switch (type.kind) {
    case 'number':
    case 'rating':
      return parseValue(type, plainDigits(trimmed, forms));
    case 'money':
      return readMoney(type, trimmed, forms);
    case 'anyMoney':
      return readAnyMoney(trimmed, forms);
    case 'yesNo':
      return readYesNo(trimmed);
    case 'date':
      return parseValue(type, isoDate(trimmed, forms));
    case 'dateTime':
      return parseValue(type, isoDateTime(trimmed, forms));
    case 'choice': {
      const key = optionNamed(type.options, trimmed);
      return parseValue(type, key ?? trimmed);
    }
    case 'choices': {
      const whole = optionNamed(type.options, trimmed);
      const parts = whole === undefined ? trimmed.split(/[;,|]/).map((part) => part.trim()) : [trimmed];
      const keys = parts.filter((part) => part !== '').map((part) => optionNamed(type.options, part) ?? part);
      return parseValue(type, keys);
    }
    case 'person':
    case 'link':
      return parseValue(type, trimmed.toLowerCase());
    case 'serial':
      return parseValue(type, trimmed);
  }
}

/** `1,250.50` or `1.250,50` → `1250.50`; what isn't written so is left for the refusal to show. */
function plainDigits(text: string, { decimal }: TextForms): string {
  const group = decimal === '.' ? ',' : '.';
  const [whole = '', places, ...more] = text.replace(/^\+/, '').split(decimal);
  if (more.length > 0) return text;
  const grouped = new RegExp(`^-?\\d{1,3}([${group}\\u0020\\u00a0\\u202f'’]\\d{3})+$`);
  const digits = grouped.test(whole) ? whole.replace(/[^\d-]/g, '') : whole;
  return places === undefined
    ? digits
    : `${digits === '' || digits === '-' ? `${digits}0` : digits}.${places}`;
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
  return parseValue(type, { amount: plainDigits(digits, forms), currency: code });
}

/** A currency before or after an amount, if there is one, and the amount as it is written. */
function amountIn(text: string): readonly [code: string | undefined, digits: string] {
  const match = certain(/^(?:([A-Z]{3})\s*)?(.*?)(?:\s*([A-Z]{3}))?$/s.exec(text.replace(SIGNS, '').trim()));
  return [match[1] ?? match[3], itemAt(match, 2).trim()];
}

function readAnyMoney(text: string, forms: TextForms): Result<Value> {
  const [currency = forms.currency, digits] = amountIn(text);
  if (currency) return parseValue({ kind: 'anyMoney' }, { amount: plainDigits(digits, forms), currency });
  return bad(
    'value.kind',
    `Expected an amount with its currency, found “${text}”. Give it as 12.50 EUR, or name the currency in the column’s heading.`,
  );
}

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

/** `14/3/2026`, `14.03.2026`, `3-14-2026` → `2026-03-14`. A year has four digits: of two nobody knows the century. */
function isoDate(text: string, { dates }: TextForms): string {
  const yearFirst = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})$/.exec(text);
  if (yearFirst) return `${yearFirst[1]}-${two(itemAt(yearFirst, 2))}-${two(itemAt(yearFirst, 3))}`;
  const yearLast = /^(\d{1,2})[-/.](\d{1,2})[-/.](\d{4})$/.exec(text);
  if (!yearLast) return text;
  const [day, month] =
    dates === 'dayFirst'
      ? [itemAt(yearLast, 1), itemAt(yearLast, 2)]
      : [itemAt(yearLast, 2), itemAt(yearLast, 1)];
  return `${yearLast[3]}-${two(month)}-${two(day)}`;
}

/** A date and a time, with or without an offset: `14/03/2026 09:30` → the instant in the file's zone. */
function isoDateTime(text: string, forms: TextForms): string {
  const match = /^(\S+?)[T ](\d{1,2}):(\d{2})(?::(\d{2})(\.\d{1,3})?)?\s*(Z|[+-]\d{2}:?\d{2})?$/.exec(text);
  const day = isoDate(match ? itemAt(match, 1) : text, forms);
  if (!match) return /^\d{4}-\d{2}-\d{2}$/.test(day) ? inZone(`${day}T00:00:00`, forms, text) : text;
  const time = `${two(itemAt(match, 2))}:${match[3]}:${match[4] ?? '00'}${match[5] ?? ''}`;
  if (match[6] === undefined) return inZone(`${day}T${time}`, forms, text);
  return `${day}T${time}${match[6] === 'Z' ? 'Z' : match[6].replace(/^(...)(\d)/, '$1:$2')}`;
}

/** The instant of a civil time; a day or a time that doesn't exist stays as it was written, to be refused. */
function inZone(civil: string, { timeZone }: TextForms, written: string): string {
  // A date-time that is right in itself, whatever the zone.
  if (!parseValue({ kind: 'dateTime' }, `${civil}Z`).ok) return written;
  const instant = dayjs.tz(civil, timeZone);
  return instant.isValid() ? instant.toISOString() : written;
}

function optionNamed(options: readonly Option[], text: string): string | undefined {
  const wanted = text.normalize('NFC').toLowerCase();
  return (
    options.find(({ key }) => key === text) ?? options.find(({ name }) => name.toLowerCase() === wanted)
  )?.key;
}
