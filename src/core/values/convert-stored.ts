import { certain, itemAt, firstIn } from '@/core/basics/certain';
import { isMoney, sameValue } from './compare';
import { currencyPlaces } from './currencies';
import { placesOf } from './convert';
import { Decimal, isInRange, round } from './decimal';
import { displayValue } from './display';
import { PLAIN_FORM } from './form';
import { parseValue } from './parse';
import type { Kind, Option, Value, ValueType } from './value';

/** Which option takes the place of one that is gone; `null` leaves the field empty. */
export type Replaced = Readonly<Record<string, string | null>>;

/** What becomes of a stored value when its field becomes another: as it was, altered on the way, or lost. */
export interface Converted {
  readonly value: Value;
  readonly fate: 'same' | 'altered' | 'lost';
}

const TEXTS: readonly Kind[] = ['text', 'longText'];

/**
 * Kinds that a field with values may become, besides staying what it is. What isn't listed would lose every value: make a new
 * field instead.
 *
 * | from               | into                                                            |
 * | ------------------ | --------------------------------------------------------------- |
 * | text, long text    | each other; number, money, money in any currency, rating, yes/no, date, date-time, choice, several choices: those that read as one |
 * | number             | text, long text, money, rating                                  |
 * | money              | text, long text, number, money in any currency                  |
 * | money in any currency | text, long text; money: amounts in its currency              |
 * | rating             | text, long text, number                                         |
 * | yes/no, date, date-time | text, long text                                            |
 * | choice             | text, long text, several choices                                |
 * | several choices    | text, long text, choice: where one is chosen                    |
 * | serial number      | text, long text                                                 |
 */
const INTO: Record<Kind, readonly Kind[]> = {
  text: [
    'longText',
    'number',
    'money',
    'anyMoney',
    'rating',
    'yesNo',
    'date',
    'dateTime',
    'choice',
    'choices',
  ],
  longText: [
    'text',
    'number',
    'money',
    'anyMoney',
    'rating',
    'yesNo',
    'date',
    'dateTime',
    'choice',
    'choices',
  ],
  number: [...TEXTS, 'money', 'rating'],
  money: [...TEXTS, 'number', 'anyMoney'],
  anyMoney: [...TEXTS, 'money'],
  rating: [...TEXTS, 'number'],
  yesNo: TEXTS,
  date: TEXTS,
  dateTime: TEXTS,
  choice: [...TEXTS, 'choices'],
  choices: [...TEXTS, 'choice'],
  person: [],
  link: [],
  serial: TEXTS,
};

/** Kinds that a field with values may become, itself first. */
export const kindsInto = (kind: Kind): readonly Kind[] => [kind, ...INTO[kind]];

const lost: Converted = { value: null, fate: 'lost' };

/**
 * A stored value as its field's next type holds it. Numbers are rounded to fewer places (halves away from zero), texts are read
 * as people would enter them; a value that doesn't fit is lost. Never throws on data.
 */
export function convertStored(
  value: Value,
  from: ValueType,
  into: ValueType,
  replaced: Replaced = {},
): Converted {
  if (value === null) return { value: null, fate: 'same' };
  if (!kindsInto(from.kind).includes(into.kind)) return lost;
  const next = converted(value, from, into, replaced);
  if (next === null) return lost;
  return { value: next, fate: isAltered(value, next, from, into) ? 'altered' : 'same' };
}

function converted(value: Exclude<Value, null>, from: ValueType, into: ValueType, replaced: Replaced): Value {
  switch (into.kind) {
    case 'text':
    case 'longText':
      return read(into, TEXTS.includes(from.kind) ? value : plainText(from, value));
    case 'number':
    case 'rating':
    case 'money':
      return amountInto(value, from, into);
    case 'anyMoney':
      return withCurrency(value);
    case 'choice': {
      const keys = chosen(from, value, into.options, replaced);
      return keys.length === 1 ? firstIn(keys) : null;
    }
    case 'choices': {
      const keys = new Set(chosen(from, value, into.options, replaced));
      return keys.size > 0 ? into.options.map(({ key }) => key).filter((key) => keys.has(key)) : null;
    }
    case 'yesNo':
      return typeof value === 'string' ? (YES_NO[value.trim().toLowerCase()] ?? null) : value;
    case 'date':
    case 'dateTime':
      return read(into, typeof value === 'string' ? value.trim() : value);
    case 'person':
    case 'link':
    case 'serial':
      return value;
  }
}

const YES_NO: Readonly<Record<string, boolean>> = { yes: true, true: true, no: false, false: false };

function read(type: ValueType, input: unknown): Value {
  const parsed = parseValue(type, input);
  return parsed.ok ? parsed.value : null;
}

