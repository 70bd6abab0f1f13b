import { Decimal, displayValue, firstIn, PLAIN_FORM, round, type Value } from '@/core/values';
import {
  type FunctionEntry,
  NUMBER,
  number,
  one,
  type Parameter,
  type Present,
  TEXT,
  text,
  YES_NO,
} from './function-entry';

/** Code points: a letter outside the basic plane is one, as in SQL. */
const letters = (of: string): string[] => Array.from(of);

/** A value as `string` of DMN 1.5 (10.3.4.1) writes it: as many digits as it has, a moment by ISO 8601. */
function notated(value: Present): Value {
  if (typeof value === 'boolean') return value ? 'true' : 'false';
  if (Decimal.isDecimal(value)) return value.toFixed();
  return text(value).replace(/(T\d\d:\d\d:\d\d)\.000Z$/, '$1Z');
}

/** Characters that are blank: what is trimmed. */
export const BLANKS = `\t\n\v\f\r ${[0xa0, 0x1680, 0x2028, 0x2029, 0x202f, 0x205f, 0x3000, 0xfeff]
  .concat(Array.from({ length: 11 }, (_, at) => 0x2000 + at))
  .map((code) => String.fromCodePoint(code))
  .join('')}`;

/** Marks that digits may be grouped by, and their point. */
const GROUPED: readonly string[] = [' ', ',', '.'];
const POINTS: readonly string[] = ['.', ','];
/** Places that a number has which is read from a text; as a quotient. */
const READ_PLACES = 20;

/** A number as a text writes it; empty for any other text, and for marks that are none. */
function numberIn(value: string, grouping: string | null, point: string): Value {
  if (!POINTS.includes(point) || grouping === point || (grouping !== null && !GROUPED.includes(grouping)))
    return null;
  const plain = (grouping === null ? value : value.replaceAll(grouping, '')).replace(point, '.');
  // A comma that stands for the point leaves no other.
  const isRead =
    /^[+-]?\d{1,30}(\.\d{1,60})?$/.test(plain) && (point === '.' || !value.includes('.') || grouping === '.');
  return isRead ? round(new Decimal(plain), { mode: 'nearest', places: READ_PLACES }) : null;
}

const optional = (name: string, takes: Parameter['takes']): Parameter => ({ name, takes, isOptional: true });
const changed = (
  help: string,
  examples: FunctionEntry['examples'],
  change: (value: string) => string,
): FunctionEntry => ({
  parameters: [one('text', 'text')],
  ...{ help, examples, gives: () => TEXT },
  work: ([value]) => change(text(value)) || null,
});

/** Functions of texts, and of values as texts. */
export const TEXT_FUNCTIONS = {
  'string length': {
    parameters: [one('text', 'text')],
    help: 'How many characters a text has.',
    examples: [['string length("crate")', '5']],
    gives: () => NUMBER(0),
    work: ([value]) => new Decimal(letters(text(value)).length),
  },
  substring: {
    parameters: [
      one('text', 'text'),
      one('start', 'whole number'),
      { name: 'length', takes: 'whole number', isOptional: true },
    ],
    help: 'Part of a text from a position, the first being 1; -1 is the last.',
    examples: [
      ['substring("crate", 3)', '"ate"'],
      ['substring("crate", 2, 3)', '"rat"'],
      ['substring("crate", -2)', '"te"'],
    ],
    gives: () => TEXT,
    work: ([value, start, length]) => {
      const all = letters(text(value));
      const from = number(start).isNegative()
        ? all.length + number(start).toNumber()
        : number(start).toNumber() - 1;
      const to = length ? from + Math.max(0, number(length).toNumber()) : all.length;
      const found = all.slice(Math.max(0, from), Math.max(0, to)).join('');
      return number(start).isZero() || found === '' ? null : found;
    },
  },
  'substring before': {
    parameters: [one('text', 'text'), one('match', 'text')],
    help: 'What stands before the first match; empty where there is none.',
    examples: [['substring before("A-12", "-")', '"A"']],
    gives: () => TEXT,
    work: ([value, match]) => {
      const at = text(value).indexOf(text(match));
      return at <= 0 ? null : text(value).slice(0, at);
    },
  },
  'substring after': {
    parameters: [one('text', 'text'), one('match', 'text')],
    help: 'What stands after the first match; empty where there is none.',
    examples: [['substring after("A-12", "-")', '"12"']],
    gives: () => TEXT,
    work: ([value, match]) => {
      const at = text(value).indexOf(text(match));
      return at < 0 ? null : text(value).slice(at + text(match).length) || null;
    },
  },
  string: {
    parameters: [one('value', 'a number, a date, a text, a choice or a yes/no')],
    help: 'A value as text, as the notation writes it: digits without grouping or unit, dates as 2026-02-14, options by their key.',
    examples: [
      ['string(12.50)', '"12.5"'],
      ['string(date("2026-02-14"))', '"2026-02-14"'],
    ],
    gives: () => TEXT,
    work: (values) => notated(firstIn(values)),
  },
  words: {
    parameters: [one('value', 'a value that has words of its own')],
    help: 'A value as text, as people read it: numbers grouped and with their unit, dates with the name of the month, options by their name.',
    examples: [
      ['words(date("2026-02-14"))', '"14 Feb 2026"'],
      ['words(1250.5)', '"1,250.5"'],
    ],
    gives: () => TEXT,
    work: (values, types) => displayValue(firstIn(types), firstIn(values), (id) => id, PLAIN_FORM) || null,
  },
  'ends with': {
    parameters: [one('text', 'text'), one('match', 'text')],
    help: 'Whether a text ends with another.',
    examples: [['ends with("crate", "ate")', 'true']],
    gives: () => YES_NO,
    work: ([value, match]) => text(value).endsWith(text(match)),
  },
  'upper case': changed('A text in capitals.', [['upper case("Crate 2")', '"CRATE 2"']], (value) =>
    value.toUpperCase(),
  ),
  'lower case': changed('A text in small letters.', [['lower case("Crate 2")', '"crate 2"']], (value) =>
    value.toLowerCase(),
  ),
  trim: changed('A text without blanks at its ends.', [['trim("  a crate ")', '"a crate"']], (value) =>
    value.trim(),
  ),
  number: {
    parameters: [one('text', 'text'), optional('grouping', 'text'), optional('point', 'text')],
    help: 'A text read as a number, to 20 places. Digits may be grouped by one of blank, comma and point, and the point may be a comma, where that is said; empty where it is no such number.',
    examples: [
      ['number("12.5")', '12.5'],
      ['number("1.234,50", ".", ",")', '1234.5'],
    ],
    gives: () => NUMBER(READ_PLACES),
    work: ([value, grouping, point]) =>
      numberIn(
        text(value),
        grouping === undefined ? null : text(grouping),
        point === undefined ? '.' : text(point),
      ),
  },
} satisfies Record<string, FunctionEntry>;
