import {
  aggregateEntry,
  type CompiledRollUp,
  type CompiledRule,
  type CompiledSource,
  isAccumulated,
  isAlone,
  isKeptByDifference,
  isKeptByExtremum,
  isReacting,
  singleLink,
} from '@/core/rules';
import { certain, firstIn, placesOf } from '@/core/values';
import { filterSql, halfSql } from './expression-sql';
import { formulaSql } from './formula-sql';
import { mapSql, reactionSql } from './map-sql';
import { outOfRangeSql, type RollUpQuery, roundedSql } from './result-sql';
import { membersSql, RouteJoins } from './route-joins';
import { quotientSql } from './value-sql';
import { bindType, columnOf, columnType, keptColumns, tableOf } from '@/server/store/sql/sql';
import { toColumn } from '@/server/store/sql/columns';
import { type InOrder } from './ordered-sql';
import { givenSql, testedSql } from './given-sql';
import { AGGREGATE_SQL, countSql, isExact } from './aggregate-sql';
import { bothSql } from './ordered-sql';

/**
 * A query that works rules out for their targets: `id`, and for each rule by its position `before0`, `before_error0`,
 * `after0`, `after_error0`, and where it is kept by difference `count0`, `sum0`, `errors0`; all targets whether they differ or not. Rules
 * over one link go over the children in one grouped pass; a rule over anything else stands alone. OFFSET 0 keeps PostgreSQL from working a result out again
 * wherever it is named: a fifth of the time where nothing differs. The same meaning as `contributionOf` and `aggregate`.
 */
export function rollUpSql(query: RollUpQuery): string {
  const { schema, targets } = query;
  const [first] = query.rules;
  if (isAlone(first!)) return formulaSql(query, first);
  const rules = rollUpsIn(query);
  const { type } = first!.writes;
  const own = new RouteJoins({ ...query, from: type, alias: 'p' });
  const parts = rules.map((rule, at) => partOf(query, own, rule, at));
  // Such a version stands alone in its query.
  const half = halfSql(firstIn(rules).half, own, query.binds);
  const each = (columns: (part: Part) => string) => parts.map(columns).join(', ');
  const grouped = rules.every(singleLink) ? groupedSql(query) : broughtSql(query, firstIn(rules));
  return `
    SELECT o.id, o.created_run, ${each((part) => part.last)}
    FROM (
      SELECT r.*, ${each((part) => part.middle)}
      FROM (
        SELECT p.id, p.created_run, ${each((part) => part.first)}
        FROM ${tableOf(schema.schema, type)} p
        LEFT JOIN (${grouped}) g ON g.parent = p.id ${own.sql()}
        WHERE p.deleted_run IS NULL ${targets ? `AND p.id = ANY(${targets})` : ''} ${half}
        OFFSET 0
      ) r
    ) o`;
}

/** The rules of a query, which are of one kind. */
const rollUpsIn = ({ rules }: RollUpQuery): CompiledRollUp[] =>
  rules.flatMap((rule) => (rule.kind === 'rollUp' ? [rule] : []));

interface Part {
  readonly rule: CompiledRollUp;
  readonly at: number;
  readonly first: string;
  readonly middle: string;
  readonly last: string;
}

