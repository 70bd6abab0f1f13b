import { fieldsRead, type TypedField } from '@/core/expression';
import { follow } from '@/core/model';
import type { CompiledRollUp } from '@/core/rules';
import { DIVISION_PLACES, placesOf, type Rounding, unreachable, WHOLE_DIGITS } from '@/core/values';
import { expressionSql } from './expression-sql';
import { bindType, type Binds, columnOf, quote, type Schema, tableOf } from './sql';
import { fieldColumnType, toColumn } from './values';

export interface RollUpQuery {
  readonly schema: Schema;
  readonly rule: CompiledRollUp;
  readonly binds: Binds;
  /** SQL of a uuid[] of targets; left out for all records of the target's type. */
  readonly targets?: string;
  /** Fields that other rules keep: they may be in error. */
  readonly isKept: (type: string, field: string) => boolean;
  /** Names of earlier queries of the same statement that give a field another value: `exhibition.artefactCount` → `r1`. */
  readonly instead?: ReadonlyMap<string, string>;
}

/**
 * A query that works a roll-up out for its targets: `id`, `before`, `before_error`, `after`, `after_error`, all targets
 * whether they differ or not. One grouped pass over the children; the same meaning as `standingOf` and `bringTogether`.
 */
export function rollUpSql(query: RollUpQuery): string {
  const { schema, rule, targets } = query;
  const { type, field } = rule.writes;
  const target = columnOf(field);
  const only = targets ? `AND p.id = ANY(${targets})` : '';
  const whenNone = query.binds.add(toColumn(rule.target.type, rule.whenNone), bindType(rule.target.type));
  return `
    SELECT o.id, o.before, o.before_error,
      (CASE WHEN o.in_error OR o.out_of_range THEN NULL WHEN o.counted = 0 THEN ${whenNone} ELSE o.result END)::${fieldColumnType(schema, type, field)} AS after,
      CASE WHEN o.in_error THEN 'input_has_problem' WHEN o.out_of_range THEN 'out_of_range' END AS after_error
    FROM (
      SELECT r.*, r.counted > 0 AND COALESCE(${outOfRangeSql(rule)}, false) AS out_of_range
      FROM (
        SELECT p.id, p.${target} AS before, pr.code AS before_error, COALESCE(g.counted, 0) AS counted, COALESCE(g.in_error, false) AS in_error,
          ${roundedSql(rule, resultSql(rule))} AS result
        FROM ${tableOf(schema.schema, type)} p
        LEFT JOIN ${quote(schema.schema)}.problem pr ON pr.record = p.id AND pr.field = ${query.binds.add(field, 'text')}
        LEFT JOIN (${groupedSql(query)}) g ON g.parent = p.id
        WHERE p.deleted_run IS NULL ${only}
      ) r
    ) o`;
}

/** The condition on `rollUpSql` under which what stands there isn't what the rule gives. */
export const DIFFERS = '(after IS DISTINCT FROM before OR after_error IS DISTINCT FROM before_error)';

function groupedSql(query: RollUpQuery): string {
  const { schema, rule, targets, binds } = query;
  const joins = new Joins(query);
  const value = rule.value ? joins.read(rule.value) : null;
  const conditionErrors = rule.condition
    ? fieldsRead(rule.condition).flatMap((field) => joins.error(field) ?? [])
    : [];
  const condition = rule.condition
    ? expressionSql(rule.condition, (field) => joins.read(field), binds)
    : 'true';
  const valueError = rule.value ? joins.error(rule.value) : null;
  const errors = [...conditionErrors, ...(valueError ? [`(${condition} AND ${valueError})`] : [])];
  const inError = errors.length > 0 ? `(${errors.join(' OR ')})` : 'false';
  const counts = conditionErrors.length > 0 ? `FILTER (WHERE ${condition})` : '';
  const link = `c.${columnOf(rule.link.link)}`;
  const kept = conditionErrors.length > 0 ? `(${condition} OR ${inError})` : condition;
  return `
    SELECT ${link} AS parent, count(${value ?? '*'}) ${counts} AS counted, ${errors.length > 0 ? `bool_or(${inError})` : 'false'} AS in_error
      ${value ? `, ${aggregateSql(rule, value)} ${counts} AS brought` : ''}
    FROM ${tableOf(schema.schema, rule.link.type)} c ${joins.sql()}
    WHERE c.deleted_run IS NULL AND ${targets ? `${link} = ANY(${targets})` : `${link} IS NOT NULL`} AND ${kept}
    GROUP BY ${link}`;
}

