import { BLANKS, type FunctionName, MOST_WORKING_DAYS, WEEKDAYS } from '@/core/expression';
import { MONTHS, type ValueType } from '@/core/values';
import type { ValuePlaces } from '@/server/store/sql/sql';
import { wordsSql } from './words-sql';

/** The arguments of a function as SQL, as many as it takes; those that were left out are no text. */
export type ArgumentsSql = readonly [string, string, string, string];

/** What else a function may need: all arguments where it takes a list, what kind the first is, and where values go. */
interface MoreOfCall {
  readonly all: readonly string[];
  readonly type: ValueType;
  readonly binds: ValuePlaces;
}

/** A function in SQL: of its arguments, and of the places that were written as a number. */
type FunctionSql = (values: ArgumentsSql, places: number, more: MoreOfCall) => string;

const unshift = (places: number): string => (places === 0 ? '1' : `0.${'0'.repeat(places - 1)}1`);
const shift = (places: number): string => `1${'0'.repeat(places)}`;

/** A position or length as a whole number that PostgreSQL takes: no text is so long. */
const whole = (sql: string): string => `LEAST(GREATEST(${sql}, -1000000), 1000000)::int`;

const part =
  (of: string): FunctionSql =>
  ([date]) =>
    `extract(${of} from ${date})::numeric`;
/** Whether the clocks of a time zone show a date of the years 1 to 9999 at a moment. */
const isShown = (moment: string, zone: string): string =>
  `(${moment} AT TIME ZONE ${zone})::date BETWEEN DATE '0001-01-01' AND DATE '9999-12-31'`;
const clockPart =
  (of: string): FunctionSql =>
  ([moment, zone]) =>
    `(CASE WHEN ${isShown(moment, zone)} THEN floor(extract(${of} from ${moment} AT TIME ZONE ${zone}))::numeric END)`;
const monthStart = (date: string): string =>
  `make_date(extract(year from ${date})::int, extract(month from ${date})::int, 1)`;

const nameAt = (names: readonly string[], at: string): string =>
  `(ARRAY[${names.map((name) => `'${name}'`).join(', ')}])[(${at})::int]`;

/** A value as the notation writes it, as the core's `string`. */
function notatedSql({ kind }: ValueType, sql: string): string {
  switch (kind) {
    case 'number':
    case 'rating':
      return `trim_scale(${sql})::text`;
    case 'yesNo':
      return `(CASE WHEN ${sql} THEN 'true' WHEN NOT ${sql} THEN 'false' END)`;
    case 'date':
      return `to_char(${sql}, 'YYYY-MM-DD')`;
    case 'dateTime':
      return `replace(to_char(${sql} AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"'), '.000Z', 'Z')`;
    default:
      return sql;
  }
}

/** The core's `squareRoot` of what isn't below 0, to its last digit. */
export const rootSql = (sql: string): string => `round(sqrt(round(abs(${sql}), 60)), 20)`;

