import { fieldsRead } from '@/core/expression';
import { type CompiledRollUp, isAccumulated, isKeptByDifference } from '@/core/rules';
import { Decimal, DIVISION_PLACES, placesOf, type Rounding, unreachable, WHOLE_DIGITS } from '@/core/values';
import { expressionSql } from './expression-sql';
import { RouteJoins } from './route-joins';
import { bindType, columnOf, keptColumns, type Schema, tableOf, type ValuePlaces } from './sql';
import { fieldColumnType, toColumn } from './values';

export interface RollUpQuery {
  readonly schema: Schema;
  /** Rules over the same link: one pass over the children serves them all. */
  readonly rules: readonly CompiledRollUp[];
  readonly binds: ValuePlaces;
  /** SQL of a uuid[] of targets, or a query of their ids; left out for all records of the target's type. */
  readonly targets?: string;
  /** Fields that other rules keep: they may be in error. */
  readonly isKept: (type: string, field: string) => boolean;
  /** Names of earlier queries of the same statement that give a field another value: `exhibition.artefactCount` → `r1`. */
  readonly instead?: ReadonlyMap<string, string>;
  /** Also reads what is kept beside the targets: `was_count`, `was_sum`, `was_errors` of each rule that has it. */
  readonly withKept?: boolean;
}

/**
 * A query that works roll-ups out for their targets: `id`, and for each rule by its position `before0`, `before_error0`,
 * `after0`, `after_error0`, `count0`, `sum0`, `errors0`; all targets whether they differ or not. One grouped pass over the
 * children; the same meaning as `standingOf` and `bringTogether`.
 */
export function rollUpSql(query: RollUpQuery): string {
  const { schema, rules, targets } = query;
  const type = rules[0]!.writes.type;
  const parts = rules.map((rule, at) => partOf(query, rule, at));
  const each = (columns: (part: Part) => string) => parts.map(columns).join(', ');
  return `
    SELECT o.id, o.created_run, ${each((part) => part.last)}
    FROM (
      SELECT r.*, ${each(({ rule, at }) => `r.count${at} > 0 AND COALESCE(${outOfRangeSql(rule, `r.result${at}`)}, false) AS out_of_range${at}`)}
      FROM (
        SELECT p.id, p.created_run, ${each((part) => part.first)}
        FROM ${tableOf(schema.schema, type)} p
        LEFT JOIN (${groupedSql(query)}) g ON g.parent = p.id
        WHERE p.deleted_run IS NULL ${targets ? `AND p.id = ANY(${targets})` : ''}
      ) r
    ) o`;
}

interface Part {
  readonly rule: CompiledRollUp;
  readonly at: number;
  readonly first: string;
  readonly last: string;
}

function partOf({ schema, binds, withKept = false }: RollUpQuery, rule: CompiledRollUp, at: number): Part {
  const { type, field } = rule.writes;
  const whenNone = binds.add(toColumn(rule.target.type, rule.whenNone), bindType(rule.target.type));
  const kept = keptColumns(field);
  const hasKept = withKept && isKeptByDifference(rule);
  const first = [
    `p.${columnOf(field)} AS before${at}`,
    `p.problems ->> ${binds.add(field, 'text')} AS before_error${at}`,
    `COALESCE(g.count${at}, 0) AS count${at}`,
    `COALESCE(g.errors${at}, 0) AS errors${at}`,
    `${isAccumulated(rule) ? `COALESCE(g.brought${at}, 0)` : 'NULL::numeric'} AS sum${at}`,
    `${roundedSql(rule, resultSql(rule, at))} AS result${at}`,
    ...(hasKept
      ? [
          `p.${kept.count} AS was_count${at}`,
          `p.${kept.sum} AS was_sum${at}`,
          `p.${kept.errors} AS was_errors${at}`,
        ]
      : []),
  ];
  const last = [
    `o.before${at}`,
    `o.before_error${at}`,
    `(CASE WHEN o.errors${at} > 0 OR o.out_of_range${at} THEN NULL WHEN o.count${at} = 0 THEN ${whenNone} ELSE o.result${at} END)::${fieldColumnType(schema, type, field)} AS after${at}`,
    `CASE WHEN o.errors${at} > 0 THEN 'input_has_problem' WHEN o.out_of_range${at} THEN 'out_of_range' END AS after_error${at}`,
    ...[`o.count${at}`, `o.sum${at}`, `o.errors${at}`],
    ...(hasKept ? [`o.was_count${at}`, `o.was_sum${at}`, `o.was_errors${at}`] : []),
  ];
  return { rule, at, first: first.join(', '), last: last.join(', ') };
}

