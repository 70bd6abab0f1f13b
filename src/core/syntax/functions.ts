import {
  certain,
  Decimal,
  displayValue,
  firstIn,
  IN_WORDS,
  type Kind,
  PLAIN_FORM,
  round,
  startOf,
  type Value,
  type ValueType,
  weekdayOf,
  workingDaysAfter,
  workingDaysBetween,
} from '@/core/values';

type Present = Exclude<Value, null>;

/** What a function takes at one place. */
export interface Parameter {
  readonly name: string;
  readonly takes:
    | 'number'
    | 'whole number'
    | 'text'
    | 'date'
    | 'number or money'
    | 'money'
    | 'a number, a date, a text, a choice or a yes/no'
    | 'a value that has words of its own'
    | 'anything';
  readonly isOptional?: true;
  /** As many more of the same as wanted. */
  readonly isRepeated?: true;
  /** Must be written as a number, since it says how many places the result has. */
  readonly isLiteral?: true;
}

/** An example: the FEEL text, and what it comes to. */
export type Example = readonly [text: string, comesTo: string];

interface FunctionEntry {
  readonly parameters: readonly Parameter[];
  readonly help: string;
  readonly examples: readonly Example[];
  /** The kind of what it gives, from the kinds that it was given and the places that were written. */
  readonly gives: (types: readonly ValueType[], places: number) => ValueType;
  /** Works it out for arguments of which none is empty, and their types; `null` is empty. */
  readonly work: (values: readonly Present[], types: readonly ValueType[]) => Value;
  /** It takes empty arguments too, handed over as `null`. */
  readonly workEmpty?: (values: readonly Value[]) => Value;
}

const NUMBER = (scale: number): ValueType => ({ kind: 'number', scale });
const TEXT: ValueType = { kind: 'text' };
const YES_NO: ValueType = { kind: 'yesNo' };
const DATE: ValueType = { kind: 'date' };
const own = (types: readonly ValueType[]): ValueType => firstIn(types);
const number = (value: Present | undefined): Decimal => value as Decimal;
const text = (value: Present | undefined): string => value as string;
const one = (name: string, takes: Parameter['takes']): Parameter => ({ name, takes });
const isMoney = (value: Present): value is Extract<Present, { currency: string }> =>
  typeof value === 'object' && 'currency' in value;

/** Applies something to a plain number, or to the amount of money. */
const onAmount = (value: Present, apply: (amount: Decimal) => Decimal): Value =>
  isMoney(value) ? { ...value, amount: apply(value.amount) } : apply(number(value));

const PLACES: Parameter = { name: 'places', takes: 'whole number', isOptional: true, isLiteral: true };

/** A number of so many places, with the unit that it had; money stays money. */
function placed(types: readonly ValueType[], places: number): ValueType {
  const type = firstIn(types);
  if (type.kind === 'money') return type;
  const unit = type.kind === 'number' ? type.unit : undefined;
  return { kind: 'number', scale: places, ...(unit ? { unit } : {}) };
}

const rounding = (
  help: string,
  examples: readonly Example[],
  how: (amount: Decimal, places: number) => Decimal,
): FunctionEntry => ({
  parameters: [one('number', 'number or money'), PLACES],
  ...{ help, examples, gives: placed },
  work: ([value, places]) =>
    onAmount(certain(value), (amount) => how(amount, places ? number(places).toNumber() : 0)),
});

const nearest = (amount: Decimal, places: number) => round(amount, { mode: 'nearest', places });
const outward = (amount: Decimal, places: number) =>
  round(amount, { mode: amount.isNegative() ? 'down' : 'up', places });
const inward = (amount: Decimal, places: number) =>
  round(amount, { mode: amount.isNegative() ? 'up' : 'down', places });

const part = (
  which: (date: string) => number,
  help: string,
  examples: readonly Example[],
): FunctionEntry => ({
  parameters: [one('date', 'date')],
  ...{ help, examples, gives: () => NUMBER(0) },
  work: ([date]) => new Decimal(which(text(date))),
});

