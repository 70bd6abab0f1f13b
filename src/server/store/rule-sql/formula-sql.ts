import type { Typed } from '@/core/expression';
import type { CompiledAlone, CompiledLinked } from '@/core/rules';
import { placesOf } from '@/core/values';
import { errorSql } from './error-sql';
import { expressionSql, filterSql, halfSql } from './expression-sql';
import { linkSql } from './link-sql';
import { outOfRangeSql, type RollUpQuery, roundedSql } from './result-sql';
import { RouteJoins } from './route-joins';
import { columnOf, columnType, tableOf } from '@/server/store/sql/sql';

/** A query that works a formula out for its targets, in the form of `rollUpSql`; the same meaning as `formulaOutcome`. */
export function formulaSql(query: RollUpQuery, rule: CompiledAlone): string {
  const { type } = rule.writes;
  const joins = new RouteJoins({ ...query, from: type, alias: 'p' });
  const linked = rule.kind === 'linked' ? linkSql(query, rule, joins) : null;
  const { result, error } = linked
    ? { result: linked.value, error: linked.error }
    : workedSql(query, rule as Worked, joins);
  const outOfRange = outOfRangeSql(rule, 'r.result0');
  return queryOf({ query, rule, joins, result, error, outOfRange, join: linked?.join ?? '' });
}

type Worked = Exclude<CompiledAlone, CompiledLinked>;

/** A formula, or what is kept in step. */
function workedSql({ binds }: RollUpQuery, rule: Worked, joins: RouteJoins) {
  const { field } = rule.writes;
  // What is kept in step claims nothing where it doesn't apply: what stands there stands.
  const elsewhere = rule.kind === 'keptCascade' ? `p.${columnOf(field)}` : 'NULL';
  const valueOf = (node: Typed | null) =>
    node ? writtenSql(rule, expressionSql(node, joins, binds)) : elsewhere;
  const failing = (node: Typed | null) => (node ? (errorSql(node, joins, binds) ?? 'NULL') : 'NULL');
  const applies = rule.appliesWhen ? expressionSql(rule.appliesWhen, joins, binds) : null;
  const choose = (of: (node: Typed | null) => string) =>
    applies ? `(CASE WHEN ${applies} THEN ${of(rule.value)} ELSE ${of(rule.otherwise)} END)` : of(rule.value);
  const undecided = rule.appliesWhen ? errorSql(rule.appliesWhen, joins, binds) : null;
  const error = undecided ? `COALESCE(${undecided}, ${choose(failing)})` : choose(failing);
  const claims = rule.kind === 'formula' && rule.claims ? filterSql(rule.claims, joins, binds) : null;
  if (!claims) return { result: choose(valueOf), error };
  // Where a pilot claims nothing what stands there stands, but for an error of its own.
  return {
    result: `(CASE WHEN ${claims} THEN ${choose(valueOf)} ELSE p.${columnOf(field)} END)`,
    error: `(CASE WHEN ${claims} THEN ${error} END)`,
  };
}

interface WorkedQuery {
  readonly query: RollUpQuery;
  readonly rule: CompiledAlone;
  readonly joins: RouteJoins;
  readonly result: string;
  readonly error: string;
  readonly outOfRange: string;
  readonly join: string;
}

function queryOf({ query, rule, joins, result, error, outOfRange, join }: WorkedQuery): string {
  const { schema, binds, targets } = query;
  const { type, field } = rule.writes;
  // Before the joins are told: it may need more of them.
  const own = halfSql(rule.half, joins, binds);
  return `
    SELECT o.id, o.created_run, o.before0, o.before_error0,
      (CASE WHEN o.error0 IS NOT NULL OR o.out_of_range0 THEN NULL ELSE o.result0 END)::${columnType(rule.target.type, placesOf(rule.target.type) ?? 0)} AS after0,
      CASE WHEN o.error0 IS NOT NULL THEN o.error0 WHEN o.out_of_range0 THEN 'out_of_range' END AS after_error0
    FROM (
      SELECT r.*, COALESCE(${outOfRange}, false) AS out_of_range0
      FROM (
        SELECT p.id, p.created_run, p.${columnOf(field)} AS before0,
          p.problems ->> ${binds.add(field, 'text')} AS before_error0,
          ${result} AS result0, (${error})::text AS error0
        FROM ${tableOf(schema.schema, type)} p ${joins.sql()} ${join}
        WHERE p.deleted_run IS NULL ${targets ? `AND p.id = ANY(${targets})` : ''} ${own}
      ) r
    ) o`;
}

/** Rounded to the target's places; a text without characters is empty. */
function writtenSql(rule: Worked, sql: string): string {
  const { kind } = rule.target.type;
  if (kind === 'text' || kind === 'longText') return `NULLIF(${sql}, '')`;
  return roundedSql(rule, sql, rule.rounding);
}