function partOf(query: RollUpQuery, joins: RouteJoins, rule: CompiledRollUp, at: number): Part {
  const { binds, withKept = false, withLeader = false } = query;
  const { field } = rule.writes;
  const whenNone = binds.add(toColumn(rule.target.type, rule.whenNone), bindType(rule.target.type));
  const beside = keptColumns(field);
  const hasKept = withKept && isKeptByDifference(rule);
  const gathered = gatheredOf(joins, rule, at);
  const isLed = isKeptByExtremum(rule);
  const led = [
    ...(isLed && withKept ? [[`p.${beside.leader}`, 'was_leader']] : []),
    ...(isLed && withLeader ? [[`CASE WHEN ${gathered.errors} = 0 THEN g.leader${at} END`, 'leader']] : []),
  ];
  const { result, there, failed } = resultOf(joins, rule, gathered);
  const reaction = isReacting(rule) ? reactionSql({ query, joins, rule, at, whenNone }) : null;
  const middle = [
    `r.there${at} AND COALESCE(${outOfRangeSql(rule, `r.result${at}`)}, false) AS out_of_range${at}`,
    ...(reaction ? [reaction.middle] : []),
  ];
  const mapped = rule.map && !reaction ? mapSql(rule, rule.map, `o.result${at}`, binds) : `o.result${at}`;
  // Where a pilot claims nothing what stands there stands, but for an error of its own.
  const claims = rule.claims ? filterSql(rule.claims, joins, binds) : null;
  const elsewhere = claims ? `WHEN o.claimed${at} IS NOT TRUE THEN o.before${at} ` : '';
  const unfailing = claims ? `WHEN o.claimed${at} IS NOT TRUE THEN NULL ` : '';
  const kept = [
    `(CASE ${elsewhere}WHEN o.failed${at} OR o.out_of_range${at} THEN NULL WHEN NOT o.there${at} THEN ${whenNone} ELSE ${mapped} END)::${columnType(rule.target.type, placesOf(rule.target.type) ?? 0)} AS after${at}`,
    `CASE ${unfailing}WHEN o.failed${at} THEN 'input_has_problem' WHEN o.out_of_range${at} THEN 'out_of_range' END AS after_error${at}`,
  ];
  const first = [
    `p.${columnOf(field)} AS before${at}`,
    `p.problems ->> ${binds.add(field, 'text')} AS before_error${at}`,
    ...[`${result} AS result${at}`, `${there} AS there${at}`, `${failed} AS failed${at}`],
    ...(claims ? [`${claims} AS claimed${at}`] : []),
    ...(hasKept
      ? [
          `${gathered.count} AS count${at}`,
          `${gathered.brought} AS sum${at}`,
          `${gathered.errors} AS errors${at}`,
          `p.${beside.count} AS was_count${at}`,
          `p.${beside.sum} AS was_sum${at}`,
          `p.${beside.errors} AS was_errors${at}`,
        ]
      : []),
    ...led.map(([sql, name]) => `${sql} AS ${name}${at}`),
    ...(reaction ? [reaction.first] : []),
  ];
  const last = [
    `o.before${at}`,
    `o.before_error${at}`,
    ...(reaction ? reaction.last : kept),
    ...(hasKept
      ? ['count', 'sum', 'errors', 'was_count', 'was_sum', 'was_errors'].map((name) => `o.${name}${at}`)
      : []),
    ...led.map(([, name]) => `o.${name}${at}`),
  ];
  return { rule, at, first: first.join(', '), middle: middle.join(', '), last: last.join(', ') };
}

/** What a rule's members come to, with what the record itself adds. */
interface Brought {
  readonly count: string;
  readonly errors: string;
  /** An amount that is kept by difference is 0 where nothing counts. */
  readonly brought: string;
}

function gatheredOf(joins: RouteJoins, rule: CompiledRollUp, at: number): Brought {
  const brought = isAccumulated(rule) ? `COALESCE(g.brought${at}, 0)` : `g.brought${at}`;
  // What needs its members is empty only when nothing counts: it needs no count of its own.
  const isCounted = aggregateEntry(rule.aggregate).isOrdered === true || isAccumulated(rule);
  const count = isCounted ? `COALESCE(g.count${at}, 0)` : `(g.brought${at} IS NOT NULL)::int`;
  const plain = { count, errors: `COALESCE(g.errors${at}, 0)`, brought };
  const { adds } = rule.own;
  if (!adds || !singleLink(rule)) return plain;
  const value = joins.read(adds);
  const error = joins.error(adds) ?? 'false';
  const given = `(CASE WHEN NOT ${error} THEN ${value} END)`;
  return {
    count: `(${plain.count} + (${given} IS NOT NULL)::int)`,
    errors: `(${plain.errors} + (${error})::int)`,
    brought: `(${brought} + COALESCE(${unitedSql(rule, given)}, 0))`,
  };
}

