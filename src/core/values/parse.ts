import { itemAt } from '@/core/basics/certain';
import { currencyPlaces, isCurrency } from './currencies';
import { Decimal, isInRange, WHOLE_DIGITS } from './decimal';
import { displaySerial, type SerialType } from './display';
import { bad, good, type Result, unreachable } from './problem';
import { isUnread } from './unread';
import type { Option, Value, ValueType } from './value';

/** Most UTF-16 units that a text and a long text may have. */
export const TEXT_LENGTH = 500;
export const LONG_TEXT_LENGTH = 20_000;

const DECIMAL = /^-?\d{1,60}(\.\d{1,60})?$/;
const DATE = /^(\d{4})-(\d{2})-(\d{2})$/;
const DATE_TIME =
  /^(\d{4}-\d{2}-\d{2})T([01]\d|2[0-3]):([0-5]\d)(:([0-5]\d)(\.\d{1,3})?)?(Z|[+-]([01]\d|2[0-3]):[0-5]\d)$/;
/** Whether a text is an id as Oikon writes them. */
export const isUuid = (text: string): boolean => UUID.test(text);

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/;

const found = (value: unknown): string => {
  const text = typeof value === 'string' ? `“${value}”` : (JSON.stringify(value) ?? String(value));
  return text.length > 80 ? `${text.slice(0, 79)}…` : text;
};

const expected = (what: string, value: unknown, advice: string): Result<never> =>
  bad('value.kind', `Expected ${what}, found ${found(value)}. ${advice}`, { expected: what });

/**
 * Reads a value as it came in (JSON) for a field of the given type. `null` and, for texts, `''` mean empty.
 * Refuses what doesn't fit with a problem that says what was expected; never rounds, cuts or guesses.
 */
export function parseValue(type: ValueType, input: unknown): Result<Value> {
  if (input === null) return good(null);
  if (isUnread(input)) return bad('value.kind', input.why);
  switch (type.kind) {
    case 'text':
      return parseText(input, TEXT_LENGTH);
    case 'longText':
      return parseText(input, LONG_TEXT_LENGTH);
    case 'number':
      return parseDecimal(input, type.scale);
    case 'money':
      return parseMoney(input, type.currency);
    case 'anyMoney':
      return parseAnyMoney(input);
    case 'rating':
      return parseRating(input, type.lowest, type.highest);
    case 'yesNo':
      return typeof input === 'boolean'
        ? good(input)
        : expected('yes (true) or no (false)', input, 'Send true, false or null.');
    case 'date':
      return parseDate(input);
    case 'dateTime':
      return parseDateTime(input);
    case 'choice':
      return parseChoice(input, type.options);
    case 'choices':
      return parseChoices(input, type.options);
    case 'person':
      return parseId(input, 'the id of a person');
    case 'link':
      return parseId(input, 'the id of a record');
    case 'serial':
      return parseSerial(input, type);
    default:
      return unreachable(type);
  }
}

/**
 * A text as far as it fits into so many UTF-16 units, the measure of texts everywhere; a character that takes two of them is kept whole or
 * left out.
 */
export function cutText(text: string, most: number): string {
  const cut = text.slice(0, most);
  return cut.isWellFormed() ? cut : cut.slice(0, -1);
}

function parseText(input: unknown, length: number): Result<Value> {
  if (typeof input !== 'string') return expected('text', input, 'Send a string.');
  if (input.includes('\u0000'))
    return bad('value.character', 'The text holds a NUL character, which can’t be kept. Remove it.');
  if (!input.isWellFormed())
    return bad('value.character', 'The text holds half of a surrogate pair. Send well-formed Unicode.');
  const text = input.normalize('NFC');
  if (text.length > length) {
    return bad('value.length', `The text has ${text.length} characters; at most ${length} fit. Shorten it.`, {
      length,
    });
  }
  return good(text === '' ? null : text);
}

function parseDecimal(input: unknown, scale: number): Result<Value> {
  const what = scale === 0 ? 'a whole number' : `a number with at most ${scale} decimal places`;
  if (typeof input !== 'string' || !DECIMAL.test(input)) {
    return expected(what, input, 'Send digits as a string, such as "1250" or "-0.5".');
  }
  const value = new Decimal(input);
  if (value.decimalPlaces() > scale)
    return expected(what, input, 'Round it first; Oikon doesn’t round what people enter.');
  if (!isInRange(value)) {
    return bad(
      'value.range',
      `The number has more than ${WHOLE_DIGITS} digits before the decimal point. Enter a smaller one.`,
    );
  }
  return good(value.isZero() ? value.abs() : value);
}

