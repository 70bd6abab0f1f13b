import type { FunctionName } from '@/core/expression';

/** A function in SQL: of its arguments, and of the places that were written as a number. */
type FunctionSql = (values: readonly string[], places: number) => string;

const unshift = (places: number): string => (places === 0 ? '1' : `0.${'0'.repeat(places - 1)}1`);
const shift = (places: number): string => `1${'0'.repeat(places)}`;

/** A position or length as a whole number that PostgreSQL takes: no text is so long. */
const whole = (sql: string): string => `LEAST(GREATEST(${sql}, -1000000), 1000000)::int`;

const part =
  (of: string): FunctionSql =>
  ([date]) =>
    `extract(${of} from ${date!})::numeric`;
const monthStart = (date: string): string =>
  `make_date(extract(year from ${date})::int, extract(month from ${date})::int, 1)`;

/** The same functions as the core's, to the last digit; empty where an argument is, unless the core says otherwise. */
export const FUNCTION_SQL: Readonly<Record<FunctionName, FunctionSql>> = {
  abs: ([x]) => `abs(${x!})`,
  exchange: () => {
    throw new RangeError('An exchange is worked out with the rates');
  },
  floor: ([x]) => `floor(${x!})`,
  ceiling: ([x]) => `ceil(${x!})`,
  'round half up': ([x], places) => `round((${x!})::numeric, ${places})`,
  'round up': ([x], places) => `(sign(${x!}) * ceil(abs(${x!}) * ${shift(places)}) * ${unshift(places)})`,
  'round down': ([x], places) => `trunc((${x!})::numeric, ${places})`,
  modulo: ([a, b]) => {
    const left = `mod(${a!}, NULLIF(${b!}, 0))`;
    return `(CASE WHEN ${left} <> 0 AND (${left} < 0) <> (${b!} < 0) THEN ${left} + ${b!} ELSE ${left} END)`;
  },
  'string length': ([x]) => `char_length(${x!})::numeric`,
  substring: ([x, start, length]) => {
    const size = `char_length(${x!})`;
    const from = `(CASE WHEN ${start!} < 0 THEN ${size} + ${whole(start!)} ELSE ${whole(start!)} - 1 END)`;
    const to = length ? `${from} + GREATEST(0, ${whole(length)})` : size;
    const given = length ? ` AND ${length} IS NOT NULL` : '';
    return `(CASE WHEN ${start!} <> 0${given} THEN NULLIF(substr(${x!}, GREATEST(0, ${from}) + 1, GREATEST(0, GREATEST(0, ${to}) - GREATEST(0, ${from}))), '') END)`;
  },
  'substring before': ([x, match]) =>
    `(CASE WHEN strpos(${x!}, ${match!}) > 1 THEN left(${x!}, strpos(${x!}, ${match!}) - 1) END)`,
  'substring after': ([x, match]) =>
    `(CASE WHEN strpos(${x!}, ${match!}) > 0 THEN NULLIF(substr(${x!}, strpos(${x!}, ${match!}) + char_length(${match!})), '') END)`,
  'ends with': ([x, match]) => `(right(${x!}, char_length(${match!})) = ${match!})`,
  'start of month': ([x]) => monthStart(x!),
  'end of month': ([x]) => `(${monthStart(x!)} + interval '1 month' - interval '1 day')::date`,
  'start of year': ([x]) => `make_date(extract(year from ${x!})::int, 1, 1)`,
  year: part('year'),
  month: part('month'),
  day: part('day'),
  weekday: part('isodow'),
  min: (values) => `LEAST(${values.join(', ')})`,
  max: (values) => `GREATEST(${values.join(', ')})`,
  'first present': (values) => `COALESCE(${values.join(', ')})`,
};