/** More working days than there are between the years 1 and 9999. */
export const MOST_WORKING_DAYS = 4_000_000;

const wholeOf = (value: Present | undefined): number => number(value).toNumber();

/** The last day of a month: the day before the first of the next. */
function endOfMonth(date: string): string {
  const [year, month] = date.split('-').map(Number) as [number, number];
  const last = new Date(0);
  last.setUTCFullYear(year, month, 0);
  return `${date.slice(0, 8)}${String(last.getUTCDate()).padStart(2, '0')}`;
}

const dayFrom = (
  move: (date: string) => Value,
  help: string,
  examples: readonly Example[],
): FunctionEntry => ({
  parameters: [one('date', 'date')],
  ...{ help, examples, gives: () => DATE },
  work: ([date]) => move(text(date)),
});

/** Code points: a letter outside the basic plane is one, as in SQL. */
const letters = (of: string): string[] => Array.from(of);

/** A value as `string` of DMN 1.4 (10.3.4.1) writes it: as many digits as it has, a moment by ISO 8601. */
function notated(value: Present): Value {
  if (typeof value === 'boolean') return value ? 'true' : 'false';
  if (Decimal.isDecimal(value)) return value.toFixed();
  return text(value).replace(/(T\d\d:\d\d:\d\d)\.000Z$/, '$1Z');
}

const amountIn = (value: Present): Decimal => (isMoney(value) ? value.amount : number(value));
const extreme = (values: readonly Value[], sign: 1 | -1): Value =>
  values.reduce<Value>(
    (best, one) =>
      one !== null && (best === null || amountIn(one).comparedTo(amountIn(best)) * sign > 0) ? one : best,
    null,
  );

/**
 * Every function of the notation but those of lists: what it takes, what it gives, its help and examples. Named as in the FEEL of
 * DMN 1.4 where it has them. The editor, the checker, the evaluator and SQL are held to it.
 */