function parseMoney(input: unknown, currency: string): Result<Value> {
  const isObject = typeof input === 'object' && input !== null;
  const amount = isObject ? (input as { amount?: unknown }).amount : input;
  const code = isObject ? (input as { currency?: unknown }).currency : currency;
  if (code !== currency)
    return expected(`an amount in ${currency}`, code, `Send {"amount": "…", "currency": "${currency}"}.`);
  const parsed = parseDecimal(amount, currencyPlaces(currency));
  return parsed.ok ? good({ amount: parsed.value as Decimal, currency }) : parsed;
}

function parseAnyMoney(input: unknown): Result<Value> {
  const { amount, currency } = (typeof input === 'object' ? input : {}) as Record<string, unknown>;
  if (typeof currency !== 'string' || !isCurrency(currency))
    return expected(
      'an amount with its currency, by its ISO 4217 code',
      input,
      'Send {"amount": "12.50", "currency": "EUR"}.',
    );
  return parseMoney({ amount, currency }, currency);
}

function parseRating(input: unknown, lowest: number, highest: number): Result<Value> {
  const isWhole =
    (typeof input === 'number' && Number.isInteger(input)) ||
    (typeof input === 'string' && /^-?\d{1,4}$/.test(input));
  if (!isWhole || Number(input) < lowest || Number(input) > highest) {
    return expected(`a whole rating from ${lowest} to ${highest}`, input, 'Choose one of them.');
  }
  return good(new Decimal(Number(input)));
}

/** Whether a text is a day that there is, of the years 1 to 9999, as year-month-day (ISO 8601). */
export const isCivilDate = (text: string): boolean => {
  const match = DATE.exec(text);
  if (!match) return false;
  const [year, month, day] = [Number(match[1]), Number(match[2]), Number(match[3])];
  const isLeap = (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
  const days = [31, isLeap ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
  return year >= 1 && month >= 1 && month <= 12 && day >= 1 && day <= (days[month - 1] ?? 0);
};

function parseDate(input: unknown): Result<Value> {
  if (typeof input !== 'string' || !isCivilDate(input)) {
    return expected(
      'a date that exists, in the years 1 to 9999',
      input,
      'Send it as year-month-day, such as "2026-03-14".',
    );
  }
  return good(input);
}

function parseDateTime(input: unknown): Result<Value> {
  const match = typeof input === 'string' ? DATE_TIME.exec(input) : null;
  const instant = match && isCivilDate(itemAt(match, 1)) ? new Date(match[0]) : null;
  const year = instant?.getUTCFullYear() ?? 0;
  if (!instant || Number.isNaN(instant.getTime()) || year < 1 || year > 9999) {
    return expected(
      'a date-time that exists, with its offset',
      input,
      'Send it as "2026-03-14T09:30:00Z" or with "+01:00".',
    );
  }
  return good(instant.toISOString());
}

type Options = readonly Option[];

const listed = (options: Options): string =>
  options.map((option) => `${option.name} (${option.key})`).join(', ');

function parseChoice(input: unknown, options: Options): Result<Value> {
  if (typeof input === 'string' && options.some((option) => option.key === input)) return good(input);
  return bad(
    'value.option',
    `Expected one of ${listed(options)}, found ${found(input)}. Choose one of them.`,
  );
}

function parseChoices(input: unknown, options: Options): Result<Value> {
  if (!Array.isArray(input))
    return expected('a list of options', input, `Send an array of ${listed(options)}.`);
  const unknown = input.find((key) => !options.some((option) => option.key === key));
  if (unknown !== undefined)
    return bad('value.option', `Expected some of ${listed(options)}, found ${found(unknown)}. Leave it out.`);
  const keys = options.map((option) => option.key).filter((key) => input.includes(key));
  return good(keys.length === 0 ? null : keys);
}

/** With its prefix as it is shown, or the number alone. */
function parseSerial(input: unknown, type: SerialType): Result<Value> {
  const text = typeof input === 'string' ? input.trim() : '';
  const digits = text.startsWith(type.prefix) ? text.slice(type.prefix.length) : text;
  if (/^\d{1,15}$/.test(digits) && Number(digits) > 0) return good(new Decimal(digits));
  return expected(
    `a serial number such as ${displaySerial(type, new Decimal(1))}`,
    input,
    'Send it as it is shown, or the number alone.',
  );
}

function parseId(input: unknown, what: string): Result<Value> {
  if (typeof input === 'string' && UUID.test(input)) return good(input);
  return expected(what, input, 'Send its id (a UUID in lower case).');
}
