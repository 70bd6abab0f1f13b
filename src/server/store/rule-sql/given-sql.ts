import { aggregateEntry, type CompiledRollUp, type CompiledSource, isKeptByExtremum } from '@/core/rules';
import { firstIn } from '@/core/values';
import { expressionSql, rankSql } from './expression-sql';
import { type RollUpQuery } from './result-sql';
import type { RouteJoins } from './route-joins';
import { errorSql } from './error-sql';
import { leaderSql } from './ordered-sql';
import { countSql } from './aggregate-sql';
import { bothSql } from './ordered-sql';
import { AGGREGATE_SQL } from './aggregate-sql';

interface Given {
  /** The condition under which a member counts: it isn't in error, and where members are put in order it has its place. */
  readonly counting: string;
  readonly inError: string;
  /** NULL where records are counted. */
  readonly value: string | null;
  readonly keys: readonly string[];
  readonly condition: string;
  readonly isUnsure: boolean;
}

/** What a member of a source gives, and whether it does. */
export function givenSql(
  { binds }: RollUpQuery,
  joins: RouteJoins,
  rule: CompiledRollUp,
  source: CompiledSource,
): Given {
  const isLed = aggregateEntry(rule.aggregate).isOrdered === true;
  const value = source.value ? expressionSql(source.value, joins, binds) : null;
  const condition = source.condition ? expressionSql(source.condition, joins, binds) : 'true';
  const undecided = source.condition ? errorSql(source.condition, joins, binds) : null;
  const valueError = source.value ? errorSql(source.value, joins, binds) : null;
  const isUndecided = undecided && `(${undecided} IS NOT NULL)`;
  const sure = isUndecided ? `(${condition} AND NOT ${isUndecided})` : condition;
  const keys = source.order.map((field) =>
    field.type.kind === 'choice' ? rankSql(field.type, joins.read(field), binds) : joins.read(field),
  );
  const failing = [
    ...(valueError ? [`${valueError} IS NOT NULL`] : []),
    ...source.order.flatMap((field) => joins.error(field) ?? []),
  ];
  const errors = [
    ...(isUndecided ? [isUndecided] : []),
    ...(failing.length > 0 ? [`(${sure} AND (${failing.join(' OR ')}))`] : []),
  ];
  const inError = errors.length > 0 ? `(${errors.join(' OR ')})` : 'false';
  const placed = keys.length > 0 ? `${keys[0]} IS NOT NULL` : 'true';
  const counting = bothSql(sure, isLed ? placed : 'true');
  return { counting, inError, value, keys, condition, isUnsure: undecided !== null };
}

/** What one rule takes from the children: how many count, what they come to, how many are in error. */
export function testedSql(
  query: RollUpQuery,
  joins: RouteJoins,
  rule: CompiledRollUp,
  at: number,
): { columns: string; wanted: string } {
  const { binds, rules } = query;
  const { counting, inError, value, keys, condition, isUnsure } = givenSql(
    query,
    joins,
    rule,
    firstIn(rule.sources),
  );
  const isPlaced = keys.length > 0 || rule.aggregate === 'joined';
  // A rule alone leaves the others out in WHERE; among several each has to say which children are its own.
  const isFiltered = counting !== 'true' && (rules.length > 1 || isUnsure || isPlaced);
  const sure = isPlaced && inError !== 'false' ? bothSql(counting, `NOT ${inError}`) : counting;
  const some = rule.aggregate === 'joined' ? bothSql(sure, `${value} IS NOT NULL`) : sure;
  const only = isFiltered || some !== counting ? ` FILTER (WHERE ${some})` : '';
  const member = { value: value ?? '1', keys, id: 'c.id', source: '0' };
  const brought = value
    ? AGGREGATE_SQL[rule.aggregate]({ rule, member, only, binds })
    : rule.recursion
      ? `count(*)${only}`
      : 'NULL::numeric';
  const columns = [
    `${countSql(rule, value ?? '*', only)} AS count${at}`,
    `${inError === 'false' ? '0' : `count(*) FILTER (WHERE ${inError})`} AS errors${at}`,
    `${brought} AS brought${at}`,
    ...(query.withLeader && isKeptByExtremum(rule)
      ? [`${leaderSql(rule, member, some, binds)} AS leader${at}`]
      : []),
  ];
  return { columns: columns.join(', '), wanted: isUnsure ? `(${condition} OR ${inError})` : condition };
}
