import { asNumber, type Typed, type TypedGather } from '@/core/expression';
import { DIVISION_PLACES, unreachable } from '@/core/values';
import { expressionSql, type Reads } from './expression-sql';
import { FUNCTION_SQL } from './function-sql';
import type { ValuePlaces } from './sql';

type Arithmetic = Extract<Typed, { kind: 'arithmetic' }>;

/** The days from 1 January of the year 1 to 31 December 9999, and the months. */
const LAST_DAY = 3_652_058;
const [FIRST_MONTH, LAST_MONTH] = [12, 9999 * 12 + 11];

/** The core's whole-number formula for a quotient (`divide`), term by term; NULL where the divisor is 0. */
export function quotientSql(dividend: string, divisor: string): string {
  const scale = `1${'0'.repeat(DIVISION_PLACES)}`;
  const unscale = `0.${'0'.repeat(DIVISION_PLACES - 1)}1`;
  return `(sign(${dividend}) * sign(${divisor}) * div(2 * abs(${dividend}) * ${scale} + abs(${divisor}), 2 * NULLIF(abs(${divisor}), 0)) * ${unscale})`;
}

export function arithmeticSql(node: Arithmetic, reads: Reads, binds: ValuePlaces): string {
  const [a, b] = [node.left, node.right].map((part) => operandSql(part, reads, binds)) as [string, string];
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
const operandSql = (node: Typed, reads: Reads, binds: ValuePlaces): string => {
  const sql = expressionSql(node, reads, binds);
  return asNumber(node.type) ? `(${sql})::numeric` : sql;
};

/** A number of days or months as a whole number that PostgreSQL takes, also where it is worked out ahead: further away there is no date. */
const near = (sql: string): string => `LEAST(GREATEST(${sql}, -4000000), 4000000)::int`;

const dayMoved = (operator: string, date: string, by: string): string =>
  `((${date} - DATE '0001-01-01') ${operator} ${by})`;
const monthMoved = (operator: string, date: string, by: string): string =>
  `(extract(year from ${date}) * 12 + extract(month from ${date}) - 1 ${operator} ${by})`;
const isDay = (sql: string): string => `${sql} BETWEEN 0 AND ${LAST_DAY}`;
const isMonth = (sql: string): string => `${sql} BETWEEN ${FIRST_MONTH} AND ${LAST_MONTH}`;

export function callSql(node: Extract<Typed, { kind: 'call' }>, reads: Reads, binds: ValuePlaces): string {
  const isPlaced = node.name === 'round half up' || node.name === 'round up' || node.name === 'round down';
  const written = isPlaced ? node.arguments[1] : undefined;
  const places = written?.kind === 'constant' ? Number(String(written.value)) : 0;
  const given = isPlaced ? node.arguments.slice(0, 1) : node.arguments;
  return FUNCTION_SQL[node.name](
    given.map((part) => operandSql(part, reads, binds)),
    places,
  );
}

/** The code of the problem that keeps an expression from being worked out, NULL where there is none; `null` where there can be none. */
export function errorSql(node: Typed, reads: Reads, binds: ValuePlaces): string | null {
  const of = (part: Typed) => errorSql(part, reads, binds);
  switch (node.kind) {
    case 'constant':
      return null;
    case 'field': {
      const error = reads.error(node);
      return error && `(CASE WHEN ${error} THEN 'input_has_problem' END)`;
    }
    case 'compare':
      return firstOf([of(node.left), of(node.right)]);
    case 'presence':
    case 'among':
    case 'negate':
      return of(node.operand);
    case 'match':
      return firstOf([of(node.operand), of(node.part)]);
    case 'selection':
      return of(node.of);
    case 'group':
      return groupErrorSql(node, reads, binds);
    case 'arithmetic':
      return firstOf([of(node.left), of(node.right), ownErrorSql(node, reads, binds)]);
    case 'if': {
      const [then, otherwise] = [of(node.then), of(node.otherwise)];
      const taken =
        then === null && otherwise === null
          ? null
          : `(CASE WHEN ${expressionSql(node.condition, reads, binds)} THEN ${then ?? 'NULL'} ELSE ${otherwise ?? 'NULL'} END)`;
      return firstOf([of(node.condition), taken]);
    }
    case 'call':
      return firstOf(node.arguments.map(of));
    case 'gather':
      return reads.gather(node).error;
    default:
      return unreachable(node);
  }
}

function firstOf(errors: readonly (string | null)[]): string | null {
  const found = errors.filter((error) => error !== null);
  if (found.length < 2) return found[0] ?? null;
  return `COALESCE(${found.join(', ')})`;
}

/** A part that decides the group makes errors of others no matter. */
function groupErrorSql(
  node: Extract<Typed, { kind: 'group' }>,
  reads: Reads,
  binds: ValuePlaces,
): string | null {
  const errors = node.of.map((part) => errorSql(part, reads, binds));
  const first = firstOf(errors);
  if (first === null) return null;
  const deciding = node.operator === 'all' ? 'NOT ' : '';
  const decided = node.of.map((part, at) => {
    const verdict = `${deciding}${expressionSql(part, reads, binds)}`;
    return errors[at] === null ? verdict : `(${verdict} AND ${errors[at]} IS NULL)`;
  });
  return `(CASE WHEN ${decided.join(' OR ')} THEN NULL ELSE ${first} END)`;
}

/** What goes wrong in the operator itself. Values are bound only for what can go wrong: a bound value must be used. */
function ownErrorSql(node: Arithmetic, reads: Reads, binds: ValuePlaces): string | null {
  const operands = () =>
    [node.left, node.right].map((part) => operandSql(part, reads, binds)) as [string, string];
  if (node.working === 'amounts' && node.operator === '/') {
    const [a, b] = operands();
    return `(CASE WHEN ${a} IS NOT NULL AND ${b} = 0 THEN 'division_by_zero' END)`;
  }
  if (node.working === 'days')
    return `(CASE WHEN NOT ${isDay(dayMoved(node.operator, ...operands()))} THEN 'out_of_range' END)`;
  if (node.working === 'months')
    return `(CASE WHEN NOT ${isMonth(monthMoved(node.operator, ...operands()))} THEN 'out_of_range' END)`;
  return null;
}

export interface Gathered {
  readonly value: string;
  readonly error: string | null;
}

/** What is made of the members' values; each is one row. */
export function gatheredSql(
  node: TypedGather,
  value: string | null,
  ranked: (value: string, end: 'min' | 'max') => string,
): string {
  switch (node.aggregate) {
    case 'count':
      return `count(${value ?? '*'})::numeric`;
    case 'countDistinct':
      return `count(DISTINCT ${value!})::numeric`;
    case 'sum':
      return `COALESCE(sum(${value!}), 0)::numeric`;
    case 'average':
      return quotientSql(`sum((${value!})::numeric)`, `count(${value!})::numeric`);
    case 'minimum':
    case 'maximum': {
      const end = node.aggregate === 'minimum' ? 'min' : 'max';
      return node.value?.type.kind === 'choice' ? ranked(value!, end) : `${end}(${value!})`;
    }
    case 'all':
      return `COALESCE(bool_and(${value!}), true)`;
    case 'any':
      return `COALESCE(bool_or(${value!}), false)`;
    default:
      return unreachable(node.aggregate);
  }
}