/** The condition on `rollUpSql` under which what stands there isn't what the rule at this position gives. */
export const differsSql = (at: number): string =>
  `(after${at} IS DISTINCT FROM before${at} OR after_error${at} IS DISTINCT FROM before_error${at})`;

/** The condition under which what is kept beside the value isn't what it is made of now. */
export const keptDiffersSql = (at: number): string =>
  `(was_count${at} IS DISTINCT FROM count${at} OR was_sum${at} IS DISTINCT FROM sum${at} OR was_errors${at} IS DISTINCT FROM errors${at})`;

function groupedSql(query: RollUpQuery): string {
  const { schema, rules, targets } = query;
  const joins = new RouteJoins({ ...query, from: rules[0]!.link.type, alias: 'c' });
  const tested = rules.map((rule, at) => testedSql(query, joins, rule, at));
  const { link } = rules[0]!;
  const column = `c.${columnOf(link.link)}`;
  const wanted = tested.every(({ wanted: one }) => one !== 'true')
    ? `AND (${tested.map(({ wanted: one }) => one).join(' OR ')})`
    : '';
  return `
    SELECT ${column} AS parent, ${tested.map(({ columns }) => columns).join(', ')}
    FROM ${tableOf(schema.schema, link.type)} c ${joins.sql()}
    WHERE c.deleted_run IS NULL AND ${targets ? `${column} = ANY(${targets})` : `${column} IS NOT NULL`} ${wanted}
    GROUP BY ${column}`;
}

/** What one rule takes from the children: how many count, what they come to, how many are in error. */
function testedSql(
  { binds, rules }: RollUpQuery,
  joins: RouteJoins,
  rule: CompiledRollUp,
  at: number,
): { columns: string; wanted: string } {
  const value = rule.value ? joins.read(rule.value) : null;
  const condition = rule.condition
    ? expressionSql(rule.condition, (field) => joins.read(field), binds)
    : 'true';
  const unread = rule.condition
    ? fieldsRead(rule.condition).flatMap((field) => joins.error(field) ?? [])
    : [];
  const valueError = rule.value ? joins.error(rule.value) : null;
  const errors = [...unread, ...(valueError ? [`(${condition} AND ${valueError})`] : [])];
  const inError = errors.length > 0 ? `(${errors.join(' OR ')})` : 'false';
  const counting = unread.length > 0 ? `(${condition} AND NOT (${unread.join(' OR ')}))` : condition;
  // A rule alone leaves the others out in WHERE; among several each has to say which children are its own.
  const isFiltered = counting !== 'true' && (rules.length > 1 || unread.length > 0);
  const only = isFiltered ? ` FILTER (WHERE ${counting})` : '';
  const brought = value ? aggregateSql(rule, value, only, binds) : 'NULL::numeric';
  const columns = [
    // What needs its members is empty only when nothing counts: it needs no count of its own.
    `${isAccumulated(rule) ? `count(${value ?? '*'})${only}` : `(${brought} IS NOT NULL)::int`} AS count${at}`,
    `${errors.length > 0 ? `count(*) FILTER (WHERE ${inError})` : '0'} AS errors${at}`,
    `${brought} AS brought${at}`,
  ];
  return {
    columns: columns.join(', '),
    wanted: unread.length > 0 ? `(${condition} OR ${inError})` : condition,
  };
}