/** The same functions as the core's, to the last digit; empty where an argument is, unless the core says otherwise. */
export const FUNCTION_SQL: Readonly<Record<FunctionName, FunctionSql>> = {
  abs: ([x]) => `abs(${x})`,
  exchange: () => {
    throw new RangeError('An exchange is worked out with the rates');
  },
  floor: ([x]) => `floor(${x})`,
  ceiling: ([x]) => `ceil(${x})`,
  'round half up': ([x], places) => `round((${x})::numeric, ${places})`,
  'round up': ([x], places) => `(sign(${x}) * ceil(abs(${x}) * ${shift(places)}) * ${unshift(places)})`,
  'round down': ([x], places) => `trunc((${x})::numeric, ${places})`,
  modulo: ([a, b]) => {
    const left = `mod(${a}, NULLIF(${b}, 0))`;
    return `(CASE WHEN ${left} <> 0 AND (${left} < 0) <> (${b} < 0) THEN ${left} + ${b} ELSE ${left} END)`;
  },
  'round half down': ([x], places) =>
    `(sign(${x}) * ceil(abs(${x}) * ${shift(places)} - 0.5) * ${unshift(places)})`,
  decimal: ([x], places) => {
    const [all, below] = [`(${x} * ${shift(places)})`, `floor(${x} * ${shift(places)})`];
    const left = `(${all} - ${below})`;
    const goesUp = `${left} > 0.5 OR ${left} = 0.5 AND mod(${below}, 2) <> 0`;
    return `((${below} + (CASE WHEN ${goesUp} THEN 1 ELSE 0 END)) * ${unshift(places)})`;
  },
  odd: ([x]) => `(mod(${x}, 2) <> 0)`,
  even: ([x]) => `(mod(${x}, 2) = 0)`,
  // As many places beneath the root as its own can't be told from more, at the twentieth.
  sqrt: ([x]) => `(CASE WHEN ${x} >= 0 THEN ${rootSql(x)} END)`,
  'string length': ([x]) => `char_length(${x})::numeric`,
  substring: ([x, start, length]) => {
    const size = `char_length(${x})`;
    const from = `(CASE WHEN ${start} < 0 THEN ${size} + ${whole(start)} ELSE ${whole(start)} - 1 END)`;
    const to = length ? `${from} + GREATEST(0, ${whole(length)})` : size;
    const given = length ? ` AND ${length} IS NOT NULL` : '';
    return `(CASE WHEN ${start} <> 0${given} THEN NULLIF(substr(${x}, GREATEST(0, ${from}) + 1, GREATEST(0, GREATEST(0, ${to}) - GREATEST(0, ${from}))), '') END)`;
  },
  'substring before': ([x, match]) =>
    `(CASE WHEN strpos(${x}, ${match}) > 1 THEN left(${x}, strpos(${x}, ${match}) - 1) END)`,
  'substring after': ([x, match]) =>
    `(CASE WHEN strpos(${x}, ${match}) > 0 THEN NULLIF(substr(${x}, strpos(${x}, ${match}) + char_length(${match})), '') END)`,
  string: ([x], _, { type }) => notatedSql(type, x),
  words: ([x], _, { type, binds }) => `NULLIF(${wordsSql(type, x, binds)}, '')`,
  // A subquery, so that the collation by which letters are changed isn’t that by which the text is compared.
  'upper case': ([x]) => `(SELECT NULLIF(upper(${x} COLLATE "und-x-icu"), ''))`,
  'lower case': ([x]) => `(SELECT NULLIF(lower(${x} COLLATE "und-x-icu"), ''))`,
  trim: ([x], _, { binds }) => `NULLIF(btrim(${x}, ${binds.add(BLANKS, 'text')}), '')`,
  number: ([x, grouping, point]) => {
    const mark = point || `'.'`;
    const plain = `replace(${grouping ? `replace(${x}, ${grouping}, '')` : x}, ${mark}, '.')`;
    const isMarked = [
      `${mark} IN ('.', ',')`,
      ...(grouping ? [`${grouping} IN (' ', ',', '.')`, `${grouping} <> ${mark}`] : []),
      `(${mark} = '.' OR strpos(${x}, '.') = 0${grouping ? ` OR ${grouping} = '.'` : ''})`,
    ];
    const isRead = `${isMarked.join(' AND ')} AND ${plain} ~ '^[+-]?[0-9]{1,30}([.][0-9]{1,60})?$'`;
    return `round((CASE WHEN ${isRead} THEN ${plain} END)::numeric, 20)`;
  },
  date: ([x]) => {
    const [year, month, day] = [
      `substr(${x}, 1, 4)::int`,
      `substr(${x}, 6, 2)::int`,
      `substr(${x}, 9, 2)::int`,
    ];
    const last = `(make_date(${year}, ${month}, 1) + interval '1 month' - interval '1 day')`;
    const isWritten = `${x} ~ '^[0-9]{4}-(0[1-9]|1[0-2])-[0-9]{2}$' AND left(${x}, 4) <> '0000'`;
    return `(CASE WHEN ${isWritten} THEN CASE WHEN ${day} BETWEEN 1 AND extract(day from ${last}) THEN make_date(${year}, ${month}, ${day}) END END)`;
  },
  'civil date': ([moment, zone]) =>
    `(CASE WHEN ${isShown(moment, zone)} THEN (${moment} AT TIME ZONE ${zone})::date END)`,
  hour: clockPart('hour'),
  minute: clockPart('minute'),
  second: clockPart('second'),
  'ends with': ([x, match]) => `(right(${x}, char_length(${match})) = ${match})`,
  'start of month': ([x]) => monthStart(x),
  'end of month': ([x]) => `(${monthStart(x)} + interval '1 month' - interval '1 day')::date`,
  'start of year': ([x]) => `make_date(extract(year from ${x})::int, 1, 1)`,
  'start of week': ([x]) => `(${x} - (extract(isodow from ${x})::int - 1))`,
  'start of quarter': ([x]) =>
    `make_date(extract(year from ${x})::int, (extract(quarter from ${x})::int - 1) * 3 + 1, 1)`,
  'start of financial year': ([x, month, day]) => {
    const year = `extract(year from ${x})::int`;
    const isDay = `${month} BETWEEN 1 AND 12 AND ${day} BETWEEN 1 AND 28`;
    const isAfter = `(extract(month from ${x}), extract(day from ${x})) >= (${month}, ${day})`;
    const at = (of: string) => `make_date(${of}, (${month})::int, (${day})::int)`;
    return `(CASE WHEN NOT (${isDay}) THEN NULL WHEN ${isAfter} THEN ${at(year)} WHEN ${year} > 1 THEN ${at(`${year} - 1`)} END)`;
  },
  'working days after': ([x, days]) => {
    const weekday = `extract(isodow from ${x})::int`;
    const [at, within] = [
      `(${x} + CASE WHEN ${weekday} <= 5 THEN 0 WHEN ${days} > 0 THEN 5 - ${weekday} ELSE 8 - ${weekday} END)`,
      `(CASE WHEN ${weekday} <= 5 THEN ${weekday} WHEN ${days} > 0 THEN 5 ELSE 1 END - 1)`,
    ];
    const moved = `(${within} + (${days})::int)`;
    const weeks = `floor(${moved} / 5.0)::int`;
    const found = `(${at} - ${within} + ${weeks} * 7 + (${moved} - ${weeks} * 5))`;
    return `(CASE WHEN abs(${days}) > ${MOST_WORKING_DAYS} THEN NULL WHEN ${days} = 0 THEN ${x} WHEN ${found} BETWEEN DATE '0001-01-01' AND DATE '9999-12-31' THEN ${found} END)`;
  },
  'working days until': ([from, to]) => {
    const number = (date: string) => `(${date} - DATE '0001-01-01')`;
    const before = (date: string) => `(${number(date)} / 7 * 5 + LEAST(${number(date)} % 7, 5))`;
    return `(${before(to)} - ${before(from)})::numeric`;
  },
  year: part('year'),
  month: part('month'),
  day: part('day'),
  weekday: part('isodow'),
  'day of week': ([x]) => nameAt(WEEKDAYS, `extract(isodow from ${x})`),
  'month of year': ([x]) => nameAt(MONTHS, `extract(month from ${x})`),
  'day of year': part('doy'),
  'week of year': part('week'),
  'years and months duration': ([from, to]) => {
    const less = (of: string) => `(extract(${of} from ${to}) - extract(${of} from ${from}))`;
    const months = `(${less('year')} * 12 + ${less('month')})`;
    const early = `(CASE WHEN ${months} > 0 AND ${less('day')} < 0 THEN 1 WHEN ${months} < 0 AND ${less('day')} > 0 THEN -1 ELSE 0 END)`;
    return `(${months} - ${early})::numeric`;
  },
  min: (_, __, { all }) => `LEAST(${all.join(', ')})`,
  max: (_, __, { all }) => `GREATEST(${all.join(', ')})`,
  'first present': (_, __, { all }) => `COALESCE(${all.join(', ')})`,
};