function aggregateSql(rule: CompiledRollUp, value: string): string {
  switch (rule.aggregate) {
    case 'count':
      return `count(${value})`;
    case 'sum':
    case 'average':
      return `sum(${value})`;
    case 'minimum':
      return `min(${value})`;
    case 'maximum':
      return `max(${value})`;
    default:
      return unreachable(rule.aggregate);
  }
}

/** The result before rounding. The average is the core's whole-number formula (`divide`), term by term. */
function resultSql(rule: CompiledRollUp): string {
  if (rule.aggregate === 'count') return 'g.counted::numeric';
  if (rule.aggregate !== 'average') return 'g.brought';
  const shift = `1${'0'.repeat(DIVISION_PLACES)}`;
  const unshift = `0.${'0'.repeat(DIVISION_PLACES - 1)}1`;
  return `sign(g.brought) * div(2 * abs(g.brought) * ${shift} + g.counted, 2 * NULLIF(g.counted, 0)::numeric) * ${unshift}`;
}

/** First the rule's own rounding, then the target's places, halves away from zero (as PostgreSQL rounds numerics). */
function roundedSql(rule: CompiledRollUp, sql: string): string {
  const places = placesOf(rule.target.type);
  if (places === null) return sql;
  const own = rule.rounding ? roundSql(rule.rounding, sql) : sql;
  return `round((${own})::numeric, ${places})`;
}

function roundSql({ mode, places }: Rounding, sql: string): string {
  if (mode === 'nearest') return `round((${sql})::numeric, ${places})`;
  const [up, down] = [`1${'0'.repeat(places)}`, places === 0 ? '1' : `0.${'0'.repeat(places - 1)}1`];
  return `${mode === 'up' ? 'ceil' : 'floor'}((${sql}) * ${up}) * ${down}`;
}

function outOfRangeSql(rule: CompiledRollUp): string {
  const { type } = rule.target;
  if (type.kind === 'rating') return `(r.result < ${type.lowest} OR r.result > ${type.highest})`;
  return placesOf(type) === null ? 'false' : `abs(r.result) >= 1${'0'.repeat(WHOLE_DIGITS)}`;
}

/** The tables that a roll-up reads besides the children: records up the routes, problems, values given instead. */
class Joins {
  readonly #joins = new Map<string, string>();

  constructor(private readonly query: RollUpQuery) {}

  sql(): string {
    return [...this.#joins.values()].join('\n');
  }

  /** The SQL of a field's value. */
  read(field: TypedField): string {
    const alias = this.alias(field.route);
    const instead = this.query.instead?.get(`${field.owner}.${field.field}`);
    return instead ? `${this.insteadOf(alias, instead)}.after` : `${alias}.${columnOf(field.field)}`;
  }

  /** The SQL of whether a field is in error, or null when no rule keeps it. */
  error(field: TypedField): string | null {
    if (!this.query.isKept(field.owner, field.field)) return null;
    const alias = this.alias(field.route);
    const instead = this.query.instead?.get(`${field.owner}.${field.field}`);
    if (instead) return `(${this.insteadOf(alias, instead)}.after_error IS NOT NULL)`;
    const key = `problem ${alias} ${field.field}`;
    const name = `x${this.indexOf(key)}`;
    const { schema, binds } = this.query;
    if (!this.#joins.has(key)) {
      const join = `LEFT JOIN ${quote(schema.schema)}.problem ${name} ON ${name}.record = ${alias}.id AND ${name}.field = ${binds.add(field.field, 'text')}`;
      this.#joins.set(key, join);
    }
    return `(${name}.code IS NOT NULL)`;
  }

  private alias(route: readonly string[]): string {
    if (route.length === 0) return 'c';
    const near = this.alias(route.slice(0, -1));
    const key = `route ${route.join('.')}`;
    const name = `u${this.indexOf(key)}`;
    const { schema, rule } = this.query;
    if (!this.#joins.has(key)) {
      const type = follow(schema.model, rule.link.type, route)!;
      const join = `LEFT JOIN ${tableOf(schema.schema, type)} ${name} ON ${name}.id = ${near}.${columnOf(route.at(-1)!)} AND ${name}.deleted_run IS NULL`;
      this.#joins.set(key, join);
    }
    return name;
  }

  private insteadOf(alias: string, instead: string): string {
    const key = `instead ${alias} ${instead}`;
    const name = `i${this.indexOf(key)}`;
    if (!this.#joins.has(key))
      this.#joins.set(key, `LEFT JOIN ${instead} ${name} ON ${name}.id = ${alias}.id`);
    return name;
  }

  private indexOf(key: string): number {
    const index = [...this.#joins.keys()].indexOf(key);
    return index < 0 ? this.#joins.size : index;
  }
}
