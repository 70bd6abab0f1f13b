import type { CompiledFinding, CompiledLinked } from '@/core/rules';
import { errorSql } from './error-sql';
import { expressionSql, filterSql, orderKeySql } from './expression-sql';
import { foldedSql } from '@/server/store/sql/folded-sql';
import type { RollUpQuery } from './result-sql';
import { RouteJoins } from './route-joins';
import { columnOf, tableOf, type ValuePlaces } from '@/server/store/sql/sql';

type Matching = Extract<CompiledFinding, { kind: 'match' }>;

export interface LinkSql {
  readonly value: string;
  readonly error: string;
  /** Joined to the records at hand. */
  readonly join: string;
}

/** What a link rule gives on a record `p`, as SQL of the link and of the code of its problem; the same meaning as `linkedOutcome`. */
export function linkSql(query: RollUpQuery, rule: CompiledLinked, joins: RouteJoins): LinkSql {
  const { binds } = query;
  const own = `p.${columnOf(rule.writes.field)}`;
  const found =
    rule.find.kind === 'route'
      ? { ...atEndSql(query, rule.find, joins), join: '' }
      : matchSql(query, rule, rule.find, joins);
  const applies = rule.appliesWhen ? expressionSql(rule.appliesWhen, joins, binds) : 'true';
  const undecided = rule.appliesWhen ? errorSql(rule.appliesWhen, joins, binds) : null;
  const filled = rule.none === 'leave' ? `COALESCE(${found.value}, ${own})` : found.value;
  const isOpen = rule.holds === 'whereEmpty' ? `${own} IS NULL AND ` : '';
  const error = `(CASE WHEN ${applies} THEN ${found.error ?? 'NULL'} END)`;
  const all = undecided ? `COALESCE(${undecided}, ${error})` : error;
  return {
    value: `(CASE WHEN ${isOpen}(${applies}) THEN ${filled} ELSE ${own} END)`,
    error: isOpen ? `(CASE WHEN ${own} IS NULL THEN ${all} END)` : all,
    join: found.join,
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

/**
 * Pairs of records of the rule's type (`q`) and those that it finds for them (`m`): a join by what is the same, which PostgreSQL can hash,
 * however many both are.
 */
function pairsSql({ schema, binds, targets, ...query }: RollUpQuery, rule: CompiledLinked, find: Matching) {
  const { type } = rule.writes;
  const own = new RouteJoins({ ...query, schema, binds, from: type, alias: 'q', prefix: 'q_' });
  const there = new RouteJoins({ ...query, schema, binds, from: find.type, alias: 'm', prefix: 'm_' });
  const wanted = find.keys.map(({ value, isFolded }) =>
    keySql(expressionSql(value, own, binds), isFolded, binds),
  );
  const having = find.keys.map(({ field, isFolded }) => keySql(there.read(field), isFolded, binds));
  const failing = find.condition ? errorSql(find.condition, there, binds) : null;
  const meets = find.condition ? filterSql(find.condition, there, binds) : 'true';
  const order = orderSql(find, there, binds);
  const from = `FROM (SELECT q.id, ${keyed(wanted)} FROM ${tableOf(schema.schema, type)} q ${own.sql()}
      WHERE q.deleted_run IS NULL ${targets ? `AND q.id = ANY(${targets})` : ''}) q
    JOIN (SELECT m.id, ${keyed(having)},
        (${meets}) AS meets, (${failing ?? 'NULL::text'}) AS failing, ${order.columns}
      FROM ${tableOf(schema.schema, find.type)} m ${there.sql()} WHERE m.deleted_run IS NULL) m
    ON ${find.keys.map((_, at) => `m.key__${at} = q.key__${at}`).join(' AND ')}`;
  return { from, order: order.by, canFail: failing !== null };
}

const keyed = (keys: readonly string[]): string => keys.map((sql, at) => `${sql} AS key__${at}`).join(', ');

const keySql = (sql: string, isFolded: boolean, binds: ValuePlaces): string =>
  isFolded ? foldedSql(sql, binds) : sql;

function matchSql(query: RollUpQuery, rule: CompiledLinked, find: Matching, joins: RouteJoins) {
  const { binds } = query;
  const { from, order, canFail } = pairsSql(query, rule, find);
  const join = `LEFT JOIN (SELECT q.id, (array_agg(m.id ORDER BY ${order}) FILTER (WHERE m.meets))[1] AS first,
      count(*) FILTER (WHERE m.meets) AS number, min(m.failing) AS failing ${from} GROUP BY q.id) found__ ON found__.id = p.id`;
  const value =
    find.several === 'ask' ? 'CASE WHEN found__.number = 1 THEN found__.first END' : 'found__.first';
  const keys = find.keys.map(({ value: node }) => errorSql(node, joins, binds)).filter((sql) => sql !== null);
  const errors = [...keys, ...(canFail ? ['found__.failing'] : [])];
  return {
    value: `(${value})`,
    error: errors.length > 0 ? `COALESCE(${errors.join(', ')})` : null,
    join,
  };
}

/** What several are put in order by: a column of its own, then the id. */
function orderSql(
  { order }: Matching,
  there: RouteJoins,
  binds: ValuePlaces,
): { columns: string; by: string } {
  const direction = order?.isLast ? 'DESC' : 'ASC';
  if (!order?.field) return { columns: 'NULL AS rank__', by: `m.id ${direction}` };
  const key = orderKeySql(order.field, there, binds);
  return { columns: `${key} AS rank__`, by: `m.rank__ ${direction} NULLS LAST, m.id` };
}

/** A query of the records, of those at hand, whose link is empty although several are found for it: `id` and `found`, the ids of these. */
export function candidatesSql(query: RollUpQuery, rule: CompiledLinked): string {
  const { schema, binds } = query;
  const { type, field } = rule.writes;
  const joins = new RouteJoins({ ...query, from: type, alias: 'p' });
  const applies = rule.appliesWhen ? filterSql(rule.appliesWhen, joins, binds) : 'true';
  const { from, order } = pairsSql(query, rule, rule.find as Matching);
  return `SELECT p.id::text, f.found FROM ${tableOf(schema.schema, type)} p ${joins.sql()}
    JOIN (SELECT q.id, array_agg(m.id::text ORDER BY ${order}) AS found ${from} WHERE m.meets GROUP BY q.id HAVING count(*) > 1) f ON f.id = p.id
    WHERE p.deleted_run IS NULL AND p.${columnOf(field)} IS NULL AND ${applies}`;
}