/** What the children that count (`only`, a FILTER) come to. NULL where none has a value. */
function aggregateSql(rule: CompiledRollUp, value: string, only: string, binds: ValuePlaces): string {
  switch (rule.aggregate) {
    case 'count':
      return `count(${value})${only}`;
    case 'countDistinct':
      return `NULLIF(count(DISTINCT ${value})${only}, 0)`;
    case 'sum':
    case 'average':
      return `sum(${value})${only}`;
    case 'minimum':
      return `min(${value})${only}`;
    case 'maximum':
      return `max(${value})${only}`;
    case 'range':
      return `(max(${value})${only} - min(${value})${only})`;
    case 'all':
      return `bool_and(${value})${only}`;
    case 'any':
      return `bool_or(${value})${only}`;
    case 'none':
      return `(NOT bool_or(${value})${only})`;
    case 'best':
    case 'worst':
      return ranked(rule, value, only, binds);
    default:
      return unreachable(rule.aggregate);
  }
}

/** The option at an end of a choice's order. */
function ranked(rule: CompiledRollUp, value: string, only: string, binds: ValuePlaces): string {
  const type = rule.value!.type;
  const options = type.kind === 'choice' ? type.options.map(({ key }) => key) : [];
  const places = [1, 2].map(() => binds.add(options, 'text[]'));
  const end = rule.aggregate === 'best' ? 'min' : 'max';
  return `(${places[0]})[${end}(array_position(${places[1]}, ${value}))${only}]`;
}

/** The result before rounding. The average is the core's whole-number formula (`divide`), term by term. */
function resultSql(rule: CompiledRollUp, at: number): string {
  const [count, brought] = [`g.count${at}`, `g.brought${at}`];
  if (rule.aggregate === 'count') return `${count}::numeric`;
  if (rule.aggregate === 'countDistinct') return `${brought}::numeric`;
  if (rule.aggregate !== 'average') return brought;
  const shift = `1${'0'.repeat(DIVISION_PLACES)}`;
  const unshift = `0.${'0'.repeat(DIVISION_PLACES - 1)}1`;
  return `sign(${brought}) * div(2 * abs(${brought}) * ${shift} + ${count}, 2 * NULLIF(${count}, 0)::numeric) * ${unshift}`;
}

/** First the rule's own rounding, then the target's places, halves away from zero (as PostgreSQL rounds numerics). */
function roundedSql(rule: CompiledRollUp, sql: string): string {
  const places = placesOf(rule.target.type);
  if (places === null) return sql;
  const own = rule.rounding ? roundSql(rule.rounding, sql) : sql;
  return `round((${own})::numeric, ${places})`;
}

function roundSql({ mode, places, step }: Rounding, sql: string): string {
  if (step !== undefined) return stepSql(mode, new Decimal(step).toFixed(), `(${sql})::numeric`);
  if (mode === 'nearest') return `round((${sql})::numeric, ${places})`;
  const [up, down] = [`1${'0'.repeat(places)}`, places === 0 ? '1' : `0.${'0'.repeat(places - 1)}1`];
  return `${mode === 'up' ? 'ceil' : 'floor'}((${sql}) * ${up}) * ${down}`;
}

/** The core's whole-number formula for a multiple of a step (`round`). The step was checked: it is digits. */
function stepSql(mode: Rounding['mode'], step: string, sql: string): string {
  if (mode === 'nearest') return `sign(${sql}) * div(2 * abs(${sql}) + ${step}, 2 * ${step}) * ${step}`;
  const [more, sign] = mode === 'up' ? ['+', '>'] : ['-', '<'];
  return `(div(${sql}, ${step}) ${more} CASE WHEN ${sql} ${sign} 0 AND mod(${sql}, ${step}) <> 0 THEN 1 ELSE 0 END) * ${step}`;
}

function outOfRangeSql(rule: CompiledRollUp, result: string): string {
  const { type } = rule.target;
  if (type.kind === 'rating') return `(${result} < ${type.lowest} OR ${result} > ${type.highest})`;
  return placesOf(type) === null ? 'false' : `abs(${result}) >= 1${'0'.repeat(WHOLE_DIGITS)}`;
}