/** The result rounded, whether there is one, and whether an error stands in its place. */
function resultOf(
  joins: RouteJoins,
  rule: CompiledRollUp,
  gathered: Brought,
): { readonly result: string; readonly there: string; readonly failed: string } {
  const { standsIn, whenNone } = rule.own;
  const counted = `(${gathered.count} > 0)`;
  let result = roundedSql(rule, resultSql(rule, gathered), rule.rounding, isExact(rule));
  let there = counted;
  let failed = `(${gathered.errors} > 0)`;
  if (whenNone) {
    const value = joins.read(whenNone);
    result = `(CASE WHEN ${counted} THEN ${result} ELSE ${roundedSql(rule, value, null)} END)`;
    there = `(${counted} OR ${value} IS NOT NULL)`;
    const error = joins.error(whenNone);
    if (error) failed = `(${failed} OR (NOT ${counted} AND ${error}))`;
  }
  if (standsIn) {
    const value = joins.read(standsIn);
    result = `(CASE WHEN ${value} IS NOT NULL THEN ${roundedSql(rule, value, rule.rounding)} ELSE ${result} END)`;
    there = `(${value} IS NOT NULL OR ${there})`;
    failed = `(${value} IS NULL AND ${failed})`;
    const error = joins.error(standsIn);
    if (error) failed = `(${error} OR ${failed})`;
  }
  return { result, there, failed };
}

/** The condition on `rollUpSql` under which what stands there isn't what the rule at this position gives. */
export const differsSql = (at: number): string =>
  `(after${at} IS DISTINCT FROM before${at} OR after_error${at} IS DISTINCT FROM before_error${at})`;

/** The condition under which what is kept beside the value isn't what it is now; `null` where nothing is. */
export function keptDiffersSql(rule: CompiledRule, at: number, withLeader = false): string | null {
  if (isReacting(rule)) return `(was_row${at} IS DISTINCT FROM row${at})`;
  if (isKeptByDifference(rule)) return sumsDifferSql(at);
  // Who leads isn't worked out for many: what was known is forgotten.
  if (isKeptByExtremum(rule))
    return withLeader ? `(was_leader${at} IS DISTINCT FROM leader${at})` : `(was_leader${at} IS NOT NULL)`;
  return null;
}

const sumsDifferSql = (at: number): string =>
  `(was_count${at} IS DISTINCT FROM count${at} OR was_sum${at} IS DISTINCT FROM sum${at} OR was_errors${at} IS DISTINCT FROM errors${at})`;

