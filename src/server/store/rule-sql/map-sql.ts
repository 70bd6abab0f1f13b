import { type CompiledMap, type CompiledRollUp, FAILED, NONE, OTHERWISE } from '@/core/rules';
import { placesOf, type Value } from '@/core/values';
import { errorSql } from './error-sql';
import { expressionSql } from './expression-sql';
import type { Reads } from './sql-reader';
import type { RollUpQuery } from './result-sql';
import type { RouteJoins } from './route-joins';
import { bindType, columnType, quote, reactingRow, type ValuePlaces } from '@/server/store/sql/sql';
import { toColumn } from '@/server/store/sql/columns';

/** Which row of a map holds for a result: its number. */
function rowSql(map: CompiledMap, result: string, binds: ValuePlaces): string {
  const reads: Reads = {
    read: () => result,
    error: () => null,
    gather: () => {
      throw new RangeError('A result has nothing beneath it');
    },
    rate: () => {
      throw new RangeError('A result is compared as it is');
    },
  };
  const cases = map.rows.map(({ test }, at) => `WHEN ${expressionSql(test, reads, binds)} THEN ${at}`);
  return `(CASE ${cases.join(' ')} ELSE ${OTHERWISE} END)`;
}

/** What a map writes at which row of it, bound as values of the target. */
function writesSql({ target }: CompiledRollUp, map: CompiledMap, row: string, binds: ValuePlaces): string[] {
  const bound = (value: Value) => binds.add(toColumn(target.type, value), bindType(target.type));
  return map.rows.map(({ writes }, at) => `WHEN ${row} = ${at} THEN ${bound(writes)}`);
}

/** What a map that keeps its target writes for a result. */
export function mapSql(rule: CompiledRollUp, map: CompiledMap, result: string, binds: ValuePlaces): string {
  if (map.otherwise === 'asItIs')
    throw new RangeError('A rule that reacts writes by what its result was before');
  const otherwise = binds.add(toColumn(rule.target.type, map.otherwise.value), bindType(rule.target.type));
  return `(CASE ${writesSql(rule, map, rowSql(map, result, binds), binds).join(' ')} ELSE ${otherwise} END)`;
}

/** Whether a row of its map is one at which a rule writes something. */
export const asksSql = ({ whenNone }: Pick<CompiledRollUp, 'whenNone'>, row: string): string =>
  `COALESCE(${row} >= 0${whenNone === null ? '' : ` OR ${row} = ${NONE}`}, false)`;

interface ReactionInput {
  readonly query: RollUpQuery;
  readonly joins: RouteJoins;
  readonly rule: CompiledRollUp & { readonly map: CompiledMap };
  readonly at: number;
  readonly whenNone: string;
}

/**
 * A rule that reacts: the row of its map that holds now, the one that held at the end of the last run, and what follows: the core's
 * `isDue`. An error counts where it is new, or where it can't be told whether the rule applies.
 */
export function reactionSql({ query, joins, rule, at, whenNone }: ReactionInput) {
  const { binds, acting = 'onChange' } = query;
  const { map, appliesWhen, writes } = rule;
  // Of a rule that was never live nothing is kept yet.
  const isKnown = query.withKept === true || acting === 'onChange';
  const entered = query.entered?.(writes, binds) ?? null;
  const isOpen = entered === null ? '' : ` AND o.id NOT IN (${entered})`;
  const applies = appliesWhen ? expressionSql(appliesWhen, joins, binds) : 'true';
  const undecided = appliesWhen ? errorSql(appliesWhen, joins, binds) : null;
  const wanted = (row: string) =>
    `(CASE ${writesSql(rule, map, row, binds).join(' ')} WHEN ${row} = ${NONE} THEN ${whenNone} END)`;
  const asks = (row: string) => asksSql(rule, row);
  const [now, was] = [`o.row${at}`, `o.was_row${at}`];
  const isChange = `(NOT ${asks(was)} OR ${wanted(now)} IS DISTINCT FROM ${wanted(was)})`;
  const isDue =
    acting === 'onNone'
      ? 'false'
      : acting === 'onAll'
        ? asks(now)
        : `(${asks(now)} AND ${isChange}${isOpen})`;
  const isFailing = `((${now} = ${FAILED} AND ${was} IS DISTINCT FROM ${FAILED}) OR (${isDue} AND o.undecided${at}))`;
  return {
    first: `${isKnown ? `p.${quote(reactingRow(rule.id, writes.field))}` : 'NULL::integer'} AS was_row${at}, ${applies} AS applies${at}, ${undecided ? `(${undecided} IS NOT NULL)` : 'false'} AS undecided${at}`,
    middle: `CASE WHEN r.failed${at} THEN ${FAILED} WHEN NOT r.there${at} THEN ${NONE} ELSE ${rowSql(map, `r.result${at}`, binds)} END AS row${at}`,
    last: [
      `(CASE WHEN ${isDue} AND o.applies${at} AND NOT o.undecided${at} THEN ${wanted(now)} ELSE o.before${at} END)::${columnType(rule.target.type, placesOf(rule.target.type) ?? 0)} AS after${at}`,
      `${acting === 'onChange' ? `CASE WHEN ${isFailing} THEN 'input_has_problem' END` : 'NULL::text'} AS after_error${at}`,
      ...[`${now}`, `${was}`],
    ],
  };
}