export const FUNCTIONS = {
  abs: {
    parameters: [one('number', 'number or money')],
    help: 'The number without its sign.',
    examples: [['abs(-2.5)', '2.5']],
    gives: own,
    work: (values) => onAmount(firstIn(values), (amount) => amount.abs()),
  },
  floor: {
    parameters: [one('number', 'number or money')],
    help: 'The largest whole number that isn’t above it.',
    examples: [
      ['floor(2.7)', '2'],
      ['floor(-2.1)', '-3'],
    ],
    gives: (types) => placed(types, 0),
    work: (values) => onAmount(firstIn(values), (amount) => round(amount, { mode: 'down', places: 0 })),
  },
  ceiling: {
    parameters: [one('number', 'number or money')],
    help: 'The smallest whole number that isn’t below it.',
    examples: [
      ['ceiling(2.1)', '3'],
      ['ceiling(-2.7)', '-2'],
    ],
    gives: (types) => placed(types, 0),
    work: (values) => onAmount(firstIn(values), (amount) => round(amount, { mode: 'up', places: 0 })),
  },
  'round half up': rounding(
    'Rounds to so many places, halves away from zero.',
    [
      ['round half up(2.5)', '3'],
      ['round half up(-1.255, 2)', '-1.26'],
    ],
    nearest,
  ),
  'round up': rounding(
    'Rounds to so many places, away from zero.',
    [['round up(-1.121, 2)', '-1.13']],
    outward,
  ),
  'round down': rounding(
    'Rounds to so many places, towards zero.',
    [['round down(-1.129, 2)', '-1.12']],
    inward,
  ),
  modulo: {
    parameters: [one('dividend', 'number'), one('divisor', 'number')],
    help: 'What is left of a division; it has the sign of the divisor. Empty where the divisor is 0.',
    examples: [
      ['modulo(12, 5)', '2'],
      ['modulo(-12, 5)', '3'],
      ['modulo(12, -5)', '-3'],
    ],
    gives: (types) => NUMBER(Math.max(...types.map((type) => (type.kind === 'number' ? type.scale : 0)))),
    work: ([dividend, divisor]) => {
      const [a, b] = [number(dividend), number(divisor)];
      if (b.isZero()) return null;
      const left = a.minus(b.times(a.divToInt(b)));
      const signed = !left.isZero() && left.isNegative() !== b.isNegative() ? left.plus(b) : left;
      return signed.isZero() ? signed.abs() : signed;
    },
  },
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
  'start of month': dayFrom((date) => startOf(date, 'monthStart'), 'The first day of a date’s month.', [
    ['start of month(date("2026-02-14"))', 'date("2026-02-01")'],
  ]),
  'end of month': dayFrom(endOfMonth, 'The last day of a date’s month.', [
    ['end of month(date("2028-02-14"))', 'date("2028-02-29")'],
  ]),
  'start of year': dayFrom((date) => startOf(date, 'yearStart'), 'The first day of a date’s year.', [
    ['start of year(date("2026-02-14"))', 'date("2026-01-01")'],
  ]),
  'start of week': dayFrom((date) => startOf(date, 'weekStart'), 'The Monday of a date’s week.', [
    ['start of week(date("2026-02-14"))', 'date("2026-02-09")'],
  ]),
  'start of quarter': dayFrom((date) => startOf(date, 'quarterStart'), 'The first day of a date’s quarter.', [
    ['start of quarter(date("2026-02-14"))', 'date("2026-01-01")'],
  ]),
  'start of financial year': {
    parameters: [one('date', 'date'), one('month', 'whole number'), one('day', 'whole number')],
    help: 'The first day of a date’s financial year, which begins on a day (1 to 28) of a month; empty for any other day.',
    examples: [
      ['start of financial year(date("2026-02-14"), 4, 6)', 'date("2025-04-06")'],
      ['start of financial year(date("2026-04-06"), 4, 6)', 'date("2026-04-06")'],
    ],
    gives: () => DATE,
    work: ([date, month, day]) =>
      startOf(text(date), 'financialYearStart', { month: wholeOf(month), day: wholeOf(day) }),
  },
  'working days after': {
    parameters: [one('date', 'date'), one('days', 'whole number')],
    help: 'The date so many working days (Monday to Friday) later, or earlier where the number is below 0.',
    examples: [
      ['working days after(date("2026-02-13"), 1)', 'date("2026-02-16")'],
      ['working days after(date("2026-02-14"), -1)', 'date("2026-02-13")'],
      ['working days after(date("2026-02-11"), 10)', 'date("2026-02-25")'],
    ],
    gives: () => DATE,
    work: ([date, days]) =>
      number(days).abs().greaterThan(MOST_WORKING_DAYS) ? null : workingDaysAfter(text(date), wholeOf(days)),
  },
  'working days until': {
    parameters: [one('from', 'date'), one('to', 'date')],
    help: 'How many working days (Monday to Friday) there are from a date on and before another; below 0 where that is earlier.',
    examples: [
      ['working days until(date("2026-02-13"), date("2026-02-16"))', '1'],
      ['working days until(date("2026-02-16"), date("2026-02-09"))', '-5'],
    ],
    gives: () => NUMBER(0),
    work: ([from, to]) => new Decimal(workingDaysBetween(text(from), text(to))),
  },
  year: part((date) => Number(date.slice(0, 4)), 'The year of a date. `opens.year` says the same.', [
    ['year(date("2026-02-14"))', '2026'],
  ]),
  month: part(
    (date) => Number(date.slice(5, 7)),
    'The month of a date, 1 to 12. `opens.month` says the same.',
    [['month(date("2026-02-14"))', '2']],
  ),
  day: part((date) => Number(date.slice(8, 10)), 'The day of a date’s month. `opens.day` says the same.', [
    ['day(date("2026-02-14"))', '14'],
  ]),
  weekday: part(
    weekdayOf,
    'The day of the week, 1 for Monday to 7 for Sunday. `opens.weekday` says the same.',
    [['weekday(date("2026-02-14"))', '6']],
  ),
  exchange: {
    parameters: [one('amount', 'money'), one('currency', 'text'), one('day', 'date')],
    help: 'An amount in another currency, such as exchange(insuredValue, "GBP", today()): by the workspace’s rate of that day, or the last one of the 7 days before it. Without one it has a problem, which clears itself once there is.',
    examples: [],
    gives: own,
    work: () => {
      throw new RangeError('An exchange needs rates');
    },
  },
  min: {
    parameters: [{ name: 'value', takes: 'number or money', isRepeated: true }],
    help: 'The smallest of these; empty ones are left out.',
    examples: [['min(3, 1, 2)', '1']],
    gives: own,
    work: firstIn,
    workEmpty: (values) => extreme(values, -1),
  },
  max: {
    parameters: [{ name: 'value', takes: 'number or money', isRepeated: true }],
    help: 'The largest of these; empty ones are left out.',
    examples: [['max(3, 1, 2)', '3']],
    gives: own,
    work: firstIn,
    workEmpty: (values) => extreme(values, 1),
  },
  'first present': {
    parameters: [{ name: 'value', takes: 'anything', isRepeated: true }],
    help: 'The first of these that isn’t empty.',
    examples: [['first present(null, 3, 4)', '3']],
    gives: own,
    work: firstIn,
    workEmpty: (values) => values.find((value) => value !== null) ?? null,
  },
} satisfies Record<string, FunctionEntry>;

