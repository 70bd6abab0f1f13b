import type { CompiledFinding, CompiledLinked } from '@/core/rules';
import { FOLDING } from '@/core/values';
import { errorSql } from './error-sql';
import { expressionSql, filterSql, rankSql } from './expression-sql';
import type { RollUpQuery } from './result-sql';
import { RouteJoins } from './route-joins';
import { columnOf, tableOf, type ValuePlaces } from './sql';

type Matching = Extract<CompiledFinding, { kind: 'match' }>;

/** What a link rule gives on a record `p`, as SQL of the link and of the code of its problem; the same meaning as `linkedOutcome`. */
export function linkedSql(
  query: RollUpQuery,
  rule: CompiledLinked,
  joins: RouteJoins,
): { value: string; error: string } {
  const { binds } = query;
  const own = `p.${columnOf(rule.writes.field)}`;
  const found =
    rule.find.kind === 'route' ? atEndSql(query, rule.find, joins) : matchSql(query, rule.find, joins);
  const applies = rule.appliesWhen ? expressionSql(rule.appliesWhen, joins, binds) : 'true';
  const undecided = rule.appliesWhen ? errorSql(rule.appliesWhen, joins, binds) : null;
  const filled = rule.none === 'leave' ? `COALESCE(${found.value}, ${own})` : found.value;
  const isOpen = rule.holds === 'whereEmpty' ? `${own} IS NULL AND ` : '';
  const error = `(CASE WHEN ${applies} THEN ${found.error ?? 'NULL'} END)`;
  const all = undecided ? `COALESCE(${undecided}, ${error})` : error;
  return {
    value: `(CASE WHEN ${isOpen}(${applies}) THEN ${filled} ELSE ${own} END)`,
    error: isOpen ? `(CASE WHEN ${own} IS NULL THEN ${all} END)` : all,
  };
}

/** Up to the top of a hierarchy: what is in the bin is as if it weren't there. */
function atEndSql(
  { schema }: RollUpQuery,
  { value, topmost }: Extract<CompiledFinding, { kind: 'route' }>,
  joins: RouteJoins,
) {
  const end = joins.read(value);
  const failing = joins.error(value);
  const error = failing ? `CASE WHEN ${failing} THEN 'input_has_problem' END` : null;
  if (!topmost) return { value: end, error };
  const [table, link] = [tableOf(schema.schema, topmost.type), columnOf(topmost.link)];
  const top = `(WITH RECURSIVE up AS (
      SELECT s.id, s.${link} AS next, 0 AS depth FROM ${table} s WHERE s.id = ${end}
      UNION ALL SELECT s.id, s.${link}, up.depth + 1 FROM up JOIN ${table} s ON s.id = up.next AND s.deleted_run IS NULL
    ) SELECT id FROM up ORDER BY depth DESC LIMIT 1)`;
  return { value: topmost.isItself ? top : `NULLIF(${top}, ${end})`, error };
}

/** The records that have the same as the one at hand, under the alias `m`. */
function matchingSql({ schema, binds, ...query }: RollUpQuery, find: Matching, joins: RouteJoins) {
  const there = new RouteJoins({ ...query, schema, binds, from: find.type, alias: 'm', prefix: 'm_' });
  const same = find.keys.map(({ field, value, isFolded }) => {
    const wanted = expressionSql(value, joins, binds);
    return `${foldedSql(there.read(field), isFolded, binds)} = ${foldedSql(wanted, isFolded, binds)}`;
  });
  const failing = find.condition ? errorSql(find.condition, there, binds) : null;
  const meets = find.condition ? filterSql(find.condition, there, binds) : 'true';
  const from = () =>
    `FROM ${tableOf(schema.schema, find.type)} m ${there.sql()} WHERE m.deleted_run IS NULL AND ${same.join(' AND ')}`;
  return { there, meets, failing, from };
}

const foldedSql = (sql: string, isFolded: boolean, binds: ValuePlaces): string =>
  isFolded ? `translate(${sql}, ${binds.add(FOLDING.from, 'text')}, ${binds.add(FOLDING.to, 'text')})` : sql;

function matchSql(query: RollUpQuery, find: Matching, joins: RouteJoins) {
  const { binds } = query;
  const { there, meets, failing, from } = matchingSql(query, find, joins);
  const order = orderSql(find, there, binds);
  const value =
    find.several === 'ask'
      ? `(SELECT CASE WHEN count(*) = 1 THEN min(m.id::text)::uuid END ${from()} AND ${meets})`
      : `(SELECT m.id ${from()} AND ${meets} ORDER BY ${order} LIMIT 1)`;
  const keys = find.keys.map(({ value: node }) => errorSql(node, joins, binds)).filter((sql) => sql !== null);
  const errors = [...keys, ...(failing ? [`(SELECT min(${failing}) ${from()})`] : [])];
  return { value, error: errors.length > 0 ? `COALESCE(${errors.join(', ')})` : null };
}

function orderSql({ order }: Matching, there: RouteJoins, binds: ValuePlaces): string {
  const direction = order?.isLast ? 'DESC' : 'ASC';
  if (!order?.field) return `m.id ${direction}`;
  const read = there.read(order.field);
  const key = order.field.type.kind === 'choice' ? rankSql(order.field.type, read, binds) : read;
  return `${key} ${direction} NULLS LAST, m.id`;
}

/** A query of the records, of those at hand, whose link is empty although several are found for it: `id` and `found`, the ids of these. */
export function candidatesSql(query: RollUpQuery, rule: CompiledLinked): string {
  const { schema, binds, targets } = query;
  const { type, field } = rule.writes;
  const find = rule.find as Matching;
  const joins = new RouteJoins({ ...query, from: type, alias: 'p' });
  const applies = rule.appliesWhen ? filterSql(rule.appliesWhen, joins, binds) : 'true';
  const { there, meets, from } = matchingSql(query, find, joins);
  const found = `SELECT array_agg(m.id::text ORDER BY ${orderSql(find, there, binds)}) ${from()} AND ${meets}`;
  return `SELECT p.id::text, f.found FROM ${tableOf(schema.schema, type)} p ${joins.sql()}
    CROSS JOIN LATERAL (${found}) AS f(found)
    WHERE p.deleted_run IS NULL AND p.${columnOf(field)} IS NULL AND cardinality(f.found) > 1 AND ${applies}
      ${targets ? `AND p.id = ANY(${targets})` : ''}`;
}