/** As a text that could be entered again: digits without grouping, dates as ISO 8601 has them, options by name. */
function plainText(type: ValueType, value: Exclude<Value, null>): string {
  if (type.kind === 'serial') return displayValue(type, value);
  if (Decimal.isDecimal(value)) return value.toFixed(placesOf(type) ?? 0);
  if (isMoney(value)) return `${value.amount.toFixed(currencyPlaces(value.currency))} ${value.currency}`;
  return type.kind === 'date' || type.kind === 'dateTime'
    ? (value as string)
    : displayValue(type, value, (id) => id, PLAIN_FORM);
}

type Amount = Extract<ValueType, { kind: 'number' | 'rating' | 'money' }>;

/** `1,250.50`, `-3`, `1250.50 GBP`: digits, perhaps grouped, perhaps with a currency after them. */
const WRITTEN = /^(-?\d{1,3}(?:,\d{3})+(?:\.\d+)?|-?\d+(?:\.\d+)?)(?: ?([A-Z]{3}))?$/;

function amountInto(value: Exclude<Value, null>, from: ValueType, into: Amount): Value {
  let amount: Decimal;
  let currency: string | undefined;
  if (Decimal.isDecimal(value)) amount = value;
  else if (isMoney(value)) {
    amount = value.amount;
    currency = value.currency;
  } else {
    const written = TEXTS.includes(from.kind) ? WRITTEN.exec((value as string).trim()) : null;
    if (!written || itemAt(written, 1).length > 80) return null;
    amount = new Decimal(itemAt(written, 1).replaceAll(',', ''));
    currency = written[2];
  }
  if (currency !== undefined && into.kind === 'money' && currency !== into.currency) return null;
  if (currency !== undefined && into.kind !== 'money' && from.kind !== 'money') return null;
  const rounded = round(amount, { mode: 'nearest', places: certain(placesOf(into)) });
  if (!isInRange(rounded)) return null;
  if (into.kind === 'rating' && (rounded.lessThan(into.lowest) || rounded.greaterThan(into.highest)))
    return null;
  return into.kind === 'money' ? { amount: rounded, currency: into.currency } : rounded;
}

/** An amount that has its currency, or is written with it. */
function withCurrency(value: Exclude<Value, null>): Value {
  if (isMoney(value)) return value;
  const written = typeof value === 'string' ? WRITTEN.exec(value.trim()) : null;
  if (!written?.[2] || itemAt(written, 1).length > 80) return null;
  return read({ kind: 'anyMoney' }, { amount: itemAt(written, 1).replaceAll(',', ''), currency: written[2] });
}

/** The options, by key, that a value comes to: by key where it was chosen, by name where it was written. */
function chosen(
  from: ValueType,
  value: Exclude<Value, null>,
  options: readonly Option[],
  replaced: Replaced,
): string[] {
  const known = new Set(options.map(({ key }) => key));
  if (from.kind === 'choice' || from.kind === 'choices') {
    return [value as string | readonly string[]].flat().flatMap((key) => {
      const next = known.has(key) ? key : (replaced[key] ?? null);
      return next !== null && known.has(next) ? [next] : [];
    });
  }
  const named = new Map(options.flatMap(({ key, name }) => [[name.toLowerCase(), key] as const]));
  const whole = named.get((value as string).trim().toLowerCase());
  if (whole !== undefined) return [whole];
  const parts = (value as string).split(/[,;]/).map((part) => named.get(part.trim().toLowerCase()));
  return parts.every((key) => key !== undefined) ? parts : [];
}

/** Whether something was rounded, replaced or dropped on the way. Another way of writing the same isn't. */
function isAltered(before: Exclude<Value, null>, after: Value, from: ValueType, into: ValueType): boolean {
  const amountOf = (value: Value) =>
    Decimal.isDecimal(value) ? value : isMoney(value) ? value.amount : null;
  const [was, is] = [amountOf(before), amountOf(after)];
  if (was && is) return !was.equals(is);
  if (from.kind === into.kind) return !sameValue(before, after);
  const isChosen = (type: ValueType) => type.kind === 'choice' || type.kind === 'choices';
  return isChosen(from) && isChosen(into) && String([before].flat()) !== String([after].flat());
}

/** Whether stored values have to be gone through: another kind, fewer places, narrower limits, options that go. */
export function isConverted(from: ValueType, into: ValueType): boolean {
  if (from.kind !== into.kind) return true;
  switch (into.kind) {
    case 'number':
      return into.scale !== (from as typeof into).scale;
    case 'money':
      return into.currency !== (from as typeof into).currency;
    case 'rating':
      return into.lowest > (from as typeof into).lowest || into.highest < (from as typeof into).highest;
    case 'choice':
    case 'choices': {
      const left = new Set(into.options.map(({ key }) => key));
      return (from as typeof into).options.some(({ key }) => !left.has(key));
    }
    default:
      return false;
  }
}