export type FunctionName = keyof typeof FUNCTIONS;

/** Works with the workspace's rates: typed and worked out in `exchange.ts`. */
export const EXCHANGE: FunctionName = 'exchange';

/** A number that is written with its unit: read as a constant. */
export const AMOUNT = 'amount';

export const isFunction = (name: string): name is FunctionName => Object.hasOwn(FUNCTIONS, name);
export const functionEntry = (name: FunctionName): FunctionEntry => FUNCTIONS[name];

/** Functions of lists, by which the records beneath are gathered. */
export const LIST_FUNCTIONS = {
  count: { aggregate: 'count', help: 'How many there are.', example: 'count(loans[stage = "agreed"])' },
  sum: { aggregate: 'sum', help: 'Their sum; 0 where there are none.', example: 'sum(loans.insuredValue)' },
  mean: {
    aggregate: 'average',
    help: 'Their average; empty where there are none.',
    example: 'mean(loans.fee)',
  },
  min: {
    aggregate: 'minimum',
    help: 'The smallest of them; empty where there are none.',
    example: 'min(loans.dueBack)',
  },
  max: {
    aggregate: 'maximum',
    help: 'The largest of them; empty where there are none.',
    example: 'max(loans.dueBack)',
  },
  all: {
    aggregate: 'all',
    help: 'Whether all of them are yes; yes where there are none.',
    example: 'all(crates.sealed)',
  },
  any: {
    aggregate: 'any',
    help: 'Whether any of them is yes; no where there are none.',
    example: 'any(crates.sealed)',
  },
  'count distinct': {
    aggregate: 'countDistinct',
    help: 'How many different values there are.',
    example: 'count distinct(loans.lender)',
  },
} as const;

export type ListFunction = keyof typeof LIST_FUNCTIONS;
export const isListFunction = (name: string): name is ListFunction => Object.hasOwn(LIST_FUNCTIONS, name);

export const KINDS_TAKEN: Readonly<Record<Parameter['takes'], readonly Kind[] | null>> = {
  number: ['number', 'rating'],
  'whole number': ['number', 'rating'],
  text: ['text', 'longText'],
  date: ['date'],
  'number or money': ['number', 'rating', 'money'],
  money: ['money', 'anyMoney'],
  'a number, a date, a text, a choice or a yes/no': [
    ...(['number', 'rating', 'date', 'dateTime', 'text', 'longText', 'choice', 'yesNo'] as const),
  ],
  // An amount of any currency has as many places as its own, which SQL doesn't know.
  'a value that has words of its own': IN_WORDS.filter((kind) => kind !== 'anyMoney'),
  anything: null,
};