/** Rules over the same link: one pass over its children. */
function groupedSql(query: RollUpQuery): string {
  const { schema, targets } = query;
  const rules = rollUpsIn(query);
  const link = certain(singleLink(firstIn(rules)));
  const joins = new RouteJoins({ ...query, from: link.type, alias: 'c' });
  const tested = rules.map((rule, at) => testedSql(query, joins, rule, at));
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

/** A rule of several routes, over several links or a bridge: what each member gives, one under the other, then together. */
function broughtSql(query: RollUpQuery, rule: CompiledRollUp): string {
  const { rules, binds, targets } = query;
  if (rules.length !== 1) throw new RangeError('A rule over more than one link is worked out alone');
  const branches = rule.sources.map((source) => branchSql(query, rule, source));
  if (rule.own.adds) branches.push(ownBranchSql(query, rule));
  const only = ' FILTER (WHERE NOT m.error)';
  const isCount = rule.aggregate === 'count' && !rule.recursion;
  const member: InOrder = {
    ...{ value: 'm.value', id: 'm.member', source: 'm.source' },
    keys: firstIn(rule.sources).order.map((_, at) => `m.key${at}`),
  };
  const brought = isCount ? 'NULL::numeric' : AGGREGATE_SQL[rule.aggregate]({ rule, member, only, binds });
  return `
    SELECT m.parent,
      ${countSql(rule, 'm.value', only)} AS count0,
      count(*) FILTER (WHERE m.error) AS errors0, ${brought} AS brought0
    FROM (${branches.join(' UNION ALL ')}) m ${targets ? `WHERE m.parent = ANY(${targets})` : ''} GROUP BY m.parent`;
}

/** A value as one type for all sources of a rule. */
function unitedSql({ valueType }: CompiledRollUp, sql: string): string {
  return valueType === null || placesOf(valueType) !== null ? `(${sql})::numeric` : sql;
}

/** What the members of one source give to which target, and whether they are in error; over a bridge each end once. */
function branchSql(query: RollUpQuery, rule: CompiledRollUp, source: CompiledSource): string {
  const { targets } = query;
  const joins = new RouteJoins({ ...query, from: source.type, alias: 'c' });
  const { counting, inError, value, keys } = givenSql(query, joins, rule, source);
  const given = unitedSql(rule, value ?? '1');
  const end = source.once ? joins.read(source.once) : null;
  const { from, parent } = membersSql(query.schema, source.route, { tops: targets ?? null });
  // An error counts whatever the value; what has no value gives nothing, but has its place in an order.
  const { isOrdered } = aggregateEntry(rule.aggregate);
  const some = value && !isOrdered ? bothSql(counting, `${value} IS NOT NULL`) : counting;
  const wanted = inError === 'false' ? some : `(${inError} OR ${some})`;
  const isPlaced = isOrdered || rule.aggregate === 'joined';
  return `SELECT ${end ? `DISTINCT ${end} AS far_end,` : farEnd(rule)} ${parent} AS parent,
      CASE WHEN ${inError} THEN NULL ELSE ${given} END AS value, ${inError} AS error${keys.map((key, at) => `, ${key} AS key${at}`).join('')}${isPlaced ? `, ${end ?? 'c.id'} AS member, ${rule.sources.indexOf(source)} AS source` : ''}
    FROM ${from} ${joins.sql()}
    WHERE c.deleted_run IS NULL AND ${parent} ${targets ? `= ANY(${targets})` : 'IS NOT NULL'}${end ? ` AND ${end} IS NOT NULL` : ''} AND ${wanted}`;
}

/** The column of a bridge's far end, where another source of the rule has one. */
const farEnd = ({ sources }: CompiledRollUp): string =>
  sources.some(({ once }) => once !== null) ? 'NULL::uuid AS far_end,' : '';

/** What the record itself adds. */
function ownBranchSql(query: RollUpQuery, rule: CompiledRollUp): string {
  const { type } = rule.writes;
  const joins = new RouteJoins({ ...query, from: type, alias: 'c' });
  const value = joins.read(certain(rule.own.adds));
  const error = joins.error(certain(rule.own.adds)) ?? 'false';
  return `SELECT ${farEnd(rule)} c.id AS parent,
      CASE WHEN ${error} THEN NULL ELSE ${unitedSql(rule, value)} END AS value, ${error} AS error
    FROM ${tableOf(query.schema.schema, type)} c ${joins.sql()}
    WHERE c.deleted_run IS NULL AND (${value} IS NOT NULL OR ${error}) ${query.targets ? `AND c.id = ANY(${query.targets})` : ''}`;
}

/** The result before rounding. The average is the core's whole-number formula (`divide`), term by term. */
function resultSql(rule: CompiledRollUp, { count, brought }: Brought): string {
  if (rule.aggregate === 'count') return `${rule.recursion ? brought : count}::numeric`;
  if (rule.aggregate === 'countDistinct') return `${brought}::numeric`;
  if (rule.aggregate !== 'average') return brought;
  return quotientSql(brought, `${count}::numeric`);
}
