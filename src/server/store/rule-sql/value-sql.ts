import { asNumber, functionEntry, type Typed, type TypedGather } from '@/core/expression';
import { DIVISION_PLACES, firstIn, unreachable } from '@/core/values';
import { FUNCTION_SQL, rootSql } from './function-sql';
import type { ValuePlaces } from '@/server/store/sql/sql';

/** The SQL of a part of an expression. */
export type SqlOf = (node: Typed) => string;

export type Arithmetic = Extract<Typed, { kind: 'arithmetic' }>;

/** The days from 1 January of the year 1 to 31 December 9999, and the months. */
const LAST_DAY = 3_652_058;
const [FIRST_MONTH, LAST_MONTH] = [12, 9999 * 12 + 11];

/** The core's whole-number formula for a quotient (`divide`), term by term; NULL where the divisor is 0. */
export function quotientSql(dividend: string, divisor: string): string {
  const scale = `1${'0'.repeat(DIVISION_PLACES)}`;
  const unscale = `0.${'0'.repeat(DIVISION_PLACES - 1)}1`;
  return `(sign(${dividend}) * sign(${divisor}) * div(2 * abs(${dividend}) * ${scale} + abs(${divisor}), 2 * NULLIF(abs(${divisor}), 0)) * ${unscale})`;
}

/** A group's values in order, of those of a FILTER alone. */
const sortedSql = (value: string, only: string): string =>
  `array_remove(array_agg((${value})::numeric ORDER BY (${value})::numeric)${only}, NULL)`;

/** `percentile` of a group's values; `percent` was checked to be a whole number. */
export function percentileSql(value: string, only: string, percent: number): string {
  const sorted = sortedSql(value, only);
  const place = `(${Number(percent)}::bigint * (cardinality(${sorted}) - 1))`;
  const [under, over] = [
    `(${sorted})[(${place} / 100)::int + 1]`,
    `(${sorted})[((${place} + 99) / 100)::int + 1]`,
  ];
  return `(${under} + (${over} - ${under}) * (${place} % 100) * 0.01)`;
}

/** `median` of the same. */
export function medianSql(value: string, only: string): string {
  const sorted = sortedSql(value, only);
  const middle = (at: string) => `(${sorted})[${at}]`;
  const number = `cardinality(${sorted})`;
  return quotientSql(`(${middle(`(${number} + 1) / 2`)} + ${middle(`${number} / 2 + 1`)})`, '2::numeric');
}

/** `standardDeviation` of the same, term by term; NULL of fewer than two. */
export function deviationSql(value: string, only: string): string {
  const number = `count(${value})${only}`;
  const [sum, squares] = [value, `(${value})::numeric * (${value})::numeric`].map(
    (one) => `sum((${one})::numeric)${only}`,
  ) as [string, string];
  const variance = quotientSql(
    `((${number}) * (${squares}) - (${sum}) * (${sum}))`,
    `((${number})::numeric * (${number} - 1))`,
  );
  return `(CASE WHEN ${number} > 1 THEN ${rootSql(variance)} END)`;
}

export function arithmeticSql(node: Arithmetic, sqlOf: SqlOf): string {
  const [a, b] = [node.left, node.right].map((part) => operandSql(part, sqlOf)) as [string, string];
  switch (node.working) {
    case 'amounts':
      return node.operator === '/' ? quotientSql(a, b) : `(${a} ${node.operator} ${b})`;
    case 'texts':
      return `(${a} || ${b})`;
    case 'daysBetween':
      return `(${a} - ${b})::numeric`;
    case 'days':
      return `(CASE WHEN ${isDay(dayMoved(node.operator, a, b))} THEN ${a} ${node.operator} ${near(b)} END)`;
    case 'months':
      return `(CASE WHEN ${isMonth(monthMoved(node.operator, a, b))} THEN (${a} + make_interval(months => ${node.operator === '-' ? '-' : ''}${near(b)}))::date END)`;
    default:
      return unreachable(node.working);
  }
}

/** A rating goes with plain numbers. */
export const operandSql = (node: Typed, sqlOf: SqlOf): string => {
  const sql = sqlOf(node);
  return asNumber(node.type) ? `(${sql})::numeric` : sql;
};

/** A number of days or months as a whole number that PostgreSQL takes, also where it is worked out ahead: further away there is no date. */
const near = (sql: string): string => `LEAST(GREATEST(${sql}, -4000000), 4000000)::int`;

export const dayMoved = (operator: string, date: string, by: string): string =>
  `((${date} - DATE '0001-01-01') ${operator} ${by})`;
export const monthMoved = (operator: string, date: string, by: string): string =>
  `(extract(year from ${date}) * 12 + extract(month from ${date}) - 1 ${operator} ${by})`;
export const isDay = (sql: string): string => `${sql} BETWEEN 0 AND ${LAST_DAY}`;
export const isMonth = (sql: string): string => `${sql} BETWEEN ${FIRST_MONTH} AND ${LAST_MONTH}`;

export function callSql(node: Extract<Typed, { kind: 'call' }>, sqlOf: SqlOf, binds: ValuePlaces): string {
  const isPlaced = functionEntry(node.name).parameters[1]?.isLiteral === true;
  const written = isPlaced ? node.arguments[1] : undefined;
  const places = written?.kind === 'constant' ? Number(String(written.value)) : 0;
  const given = isPlaced ? node.arguments.slice(0, 1) : node.arguments;
  const all = given.map((part) => operandSql(part, sqlOf));
  const [first = '', second = '', third = '', fourth = ''] = all;
  const { type } = firstIn(node.arguments);
  return FUNCTION_SQL[node.name]([first, second, third, fourth], places, { all, type, binds });
}

/** What is made of the members' values; each is one row. */
export function gatheredSql(
  node: TypedGather,
  value: string | null,
  ranked: (value: string, end: 'min' | 'max') => string,
): string {
  if (node.aggregate === 'count') return `count(${value ?? '*'})::numeric`;
  if (value === null) throw new TypeError(`What ${node.aggregate} brings together is missing`);
  switch (node.aggregate) {
    case 'countDistinct':
      return `count(DISTINCT ${value})::numeric`;
    case 'sum':
      return `COALESCE(sum(${value}), 0)::numeric`;
    case 'average':
      return quotientSql(`sum((${value})::numeric)`, `count(${value})::numeric`);
    case 'median':
      return medianSql(value, '');
    case 'deviation':
      return deviationSql(value, '');
    case 'minimum':
    case 'maximum': {
      const end = node.aggregate === 'minimum' ? 'min' : 'max';
      return node.value?.type.kind === 'choice' ? ranked(value, end) : `${end}(${value})`;
    }
    case 'all':
      return `COALESCE(bool_and(${value}), true)`;
    case 'any':
      return `COALESCE(bool_or(${value}), false)`;
    case 'leading':
      return value;
    default:
      return unreachable(node.aggregate);
  }
}
